import createClient from "openapi-fetch";
import createQueries from "openapi-react-query";

import type { components, paths } from "./schema";

type Schemas = components["schemas"];
export type Case = Schemas["CaseOut"];
export type Machine = Schemas["MachineOut"];
export type Build = Schemas["BuildOut"];
export type Part = Schemas["PartOut"];
export type PartRole = Part["role"];
export type Measure = Schemas["MeasureOut"];
export type Workload = Schemas["WorkloadOut"];
export type Sitting = Schemas["SittingOut"];
export type Run = Schemas["RunOut"];
export type RunPicture = Schemas["RunPictureOut"];
export type RunState = Run["state"];
export type Swap = Schemas["SwapOut"];
export type Plan = Schemas["PlanOut"];
export type CostLine = Swap["costs"][number];
export type CostKind = CostLine["kind"];
export type Comparison = Schemas["SpokenOut"];
export type Worded = Schemas["WordedOut"];
export type Reckoning = Schemas["WordedReckoning"];
export type Report = Schemas["Report"];
export type ReportRow = Report["rows"][number];
export type ShelfPart = Schemas["ShelfPartOut"];
export type ShelfPartIn = Schemas["ShelfPartIn"];
export type ReportIn = Schemas["ReportIn"];
export type MadeReport = Omit<Schemas["MadeOut"], "report"> & { report: Report };
export type MeasureResult = Schemas["ResultOut"];
/** What a sentence says of a measure; a whole result says more. */
export type VerdictWord = MeasureResult["verdict"];
export type Removed = Schemas["RemovedOut"];
export type Home = Schemas["HomeOut"];
export type Health = Schemas["HealthOut"];
export type Bench = Schemas["BenchOut"];
export type MachineIn = Schemas["MachineIn"];
export type BuildIn = Schemas["BuildIn"];
export type WorkloadIn = Schemas["WorkloadIn"];
export type PlanIn = Schemas["PlanIn"];
export type SittingIn = Schemas["SittingIn"];
export type RunIn = Schemas["RunIn"];
export type Import = Schemas["ImportOut"];
export type RunsSaved = Schemas["RunsSavedOut"];
export type RunOfBlock = Schemas["RunOfBlockIn"];
export type SwapIn = Schemas["SwapIn"];
export type CandidateIn = Schemas["CandidateIn"];
export type RecheckIn = Schemas["RecheckIn"];
export type SwapPlanIn = Schemas["SwapPlanIn"];
export type TemplateIn = Schemas["TemplateIn"];
export type StepIn = Schemas["StepIn"];
export type RecognitionIn = Schemas["RecognitionIn"];
export type StartIn = Schemas["StartIn"];
export type BenchNoteIn = Schemas["BenchNoteIn"];
export type StageIn = Schemas["StageIn"];
export type Beside = Schemas["BesideOut"];
export type TraceIn = Schemas["TraceIn"];
export type DrawnTrace = Schemas["DrawnTraceOut"];
export type SensorLog = Schemas["LogOut"];
export type LogIn = Schemas["LogIn"];
export type Candidate = Schemas["CandidateOut"];
export type Step = Schemas["StepOut"];
export type Recognition = Schemas["RecognitionOut"];
export type Start = Schemas["StartOut"];
export type BenchNote = Schemas["BenchNoteOut"];
export type Explanation = Schemas["ExplanationOut"];
export type ExplanationIn = Schemas["ExplanationIn"];
export type Job = Schemas["JobOut"];
export type PlanView = Schemas["PlanViewOut"];
export type SwapView = Schemas["SwapViewOut"];
export type Ranked = Schemas["RankedOut"];
export type BeginningIn = Schemas["BeginningIn"];
export type MeasureIn = Schemas["MeasureIn"];
export type Doubt = Schemas["DoubtOut"];
export type WhatIf = Schemas["WhatIfOut"];
export type Lack = Schemas["LackOut"];
export type Figure = Schemas["FigureOut"];
export type Vocabulary = Schemas["VocabularyOut"];
export type Template = Schemas["TemplateOut"];
export type Live = Schemas["LiveOut"];
export type Heat = Schemas["HeatOut"];
export type HeatSide = Schemas["HeatSideOut"];
export type HeatCurve = Schemas["HeatCurveOut"];
export type HeatRole = HeatCurve["role"];
export type Curve = Schemas["CurveOut"];
export type FieldProblem = Schemas["FieldProblem"];
export type SeatingIn = Schemas["SeatingIn"];
export type ColumnsIn = Schemas["ColumnsIn"];

/** The server refused: what it says is for the person at the screen. */
export class Refused extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    detail: string,
    readonly errors: FieldProblem[],
    readonly details: Record<string, unknown> = {},
  ) {
    super(detail);
  }

  /** What stands there now and under which version, where somebody else saved first. */
  get stale(): { version: number; current: Record<string, string> } | null {
    if (this.code !== "stale") return null;
    return this.details as { version: number; current: Record<string, string> };
  }

  /** The message for a field, where the refusal names it. */
  at(field: string): string | undefined {
    return this.errors.find((error) => error.field === field)?.message;
  }
}

/** What a refusal says of each field; nothing where it was none. */
export const refusedAt =
  (error: unknown) =>
  (field: string): string | undefined =>
    error instanceof Refused ? error.at(field) : undefined;

/** The server did not answer, or can't do its work now: the same may be asked again later. */
export class Lost extends Error {
  constructor(why = "The server does not answer. What you typed is kept here and sent when it is back.") {
    super(why);
  }
}

const http = createClient<paths>({ baseUrl: "/" });
http.use({
  async onResponse({ response }) {
    if (response.ok) return;
    const { status } = response;
    const problem = (await response.json().catch(() => null)) as Partial<Schemas["ProblemOut"]> | null;
    if (status >= 500)
      throw new Lost(problem?.detail ?? `The server failed with status ${status} and says no more.`);
    const detail = problem?.detail ?? `The server answered with status ${status}.`;
    throw new Refused(status, problem?.code ?? "http", detail, problem?.errors ?? [], problem?.details);
  },
  onError: () => new Lost(),
});

/** Questions to the server as the query library asks them: their answers have the types of its description. */
export const api = createQueries(http);

/** An answer as the library types it: where a tuple is described, it has a plain list. */
type Untupled<T> = T extends (infer Member)[]
  ? Untupled<Member>[]
  : T extends object
    ? { [Key in keyof T]: Untupled<T[Key]> }
    : T;

/** Gives an answer its tuples back; one that is otherwise not of the type does not pass the type check. */
export const withTuples = <T>(answer: Untupled<T>): T => answer as unknown as T;

type Method = "get" | "post" | "put" | "delete";
type Paths<M extends Method> = { [P in keyof paths]: M extends keyof Offered<P> ? P : never }[keyof paths];
/** What an address can be asked for: the methods that the description leaves out are there as `never`. */
type Offered<P extends keyof paths> = {
  [M in keyof paths[P] as paths[P][M] extends object ? M : never]: paths[P][M];
};
type Operation<P extends keyof paths, M extends Method> = M extends keyof paths[P] ? paths[P][M] : never;
type Ends<O> = O extends { parameters: { path: infer Path } } ? Path : Record<string, never>;
type Query<O> = O extends { parameters: { query?: infer Asked } } ? Asked : never;
/** What is sent along: a body where the description asks for one (a file as it is), then the query. */
type Sent<O> = O extends { requestBody: { content: infer Contents } }
  ? [body: Exclude<Contents[keyof Contents], Record<string, never> | string> | Blob, query?: Query<O>]
  : [body?: undefined, query?: Query<O>];
type Answer<O> = O extends { responses: infer R }
  ? {
      [Status in keyof R & (200 | 201 | 202)]: R[Status] extends {
        content: { "application/json": infer Json };
      }
        ? Json
        : void;
    }[keyof R & (200 | 201 | 202)]
  : never;

/** Asks the server for one thing, or to do one; a refusal, or no answer at all, is thrown. */
export async function call<M extends Method, P extends Paths<M>>(
  method: M,
  path: P,
  ends: Ends<Operation<P, M>>,
  ...[body, query]: Sent<Operation<P, M>>
): Promise<Answer<Operation<P, M>>> {
  const file = body instanceof Blob && {
    bodySerializer: () => body,
    headers: { "Content-Type": body.type },
  };
  // The library's own types can't tell what is sent from a method that is not fixed: those above have.
  const init = { params: { path: ends, query }, body, ...file } as never;
  const { data } = await http.request(method, path as never, init);
  return data as Answer<Operation<P, M>>;
}

/** A file as of a kind, whatever the browser takes it for. */
export const asKind = (file: Blob, type: string): Blob => new Blob([file], { type });

interface LogLine {
  share?: number;
  samples?: number | null;
  problems?: { field: string; message: string }[];
}

/** Takes a log in as the trace of a run; told of each step. To abort it is to have taken in nothing. */
export async function putSensorLog(
  machine_id: string,
  run_id: string,
  body: LogIn,
  signal: AbortSignal,
  onStep: (share: number) => void,
): Promise<void> {
  const { data } = await http.PUT("/api/machines/{machine_id}/traces/{run_id}/log", {
    params: { path: { machine_id, run_id } },
    body,
    signal,
    parseAs: "stream",
  });
  const reader = (data as ReadableStream<BufferSource>).pipeThrough(new TextDecoderStream()).getReader();
  let text = "";
  let isKept = false;
  for (let read = await reader.read(); !read.done; read = await reader.read()) {
    const lines = (text + read.value).split("\n");
    text = lines.pop() ?? "";
    for (const line of lines.map((each) => JSON.parse(each) as LogLine)) {
      if (line.problems) {
        const errors = line.problems.map((each) => ({ ...each, code: "unusable" }));
        throw new Refused(422, "unusable", "This log can’t be read; nothing of it was taken in.", errors);
      }
      isKept ||= typeof line.samples === "number";
      onStep(line.share ?? 0);
    }
  }
  if (!isKept) throw new Lost("The server ended before the log was taken in. Try it once more.");
}

/** The address of a photo by the end that a report names. */
export const photoAddress = (machine: string, end: string) => `/api/machines/${machine}/${end}`;
export const pictureAddress = (machine: string, swap: string, note: string) =>
  photoAddress(machine, `swaps/${swap}/notes/${note}/picture`);
export const runPictureAddress = (machine: string, run: string) =>
  photoAddress(machine, `runs/${run}/picture`);
export const benchJobAddress = (id: string) => `/api/machines/${id}/bench`;
export const dataPackageAddress = (id: string) => `/api/machines/${id}/data-package`;
export const runFileAddress = (id: string) => `/api/machines/${id}/run-file`;
export const eventsAddress = (id: string) => `/api/machines/${id}/events`;

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
export type Plan = Schemas["PlanFile"];
export type CostLine = Swap["costs"][number];
export type CostKind = CostLine["kind"];
export type Comparison = Schemas["SpokenOut"];
export type Said = Schemas["SaidOut"];
export type Reckoning = Schemas["SaidReckoning"];
export type Report = Schemas["Report"];
export type ReportRow = Report["rows"][number];
export type ShelfPart = Schemas["ShelfPartOut"];
export type ShelfPartIn = Schemas["ShelfPartIn"];
export type ReportIn = Schemas["ReportIn"];
export type MadeReport = Omit<Schemas["MadeOut"], "report"> & { report: Report };
export type MeasureResult = Schemas["MeasureResultOut"];
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
export type Foreseen = Schemas["ForeseenOut"];
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

/** What was answered; a refusal, or no answer at all, is thrown before that. */
const take = async <T>(call: Promise<{ data?: T }>): Promise<T> => (await call).data as T;

/** An answer as the library types it: where a tuple is described, it has a plain list. */
type Untupled<T> = T extends (infer Member)[]
  ? Untupled<Member>[]
  : T extends object
    ? { [Key in keyof T]: Untupled<T[Key]> }
    : T;

/** Gives an answer its tuples back; one that is otherwise not of the type does not pass the type check. */
export const withTuples = <T>(answer: Untupled<T>): T => answer as unknown as T;

const machine = (machine_id: string) => ({ params: { path: { machine_id } } });

export const putMachine = (id: string, body: MachineIn) =>
  take(http.PUT("/api/machines/{machine_id}", { ...machine(id), body }));
export const putBeginning = (id: string, body: BeginningIn) =>
  take(http.PUT("/api/machines/{machine_id}/beginning", { ...machine(id), body }));
export const putPlan = (id: string, body: PlanIn) =>
  take(http.PUT("/api/machines/{machine_id}/plan", { ...machine(id), body }));
export const putBuild = (machine_id: string, build_id: string, body: BuildIn) =>
  take(
    http.PUT("/api/machines/{machine_id}/builds/{build_id}", {
      params: { path: { machine_id, build_id } },
      body,
    }),
  );
export const putWorkload = (machine_id: string, workload_id: string, body: WorkloadIn) =>
  take(
    http.PUT("/api/machines/{machine_id}/workloads/{workload_id}", {
      params: { path: { machine_id, workload_id } },
      body,
    }),
  );
export const putSitting = (machine_id: string, sitting_id: string, body: SittingIn) =>
  take(
    http.PUT("/api/machines/{machine_id}/sittings/{sitting_id}", {
      params: { path: { machine_id, sitting_id } },
      body,
    }),
  );
export const putRun = (machine_id: string, run_id: string, body: RunIn) =>
  take(
    http.PUT("/api/machines/{machine_id}/runs/{run_id}", { params: { path: { machine_id, run_id } }, body }),
  );
export const putCopy = (machine_id: string, copy_id: string, name: string) =>
  take(
    http.PUT("/api/machines/{machine_id}/copies/{copy_id}", {
      params: { path: { machine_id, copy_id } },
      body: { name },
    }),
  );
export const postPlanPreview = (machine_id: string, body: Schemas["PlanPreviewIn"]) =>
  take(http.POST("/api/machines/{machine_id}/plan/preview", { ...machine(machine_id), body }));
export const getPlanWithTemplate = (machine_id: string, template_id: string) =>
  take(
    http.GET("/api/machines/{machine_id}/plan/template/{template_id}", {
      params: { path: { machine_id, template_id } },
    }),
  );
export type SeatingIn = Schemas["SeatingIn"];
/** What each part can carry where it sits, and what is asked; nothing is kept. */
export const postSeating = (body: SeatingIn) => take(http.POST("/api/seating", { body }));
export const postAim = (machine_id: string, body: Schemas["AimIn"]) =>
  take(http.POST("/api/machines/{machine_id}/aim", { ...machine(machine_id), body }));
export type ColumnsIn = Schemas["ColumnsIn"];
export const postColumns = (body: ColumnsIn) => take(http.POST("/api/columns", { body }));
export const postRuns = (machine_id: string, runs: RunOfBlock[]) =>
  take(http.POST("/api/machines/{machine_id}/runs", { ...machine(machine_id), body: { runs } }));
export const putLateExclusion = (machine_id: string, run_id: string, body: Schemas["LateExclusionIn"]) =>
  take(
    http.PUT("/api/machines/{machine_id}/runs/{run_id}/late-exclusion", {
      params: { path: { machine_id, run_id } },
      body,
    }),
  );
const ofSwap = (machine_id: string, swap_id: string) => ({ params: { path: { machine_id, swap_id } } });

export const putTemplate = async (template_id: string, body: TemplateIn) =>
  withTuples<Template[]>(
    await take(http.PUT("/api/templates/{template_id}", { params: { path: { template_id } }, body })),
  );

export const deleteTemplate = async (template_id: string) =>
  withTuples<Template[]>(
    await take(http.DELETE("/api/templates/{template_id}", { params: { path: { template_id } } })),
  );

export const postPlanTemplate = (id: string, body: Schemas["UseTemplateIn"]) =>
  take(http.POST("/api/machines/{machine_id}/plan/template", { ...machine(id), body }));

export const putCandidate = (machine_id: string, candidate_id: string, body: CandidateIn) =>
  take(
    http.PUT("/api/machines/{machine_id}/candidates/{candidate_id}", {
      params: { path: { machine_id, candidate_id } },
      body,
    }),
  );

export const deleteCandidate = (machine_id: string, candidate_id: string) =>
  take(
    http.DELETE("/api/machines/{machine_id}/candidates/{candidate_id}", {
      params: { path: { machine_id, candidate_id } },
    }),
  );

export const deleteRun = (machine_id: string, run_id: string) =>
  take(http.DELETE("/api/machines/{machine_id}/runs/{run_id}", { params: { path: { machine_id, run_id } } }));
export const deleteSitting = (machine_id: string, sitting_id: string) =>
  take(
    http.DELETE("/api/machines/{machine_id}/sittings/{sitting_id}", {
      params: { path: { machine_id, sitting_id } },
    }),
  );
export const deleteWorkload = (machine_id: string, workload_id: string) =>
  take(
    http.DELETE("/api/machines/{machine_id}/workloads/{workload_id}", {
      params: { path: { machine_id, workload_id } },
    }),
  );
export const deleteMeasure = (machine_id: string, workload_id: string, measure_id: string) =>
  take(
    http.DELETE("/api/machines/{machine_id}/workloads/{workload_id}/measures/{measure_id}", {
      params: { path: { machine_id, workload_id, measure_id } },
    }),
  );
export const deleteMachine = (machine_id: string, name: string) =>
  take(http.DELETE("/api/machines/{machine_id}", { params: { path: { machine_id }, query: { name } } }));
export const postPairing = (machine_id: string) =>
  take(http.POST("/api/machines/{machine_id}/pairing", machine(machine_id)));
export const putReturn = (machine_id: string) =>
  take(http.PUT("/api/machines/{machine_id}/return", machine(machine_id)));

/** Each with the reason; null takes it back. */
export const putMachineAside = (machine_id: string, reason: string | null) =>
  take(http.PUT("/api/machines/{machine_id}/set-aside", { ...machine(machine_id), body: { reason } }));
export const putCandidateAside = (machine_id: string, candidate_id: string, reason: string | null) =>
  take(
    http.PUT("/api/machines/{machine_id}/candidates/{candidate_id}/set-aside", {
      params: { path: { machine_id, candidate_id } },
      body: { reason },
    }),
  );
export const putWorkloadAside = (machine_id: string, workload_id: string, reason: string | null) =>
  take(
    http.PUT("/api/machines/{machine_id}/workloads/{workload_id}/set-aside", {
      params: { path: { machine_id, workload_id } },
      body: { reason },
    }),
  );
export const putMeasureAside = (
  machine_id: string,
  workload_id: string,
  measure_id: string,
  reason: string | null,
) =>
  take(
    http.PUT("/api/machines/{machine_id}/workloads/{workload_id}/measures/{measure_id}/set-aside", {
      params: { path: { machine_id, workload_id, measure_id } },
      body: { reason },
    }),
  );

export const putRecheck = (machine_id: string, recheck_id: string, body: RecheckIn) =>
  take(
    http.PUT("/api/machines/{machine_id}/rechecks/{recheck_id}", {
      params: { path: { machine_id, recheck_id } },
      body,
    }),
  );

export const deleteSwap = (machine_id: string, swap_id: string) =>
  take(http.DELETE("/api/machines/{machine_id}/swaps/{swap_id}", ofSwap(machine_id, swap_id)));

export const postShown = (machine_id: string, body: Schemas["ShownIn"]) =>
  take(http.POST("/api/machines/{machine_id}/shown", { params: { path: { machine_id } }, body }));

export const postAttempt = (machine_id: string, swap_id: string, body: Schemas["AttemptIn"]) =>
  take(
    http.POST("/api/machines/{machine_id}/swaps/{swap_id}/attempts", {
      ...ofSwap(machine_id, swap_id),
      body,
    }),
  );

const ofSitting = (machine_id: string, sitting_id: string) => ({
  params: { path: { machine_id, sitting_id } },
});

export const closeSitting = (machine_id: string, sitting_id: string) =>
  take(
    http.POST("/api/machines/{machine_id}/sittings/{sitting_id}/close", ofSitting(machine_id, sitting_id)),
  );

export const putSetAside = (machine_id: string, sitting_id: string, reason: string) =>
  take(
    http.PUT("/api/machines/{machine_id}/sittings/{sitting_id}/set-aside", {
      ...ofSitting(machine_id, sitting_id),
      body: { reason },
    }),
  );

export const putSwapPlan = (machine_id: string, swap_id: string, body: SwapPlanIn) =>
  take(http.PUT("/api/machines/{machine_id}/swaps/{swap_id}/plan", { ...ofSwap(machine_id, swap_id), body }));

export const openCase = (machine_id: string, swap_id: string, body: Schemas["OpenCaseIn"]) =>
  take(
    http.POST("/api/machines/{machine_id}/swaps/{swap_id}/open", { ...ofSwap(machine_id, swap_id), body }),
  );

export const closeCase = (machine_id: string, swap_id: string, body: Schemas["CloseCaseIn"]) =>
  take(
    http.POST("/api/machines/{machine_id}/swaps/{swap_id}/close", { ...ofSwap(machine_id, swap_id), body }),
  );

export const reopenCase = (machine_id: string, swap_id: string, body: Schemas["ReopenCaseIn"]) =>
  take(
    http.POST("/api/machines/{machine_id}/swaps/{swap_id}/reopen", { ...ofSwap(machine_id, swap_id), body }),
  );

export const unopenCase = (machine_id: string, swap_id: string, body: Schemas["ReopenCaseIn"]) =>
  take(
    http.POST("/api/machines/{machine_id}/swaps/{swap_id}/unopen", { ...ofSwap(machine_id, swap_id), body }),
  );

export const postLooked = (machine_id: string, swaps: string[]) =>
  take(http.POST("/api/machines/{machine_id}/looked", { ...machine(machine_id), body: { swaps } }));

export const putSwapDay = (machine_id: string, swap_id: string, body: Schemas["SwapDayIn"]) =>
  take(http.PUT("/api/machines/{machine_id}/swaps/{swap_id}/day", { ...ofSwap(machine_id, swap_id), body }));

export const postStepsDone = (machine_id: string, swap_id: string) =>
  take(http.POST("/api/machines/{machine_id}/swaps/{swap_id}/steps/done", ofSwap(machine_id, swap_id)));

export const postAllSeen = (machine_id: string, swap_id: string) =>
  take(
    http.POST(
      "/api/machines/{machine_id}/swaps/{swap_id}/recognitions/as-expected",
      ofSwap(machine_id, swap_id),
    ),
  );

export const splitSwap = (machine_id: string, swap_id: string, body: StageIn) =>
  take(
    http.POST("/api/machines/{machine_id}/swaps/{swap_id}/split", { ...ofSwap(machine_id, swap_id), body }),
  );

export const putStep = (machine_id: string, swap_id: string, step_id: string, body: StepIn) =>
  take(
    http.PUT("/api/machines/{machine_id}/swaps/{swap_id}/steps/{step_id}", {
      params: { path: { machine_id, swap_id, step_id } },
      body,
    }),
  );

export const deleteStep = (machine_id: string, swap_id: string, step_id: string) =>
  take(
    http.DELETE("/api/machines/{machine_id}/swaps/{swap_id}/steps/{step_id}", {
      params: { path: { machine_id, swap_id, step_id } },
    }),
  );

export const putRecognition = (machine_id: string, swap_id: string, line_id: string, body: RecognitionIn) =>
  take(
    http.PUT("/api/machines/{machine_id}/swaps/{swap_id}/recognitions/{line_id}", {
      params: { path: { machine_id, swap_id, line_id } },
      body,
    }),
  );

export const putStart = (machine_id: string, swap_id: string, start_id: string, body: StartIn) =>
  take(
    http.PUT("/api/machines/{machine_id}/swaps/{swap_id}/starts/{start_id}", {
      params: { path: { machine_id, swap_id, start_id } },
      body,
    }),
  );

export const putNote = (machine_id: string, swap_id: string, note_id: string, body: BenchNoteIn) =>
  take(
    http.PUT("/api/machines/{machine_id}/swaps/{swap_id}/notes/{note_id}", {
      params: { path: { machine_id, swap_id, note_id } },
      body,
    }),
  );

export const putExplanation = (
  machine_id: string,
  swap_id: string,
  explanation_id: string,
  body: ExplanationIn,
) =>
  take(
    http.PUT("/api/machines/{machine_id}/swaps/{swap_id}/explanations/{explanation_id}", {
      params: { path: { machine_id, swap_id, explanation_id } },
      body,
    }),
  );

export const deleteExplanation = (machine_id: string, swap_id: string, explanation_id: string) =>
  take(
    http.DELETE("/api/machines/{machine_id}/swaps/{swap_id}/explanations/{explanation_id}", {
      params: { path: { machine_id, swap_id, explanation_id } },
    }),
  );

export const deleteNote = (machine_id: string, swap_id: string, note_id: string) =>
  take(
    http.DELETE("/api/machines/{machine_id}/swaps/{swap_id}/notes/{note_id}", {
      params: { path: { machine_id, swap_id, note_id } },
    }),
  );

export const putPicture = (machine_id: string, swap_id: string, note_id: string, picture: Blob) =>
  take(
    http.PUT("/api/machines/{machine_id}/swaps/{swap_id}/notes/{note_id}/picture", {
      params: { path: { machine_id, swap_id, note_id } },
      body: picture as unknown as string,
      bodySerializer: (body) => body as unknown as Blob,
      headers: { "Content-Type": picture.type },
    }),
  );

export const putRunPicture = (
  machine_id: string,
  run_id: string,
  picture: Blob,
  /** Where the run will stand, if it is not recorded yet. */
  place: { sitting?: string; workload?: string; position?: number } = {},
) =>
  take(
    http.PUT("/api/machines/{machine_id}/runs/{run_id}/picture", {
      params: { path: { machine_id, run_id }, query: place },
      body: picture as unknown as string,
      bodySerializer: (body) => body as unknown as Blob,
      headers: { "Content-Type": picture.type },
    }),
  );

export const putTypedTrace = (machine_id: string, run_id: string, body: TraceIn) =>
  take(
    http.PUT("/api/machines/{machine_id}/traces/{run_id}", {
      params: { path: { machine_id, run_id } },
      body,
    }),
  );

export const postSensorLog = (file: Blob) =>
  take(
    http.POST("/api/sensor-logs", {
      body: file as unknown as string,
      bodySerializer: (body) => body as unknown as Blob,
      headers: { "Content-Type": "text/csv" },
    }),
  );

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

export const getPictures = (machine_id: string, sitting_id: string) =>
  take(
    http.GET("/api/machines/{machine_id}/sittings/{sitting_id}/pictures", {
      params: { path: { machine_id, sitting_id } },
    }),
  );

/** A trace with every sample that was typed of it. */
export const getTrace = (machine_id: string, run_id: string) =>
  take(
    http.GET("/api/machines/{machine_id}/traces/{run_id}", {
      params: { path: { machine_id, run_id }, query: { points: 5000 } },
    }),
  );

export const getJob = (machine_id: string) =>
  take(http.GET("/api/machines/{machine_id}/job", machine(machine_id)));

export const runPictureAddress = (machine: string, run: string) =>
  `/api/machines/${machine}/runs/${run}/picture`;

export const putShelfPart = (part_id: string, body: ShelfPartIn) =>
  take(http.PUT("/api/shelf/{part_id}", { params: { path: { part_id } }, body }));

export const deleteShelfPart = (part_id: string) =>
  take(http.DELETE("/api/shelf/{part_id}", { params: { path: { part_id } } }));

const onShelf = (machine_id: string, swap_id: string, part_id: string) => ({
  params: { path: { machine_id, swap_id, part_id } },
});

export const putOnShelf = (machine: string, swap: string, shelf: string, body: Schemas["PutOnShelfIn"]) =>
  take(
    http.PUT("/api/machines/{machine_id}/swaps/{swap_id}/shelf/{part_id}", {
      ...onShelf(machine, swap, shelf),
      body,
    }),
  );

export const postTaken = (machine: string, swap: string, shelf: string) =>
  take(
    http.POST(
      "/api/machines/{machine_id}/swaps/{swap_id}/shelf/{part_id}/taken",
      onShelf(machine, swap, shelf),
    ),
  );

export const postReportDraft = async (id: string, body: ReportIn) =>
  withTuples<Report>(
    await take(http.POST("/api/machines/{machine_id}/report-draft", { ...machine(id), body })),
  );

export const postReport = async (id: string, body: ReportIn) =>
  withTuples<MadeReport>(
    await take(http.POST("/api/machines/{machine_id}/reports", { ...machine(id), body })),
  );

export const getMadeReport = async (machine_id: string, report_id: string) =>
  withTuples<MadeReport>(
    await take(
      http.GET("/api/machines/{machine_id}/reports/{report_id}", {
        params: { path: { machine_id, report_id } },
      }),
    ),
  );

/** The address of a photo by the end that a report names. */
export const photoAddress = (machine: string, end: string) => `/api/machines/${machine}/${end}`;

export const pictureAddress = (machine: string, swap: string, note: string) =>
  `/api/machines/${machine}/swaps/${swap}/notes/${note}/picture`;

export const putSwap = (machine_id: string, swap_id: string, body: SwapIn) =>
  take(
    http.PUT("/api/machines/{machine_id}/swaps/{swap_id}", {
      params: { path: { machine_id, swap_id } },
      body,
    }),
  );
export const postRunFile = (file: Blob) =>
  take(
    http.POST("/api/run-files", {
      body: file as unknown as Record<string, never>,
      bodySerializer: (body) => body as unknown as Blob,
      headers: { "Content-Type": "application/json" },
    }),
  );
export const postAgentFile = (machine_id: string, file: Blob) =>
  take(
    http.POST("/api/machines/{machine_id}/agent-file", {
      ...machine(machine_id),
      body: file as unknown as Record<string, never>,
      bodySerializer: (body) => body as unknown as Blob,
      headers: { "Content-Type": "application/json" },
    }),
  );
export const benchJobAddress = (id: string) => `/api/machines/${id}/bench`;
const ofImport = (import_id: string) => ({ params: { path: { import_id } } });
export const readImport = (id: string) => take(http.GET("/api/run-files/{import_id}", ofImport(id)));
export const stopImport = (id: string) => take(http.DELETE("/api/run-files/{import_id}", ofImport(id)));
export const dataPackageAddress = (id: string) => `/api/machines/${id}/data-package`;
export const runFileAddress = (id: string) => `/api/machines/${id}/run-file`;
export const eventsAddress = (id: string) => `/api/machines/${id}/events`;

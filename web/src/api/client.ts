import createClient from "openapi-fetch";

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
export type RunState = Run["state"];
export type Swap = Schemas["SwapOut"];
export type Plan = Schemas["PlanFile"];
export type PlannedMeasure = Schemas["PlannedMeasureFile"];
export type CostLine = Swap["costs"][number];
export type CostKind = CostLine["kind"];
export type Comparison = Schemas["ComparisonOut"];
export type MeasureResult = Schemas["MeasureResultOut"];
export type VerdictWord = MeasureResult["verdict"];
export type Bench = Schemas["BenchOut"];
export type Unit = Schemas["UnitOut"];
export type MachineIn = Schemas["MachineIn"];
export type BuildIn = Schemas["BuildIn"];
export type WorkloadIn = Schemas["WorkloadIn"];
export type PlanIn = Schemas["PlanIn"];
export type SittingIn = Schemas["SittingIn"];
export type RunIn = Schemas["RunIn"];
export type SwapIn = Schemas["SwapIn"];
export type FieldProblem = Schemas["FieldProblem"];

/** The server refused: what it says is for the person at the screen. */
export class Refused extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    detail: string,
    readonly errors: FieldProblem[],
  ) {
    super(detail);
  }

  /** The message for a field, where the refusal names it. */
  at(field: string): string | undefined {
    return this.errors.find((error) => error.field === field)?.message;
  }
}

/** The server did not answer at all. */
export class Lost extends Error {
  constructor() {
    super("The server does not answer. What you typed is kept here and sent when it is back.");
  }
}

const http = createClient<paths>({ baseUrl: "/" });

interface Answer {
  data?: unknown;
  error?: unknown;
  response: Response;
}

async function take<T>(call: Promise<Answer>): Promise<T> {
  const answer = await call.catch(() => {
    throw new Lost();
  });
  if (answer.response.ok) return answer.data as T;
  if (answer.response.status >= 500) throw new Lost();
  const problem = answer.error as Partial<Schemas["ProblemOut"]> | undefined;
  const detail = problem?.detail ?? `The server answered with status ${answer.response.status}.`;
  throw new Refused(answer.response.status, problem?.code ?? "http", detail, problem?.errors ?? []);
}

const machine = (machine_id: string) => ({ params: { path: { machine_id } } });

export const listBenches = () => take<Bench[]>(http.GET("/api/machines"));
export const listUnits = () => take<Unit[]>(http.GET("/api/units"));
export const readCase = (id: string) => take<Case>(http.GET("/api/machines/{machine_id}", machine(id)));
export const readComparison = (id: string, before?: string, after?: string) =>
  take<Comparison>(
    http.GET("/api/machines/{machine_id}/comparison", {
      params: { path: { machine_id: id }, query: before && after ? { before, after } : {} },
    }),
  );
export const readComparisons = (id: string) =>
  take<Comparison[]>(http.GET("/api/machines/{machine_id}/comparisons", machine(id)));
export const putMachine = (id: string, body: MachineIn) =>
  take<Case>(http.PUT("/api/machines/{machine_id}", { ...machine(id), body }));
export const putPlan = (id: string, body: PlanIn) =>
  take<Case>(http.PUT("/api/machines/{machine_id}/plan", { ...machine(id), body }));
export const putBuild = (machine_id: string, build_id: string, body: BuildIn) =>
  take<Case>(
    http.PUT("/api/machines/{machine_id}/builds/{build_id}", {
      params: { path: { machine_id, build_id } },
      body,
    }),
  );
export const putWorkload = (machine_id: string, workload_id: string, body: WorkloadIn) =>
  take<Case>(
    http.PUT("/api/machines/{machine_id}/workloads/{workload_id}", {
      params: { path: { machine_id, workload_id } },
      body,
    }),
  );
export const putSitting = (machine_id: string, sitting_id: string, body: SittingIn) =>
  take<Case>(
    http.PUT("/api/machines/{machine_id}/sittings/{sitting_id}", {
      params: { path: { machine_id, sitting_id } },
      body,
    }),
  );
export const putRun = (machine_id: string, run_id: string, body: RunIn) =>
  take<Run>(
    http.PUT("/api/machines/{machine_id}/runs/{run_id}", { params: { path: { machine_id, run_id } }, body }),
  );
export const putSwap = (machine_id: string, swap_id: string, body: SwapIn) =>
  take<Case>(
    http.PUT("/api/machines/{machine_id}/swaps/{swap_id}", {
      params: { path: { machine_id, swap_id } },
      body,
    }),
  );
export const postRunFile = (text: string) =>
  take<Schemas["ImportedOut"]>(
    http.POST("/api/run-files", {
      body: text as unknown as Record<string, never>,
      bodySerializer: (body) => body as unknown as string,
      headers: { "Content-Type": "application/json" },
    }),
  );
export const runFileAddress = (id: string) => `/api/machines/${id}/run-file`;
export const eventsAddress = (id: string) => `/api/machines/${id}/events`;

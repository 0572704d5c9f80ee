import type { Case, Measure, Plan, Run, RunIn, RunState, Sitting, Workload } from "../../api/client";
import { fitDraft } from "../../lib/draft";
import { formatCount } from "../../lib/format";
import { writeNumber } from "../../lib/number";
import { isEmptied, measuresOf, planFor, sittingsOf, swapInto, tally } from "../machine/model";

/** What is typed for one run and not yet saved; `texts` holds only the cells that were touched. */
export interface Entry {
  id: string;
  texts: Record<string, string>;
  state: RunState;
  reason: string;
  /** Set once the row was left: it is to be sent as soon as the server answers. */
  ready: boolean;
}

export type Entries = Record<number, Entry>;

const NO_ENTRY: Entry = { id: "", texts: {}, state: "complete", reason: "", ready: false };

/** Of the entries that a browser kept, those that can be shown: a row that is damaged takes no other with it. */
export function fitEntries(kept: unknown): Entries | null {
  if (typeof kept !== "object" || kept === null) return null;
  const rows = Object.entries(kept).flatMap(([position, entry]) => {
    const fitted = fitDraft(NO_ENTRY, entry);
    return fitted?.id && Number.isInteger(Number(position)) ? [[position, fitted] as const] : [];
  });
  return Object.fromEntries<Entry>(rows);
}

/** A row of the sheet; warm-ups stand before run 1, at the positions 0, −1 and so on. */
export interface Row {
  position: number;
  /** Which warm-up it is, from 1; null for a run that counts. */
  warmUp: number | null;
  run: Run | undefined;
  entry: Entry | undefined;
  state: RunState;
  reason: string;
}

/**
 * The rows of the sheet: the warm-ups, then as many runs as planned, one more than recorded or typed; of a sitting that
 * is closed those that are recorded or typed.
 */
export function sheetRows(
  runs: Run[],
  entries: Entries,
  planned: number,
  warmUps = 0,
  isClosed = false,
): Row[] {
  const warm = Math.max(
    isClosed ? 0 : warmUps,
    ...runs.filter((run) => run.warm_up).map((run) => run.position),
  );
  const recorded = new Map(runs.map((run) => [run.warm_up ? run.position - warm : run.position, run]));
  const last = Math.max(0, ...recorded.keys(), ...Object.keys(entries).map(Number));
  const length = isClosed ? last : Math.max(planned, last + 1);
  return Array.from({ length: warm + length }, (_, index) => {
    const position = index + 1 - warm;
    const run = recorded.get(position);
    const entry = entries[position];
    return {
      position,
      warmUp: position > 0 ? null : position + warm,
      run,
      entry,
      state: entry?.state ?? run?.state ?? "complete",
      reason: entry?.reason ?? run?.reason ?? "",
    };
  });
}

/** How a row is called: "Run 3", "Warm-up 1". */
export const rowName = (row: Row): string =>
  row.warmUp === null ? `Run ${row.position}` : `Warm-up ${row.warmUp}`;

/** What stands in a cell: what was typed, else what is recorded. */
export function cellText(row: Row, measureId: string, mark: "." | ","): string {
  const typed = row.entry?.texts[measureId];
  if (typed !== undefined) return typed;
  const reading = row.run?.readings[measureId];
  if (!reading) return "";
  if (reading.low !== reading.high)
    return `${writeNumber(reading.low, mark)}–${writeNumber(reading.high, mark)}`;
  return writeNumber(reading.low, mark);
}

/** The run as it is sent: typed cells as text, for the server to read; untouched ones as they were recorded. */
export function runBody(
  row: Row,
  entry: Entry,
  sitting: Sitting,
  workload: Workload,
  measures: Measure[],
): RunIn {
  const readings: NonNullable<RunIn["readings"]> = {};
  for (const measure of measures) {
    const typed = entry.texts[measure.id];
    const recorded = row.run?.readings[measure.id];
    if (typed !== undefined) {
      if (typed.trim()) readings[measure.id] = typed;
    } else if (recorded) {
      const { low, high, ...marks } = recorded;
      readings[measure.id] = low === high ? { value: low, ...marks } : { low, high, ...marks };
    }
  }
  return {
    ...noted(row.run),
    sitting: sitting.id,
    workload: workload.id,
    position: row.warmUp ?? row.position,
    warm_up: row.warmUp !== null,
    state: entry.state,
    reason: entry.reason || null,
    readings,
    version: row.run?.version ?? null,
  } as RunIn;
}

/** What a save does not send, or sends in another form than it was answered. */
const OF_THE_RECORD = new Set([
  "id",
  "version",
  "excluded_late",
  "workload_version",
  "readings",
  "written_at",
  "left_out_at",
  "was",
]);

/** What was noted of a run beside its readings goes back as it stands. */
const noted = (run: Run | undefined): Partial<RunIn> =>
  Object.fromEntries(Object.entries(run ?? {}).filter(([name]) => !OF_THE_RECORD.has(name)));

/** Whether an entry holds anything that the record does not. */
export function isEmptyEntry(row: Row, entry: Entry): boolean {
  if (row.run && !isEmptied(row.run)) return false;
  return entry.state === "complete" && Object.values(entry.texts).every((text) => !text.trim());
}

/** The workload to show first: the one that has runs in this sitting, else the first. */
export function chooseWorkload(job: Case, runs: Run[], wanted: string | null): Workload | undefined {
  const measured = new Set(runs.filter((run) => !isEmptied(run)).map((run) => run.workload));
  return (
    job.workloads.find((workload) => workload.id === wanted) ??
    job.workloads.find((workload) => measured.has(workload.name)) ??
    job.workloads[0]
  );
}

/** The first sentence: where the technician is in the plan. */
export function sayPlace(job: Case, runs: Run[], sitting: Sitting, workload: Workload): string {
  const build = job.builds.find((other) => other.id === sitting.build);
  const plan = planFor(job, sitting.build);
  const number = sittingsOf(job, sitting.build).findIndex((other) => other.id === sitting.id) + 1;
  const of = plan.sittings_a_side ? ` of ${Math.max(plan.sittings_a_side, number)}` : "";
  const done = runs.filter((run) => run.workload === workload.name && isCounted(run, job)).length;
  const planned = plan.runs_a_sitting ? ` of ${Math.max(plan.runs_a_sitting, done)}` : "";
  return `Sitting ${number}${of} on build ${build?.letter ?? "?"}: ${done}${planned} runs of ${workload.name}.`;
}

const isCounted = (run: Run, job: Case): boolean =>
  !run.warm_up && run.state === "complete" && measuresOf(job, run.workload).some((m) => run.readings[m.id]);

/** Time left on a timer: "1:05". */
export function sayLeft(milliseconds: number): string {
  const seconds = Math.ceil(milliseconds / 1000);
  return `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, "0")}`;
}

/** What comes after this sitting. */
export function sayNext(job: Case, sitting: Sitting, plan: Plan): string {
  const onBuild = sittingsOf(job, sitting.build);
  const number = onBuild.findIndex((other) => other.id === sitting.id) + 1;
  if (number < onBuild.length) return `An earlier sitting; this build has ${onBuild.length}.`;
  const left = (plan.sittings_a_side ?? 1) - number;
  if (left > 0) {
    return `After this sitting: reboot, then sitting ${number + 1}. ${formatCount(left, "sitting")} to go on this build.`;
  }
  const isFirst = !job.swaps.some((swap) => swap.after === sitting.build);
  return isFirst
    ? "This is the last planned sitting before the swap."
    : "This is the last planned sitting: then Judge.";
}

/** Where to go on once a build is measured as planned and its sitting is closed; null while there is more to measure. */
export function whereNext(job: Case, sitting: Sitting): { text: string; to: string } | null {
  if (sitting.closed_at === null || tally(job, sitting.build).sittings_left > 0) return null;
  return swapInto(job, sitting.build)
    ? { text: "On to Judge", to: "../judge" }
    : { text: "On to the swap", to: "../swap" };
}

import type { Case, Measure, Plan, Run, RunIn, RunState, Sitting, Swap, Workload } from "../../api/client";
import { fitDraft } from "../../lib/draft";
import { formatCount } from "../../lib/format";
import { writeNumber } from "../../lib/number";
import { type Marks, marksOf, type Noted } from "./notes";
import { isEmptied, isOffered, measuresOf, planFor, sittingsOf, swapOf, tally } from "../machine/model";

/** What is typed for one run and not yet saved; `texts` holds only the cells that were touched. */
export interface Entry {
  id: string;
  texts: Record<string, string>;
  state: RunState;
  reason: string;
  /** What was noted beside the figures, and how these were read, where that was said anew. */
  noted: Noted;
  marks: Record<string, Marks>;
  /** Set once the row was left: it is to be sent as soon as the server answers. */
  ready: boolean;
}

export type Entries = Record<number, Entry>;

export const NO_ENTRY: Entry = {
  ...{ id: "", texts: {}, state: "complete", reason: "" },
  ...{ noted: {}, marks: {}, ready: false },
};

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
  /** The run that a photo waits for, whose figure is still to be read off it. */
  photo?: string | undefined;
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
  photos: ReadonlyMap<number, string> = new Map(),
): Row[] {
  const warm = Math.max(
    isClosed ? 0 : warmUps,
    ...runs.filter((run) => run.warm_up).map((run) => run.position),
  );
  const recorded = new Map(runs.map((run) => [run.warm_up ? run.position - warm : run.position, run]));
  const last = Math.max(0, ...recorded.keys(), ...photos.keys(), ...Object.keys(entries).map(Number));
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
      photo: run ? undefined : photos.get(position),
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
  return `${reading.about ? "~" : ""}${writeNumber(reading.low, mark)}`;
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
    // What was said of how it is read stays with a figure that is corrected.
    const said = entry.marks[measure.id] ?? marksOf(recorded);
    if (typed !== undefined) {
      if (typed.trim()) readings[measure.id] = said.statistic || said.source ? { typed, ...said } : typed;
    } else if (recorded) {
      const { low, high, about, confirmed } = recorded;
      const figure = low === high ? { value: low } : { low, high };
      readings[measure.id] = { ...figure, about, confirmed, ...said };
    }
  }
  return {
    ...noted(row.run),
    ...entry.noted,
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
    job.workloads.find(isOffered) ??
    job.workloads[0]
  );
}

/** The first sentence: which run is next, past those that wait for their figure, or that the workload has all of them. */
export function sayPlace(queued: Queued, next: Row | undefined, isOpen: boolean, waiting = 0): string {
  const { workload, done, planned } = queued;
  const made = done > planned ? formatCount(done, "run") : `${done} of ${formatCount(planned, "run")}`;
  if (!isOpen) return `${workload.name}: ${made}, in a closed sitting.`;
  if (done >= planned || !next) return `${workload.name}: all ${planned} runs are there.`;
  if (next.photo) return `${workload.name}: read run ${next.position} off its photo.`;
  return `${workload.name}, run ${done + waiting + 1} of ${planned}`;
}

/** Where the sitting stands in the plan: "Sitting 2 of 3". */
export function saySitting(job: Case, sitting: Sitting): string {
  const planned = planFor(job, sitting.build).sittings_a_side;
  const number = sittingsOf(job, sitting.build).findIndex((other) => other.id === sitting.id) + 1;
  return `Sitting ${number}${planned ? ` of ${Math.max(planned, number)}` : ""}`;
}

const isCounted = (run: Run, job: Case): boolean =>
  !run.warm_up &&
  run.state === "complete" &&
  measuresOf(job, run.workload).some((m) => run.readings[m.id]?.source === null);

/** Time left on a timer: "1:05". */
export function sayLeft(milliseconds: number): string {
  const seconds = Math.ceil(milliseconds / 1000);
  return `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, "0")}`;
}

/** How many runs of a workload a sitting is to have. */
export const runsPlanned = (plan: Plan, workload: Workload): number =>
  plan.runs[workload.name] ?? plan.runs_a_sitting ?? 5;

/** A workload in the queue of a sitting: how many of its planned runs are there, and which gave no figure. */
export interface Queued {
  workload: Workload;
  done: number;
  failed: number;
  planned: number;
}

/** The workloads that were not set aside, and of these those that the plan names or that have runs all the same. */
const askedWorkloads = (job: Case, plan: Plan, runs: Run[]): Workload[] =>
  job.workloads.filter(
    ({ name }) =>
      runs.some((run) => run.workload === name) ||
      measuresOf(job, name).some((measure) => isAsked(measure, plan)),
  );

/** Whether a plan names a measure, or one may be read beside it. */
export const isAsked = (measure: Measure, plan: Plan): boolean =>
  isOffered(measure) || measure.id in plan.measures;

export function queueOf(job: Case, runs: Run[], sitting: Sitting): Queued[] {
  const plan = planFor(job, sitting.build);
  return askedWorkloads(job, plan, runs).map((workload) => {
    const made = runs.filter((run) => run.workload === workload.name && !run.warm_up);
    return {
      workload,
      done: made.filter((run) => isCounted(run, job)).length,
      failed: made.filter((run) => run.state !== "complete").length,
      planned: runsPlanned(plan, workload),
    };
  });
}

/** The workload to go on with after one that is complete; undefined once all are. */
export function nextInQueue(queue: Queued[], after: Workload): Workload | undefined {
  const place = queue.findIndex(({ workload }) => workload.id === after.id);
  const others = [...queue.slice(place + 1), ...queue.slice(0, place)];
  return others.find(({ done, planned }) => done < planned)?.workload;
}

/** Whether somebody read a figure of it: what was only told stands, and is no run of the plan. */
const isMeasured = (run: Run | undefined): boolean =>
  Object.values(run?.readings ?? {}).some(({ source }) => source === null);

/** Whether a row holds, or is about to hold, a run that counts. */
const isRowCounted = ({ warmUp, state, run, entry }: Row): boolean =>
  warmUp === null &&
  state === "complete" &&
  (entry?.ready ? Object.values(entry.texts).some((text) => text.trim()) : isMeasured(run));

/** How many rows count, with the one (if any) that is just being entered. */
export const countedWith = (rows: Row[], position: number | null): number =>
  rows.filter((row) => row.position === position || isRowCounted(row)).length;

const isRowEmpty = ({ run, entry, photo }: Row): boolean =>
  !entry?.ready && (!run || isEmptied(run)) && !photo;

/**
 * The row to be entered next: the one below all that hold something, or the one that is being filled (`held`). One that
 * is being mended stays where it is. Warm-ups may be noted, and are never waited for. Once as many as planned hold
 * something, the figures that photos wait for come next.
 */
export function nextRow(
  rows: Row[],
  held: number | null = null,
  mended: number | null = null,
  planned = Infinity,
): Row | undefined {
  const filling = rows.find(({ position, warmUp }) => position === held && warmUp === null);
  if (filling) return filling;
  const last = rows.findLastIndex(
    (row) => row.warmUp === null && (!isRowEmpty(row) || row.position === mended),
  );
  const following = rows.slice(last + 1).find(({ warmUp }) => warmUp === null);
  const waiting = rows.find(({ photo, entry }) => photo && !entry?.ready);
  return waiting && (following?.position ?? Infinity) > planned ? waiting : following;
}

/** Of the rows, those beside the next one: what stands above it, warm-ups too. */
export const otherRows = (rows: Row[], next: Row | undefined): Row[] =>
  rows.filter(
    (row) => row !== next && (!isRowEmpty(row) || row.entry || row.position < (next?.position ?? 0)),
  );

/** The side that a plan which alternates asks for next, and which sitting of it that is; null once both are complete. */
export function nextSide(
  job: Case,
  swap: Swap | undefined,
): { build: string; number: number } | null | undefined {
  if (!swap || (swap.plan.order !== "alternating" && swap.plan.order !== "abba")) return undefined;
  const { before, after } = swap;
  const counts = new Map(
    [before, after].map((build) => [build, sittingsOf(job, build).filter(isPlanned).length]),
  );
  const held = (counts.get(before) ?? 0) + (counts.get(after) ?? 0);
  const turns = swap.plan.order === "alternating" ? [before, after] : [before, after, after, before];
  if (held >= 2 * (swap.plan.sittings_a_side ?? 1)) return null;
  // A side that was passed over comes before the one whose turn it would be.
  const due = Array.from({ length: held + 1 }, (_, turn) => turns[turn % turns.length] ?? before);
  const isBehind = (side: string) => (counts.get(side) ?? 0) < due.filter((other) => other === side).length;
  const build = [...due].reverse().find(isBehind) ?? before;
  return { build, number: (counts.get(build) ?? 0) + 1 };
}

/** The build that the next sitting is held on, unless told: whose turn it is, else the one that stands. */
export const buildToMeasure = (job: Case, standing: string): string =>
  nextSide(job, swapOf(job, standing))?.build ?? standing;

const isPlanned = (sitting: Sitting): boolean => sitting.purpose === "plan" && sitting.set_aside === null;

/** What comes once a sitting has all its planned runs: another, the swap, or the verdict. */
export type Step =
  { kind: "sitting"; build: string; text: string } | { kind: "station"; to: string; text: string };

export function stepAfter(job: Case, sitting: Sitting): Step {
  const swap = swapOf(job, sitting.build);
  const side = nextSide(job, swap);
  const done = sitting.closed_at === null ? "Sitting done: " : "";
  const letter = (id: string) => job.builds.find((build) => build.id === id)?.letter ?? "?";
  if (side) {
    const change = side.build === sitting.build ? "restart" : `set ${letter(side.build)}, restart`;
    const text = sentenceCase(`${done}${change}, then sitting ${side.number} on ${letter(side.build)}`);
    return { kind: "sitting", build: side.build, text };
  }
  if (side !== null && tally(job, sitting.build).sittings_left > 0) {
    const number = sittingsOf(job, sitting.build).length + 1;
    return {
      kind: "sitting",
      build: sitting.build,
      text: sentenceCase(`${done}restart, then sitting ${number}`),
    };
  }
  return side === null || swap?.after === sitting.build
    ? { kind: "station", to: "../judge", text: "Both sides done: judge" }
    : { kind: "station", to: "../swap", text: "Baseline complete: plan the swap" };
}

const sentenceCase = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);

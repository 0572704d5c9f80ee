import type { Measure, Plan, Run, RunIn, RunState, Sitting, Workload } from "../api/client";
import { fitDraft } from "../lib/draft";
import { writeNumber } from "../lib/number";
import { isEmptied } from "./model";

/** The rows of a run sheet: what is recorded of them, what is typed, and how a row is sent. */

/** What belongs to a run beside its figures, as it is sent; only what was said is there. */
export type Noted = Partial<
  Pick<RunIn, "pair_label" | "held_back" | "duration_s" | "soak_s" | "conditions" | "note">
>;

/** How one figure was read: which statistic it is, and who told it where nobody measured it. */
export type Marks = Pick<Run["readings"][string], "statistic" | "source">;

export const NO_MARKS: Marks = { statistic: null, source: null };

export const marksOf = (reading: Run["readings"][string] | undefined): Marks =>
  reading ? { statistic: reading.statistic, source: reading.source } : NO_MARKS;

/** Of a run what `Noted` holds. */
export const notedOf = ({ pair_label, held_back, duration_s, soak_s, conditions, note }: Run): Noted => ({
  ...{ pair_label, held_back, duration_s, soak_s, conditions, note },
});

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
  /** Begun in a sitting that was closed already: only what is typed there knowingly is sent there. */
  late: boolean;
}

export type Entries = Record<number, Entry>;

export const NO_ENTRY: Entry = {
  ...{ id: "", texts: {}, state: "complete", reason: "" },
  ...{ noted: {}, marks: {}, ready: false, late: false },
};

/** Of the entries that a browser kept, those that can be shown: a row that is damaged takes no other with it. */
export function fitEntries(kept: unknown): Entries | null {
  if (typeof kept !== "object" || kept === null) return null;
  const rows = Object.entries(kept).flatMap(([position, entry]) => {
    const fitted = fitDraft(NO_ENTRY, entry);
    const place = Number(position);
    const isPlace = Number.isInteger(place) && Math.abs(place) <= MOST_ROWS;
    return fitted?.id && isPlace && isWhole(fitted) ? [[position, fitted] as const] : [];
  });
  return Object.fromEntries<Entry>(rows);
}

/** More rows than a sitting has runs: a place beyond them is no row. */
const MOST_ROWS = 8000;
const STATES: readonly string[] = ["complete", "failed", "partial", "spoiled"] satisfies RunState[];

const isWhole = ({ texts, marks, state }: Entry): boolean =>
  STATES.includes(state) &&
  Object.values<unknown>(texts).every((text) => typeof text === "string") &&
  Object.values<unknown>(marks).every((mark) => typeof mark === "object" && mark !== null);

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
    const marks = entry.marks[measure.id] ?? marksOf(recorded);
    if (typed !== undefined) {
      if (typed.trim()) readings[measure.id] = marks.statistic || marks.source ? { typed, ...marks } : typed;
    } else if (recorded) {
      const { low, high, about, confirmed } = recorded;
      const figure = low === high ? { value: low } : { low, high };
      readings[measure.id] = { ...figure, about, confirmed, ...marks };
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

/** What the server says of a run by itself: it is sent with none. */
export const WORDS_OF_RUNS = [
  "excluded_late",
  "written_at",
  "left_out_at",
  "changes",
  "counts_for",
] as const satisfies readonly (keyof Run)[];

/** What a correction does not send, or sends in another form than it was answered. */
const OF_THE_RECORD = new Set<string>([
  ...WORDS_OF_RUNS,
  ...(["id", "version", "workload_version", "parameters", "readings"] satisfies (keyof Run)[]),
]);

/** What was noted of a run beside its readings goes back as it stands. */
const noted = (run: Run | undefined): Partial<RunIn> =>
  Object.fromEntries(Object.entries(run ?? {}).filter(([name]) => !OF_THE_RECORD.has(name)));

/** Whether an entry holds anything that the record does not. */
export function isEmptyEntry(row: Row, entry: Entry): boolean {
  if (row.run && !isEmptied(row.run)) return false;
  return entry.state === "complete" && Object.values(entry.texts).every((text) => !text.trim());
}

/** How many runs of a workload a sitting is to have. */
export const runsPlanned = (plan: Plan, workload: Workload): number =>
  plan.runs[workload.name] ?? plan.runs_a_sitting ?? 5;

/** Whether a row holds, or is about to hold, a run that counts. Of what is saved the server says so. */
const isRowCounted = ({ warmUp, state, run, entry }: Row): boolean =>
  warmUp === null &&
  state === "complete" &&
  (entry?.ready
    ? Object.values(entry.texts).some((text) => text.trim())
    : run !== undefined && run.counts_for.length > 0);

/** How many rows count, with the one (if any) that is just being entered. */
export const countedWith = (rows: Row[], position: number | null): number =>
  rows.filter((row) => row.position === position || isRowCounted(row)).length;

import type { Case, Measure, Plan, Run, Sitting, Swap, Workload } from "../../api/client";
import { formatCount } from "../../lib/format";
import { isEmptied, isOffered, measuresOf, planFor, sittingsOf, swapOf, tally } from "../../job/model";
import { type Row, runsPlanned } from "../../job/rows";

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
  if (done >= planned || !next)
    return planned === 1
      ? `${workload.name}: its run is there.`
      : `${workload.name}: all ${planned} runs are there.`;
  if (next.photo) return `${workload.name}: read run ${next.position} off its photo.`;
  return `${workload.name}, run ${done + waiting + 1} of ${planned}`;
}

/** Where the sitting stands in the plan: "Sitting 2 of 3". */
export function saySitting(job: Case, sitting: Sitting): string {
  const planned = planFor(job, sitting.build).sittings_a_side;
  const number = sittingsOf(job, sitting.build).findIndex((other) => other.id === sitting.id) + 1;
  return `Sitting ${number}${planned ? ` of ${Math.max(planned, number)}` : ""}`;
}

/** How many runs count: for the headline, else for the measure of the plan that has the fewest; else for any at all. */
function doneOf(job: Case, plan: Plan, runs: Run[], workload: string): number {
  const measures = measuresOf(job, workload);
  const judged = measures.filter(({ id }) => plan.measures[id] && plan.measures[id].role !== "watch");
  const headline = judged.filter(({ id }) => id === plan.headline);
  const counts = (headline.length > 0 ? headline : judged).map(
    ({ id }) => runs.filter((run) => run.counts_for.includes(id)).length,
  );
  const any = runs.filter((run) => measures.some(({ id }) => run.counts_for.includes(id))).length;
  return counts.length > 0 ? Math.min(...counts) : any;
}

/** Time left on a timer: "1:05". */
export function sayLeft(milliseconds: number): string {
  const seconds = Math.ceil(milliseconds / 1000);
  return `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, "0")}`;
}

/** A workload in the queue of a sitting: how many of its planned runs are there, and which gave no figure. */
export interface Queued {
  workload: Workload;
  done: number;
  failed: number;
  planned: number;
  /** Rows that are typed and can't be saved as they are; the next workload does not wait for them. */
  refused?: number;
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
      done: doneOf(job, plan, made, workload.name),
      failed: made.filter((run) => run.state !== "complete").length,
      planned: runsPlanned(plan, workload),
    };
  });
}

/** The workload to go on with after one that is complete; undefined once all are. */
export function nextInQueue(queue: Queued[], after: Workload): Workload | undefined {
  const place = queue.findIndex(({ workload }) => workload.id === after.id);
  const others = [...queue.slice(place + 1), ...queue.slice(0, place)];
  return others.find(({ done, planned, refused = 0 }) => done + refused < planned)?.workload;
}

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
export const buildToMeasure = (job: Case, fitted: string): string =>
  nextSide(job, swapOf(job, fitted))?.build ?? fitted;

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

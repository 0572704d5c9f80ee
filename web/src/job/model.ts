import type { Bench, Build, Case, Measure, PartRole, Plan, Run, Sitting, Swap } from "../api/client";

export const PART_ROLES: readonly PartRole[] = [
  "processor",
  "cooler",
  "thermal paste",
  "memory",
  "drive",
  "graphics",
  "board",
  "power supply",
  "adapter",
  "other",
];

/** The build that the machine is now. */
export const fittedBuild = (job: Case): Build | undefined =>
  job.builds.find((build) => build.id === job.fitted);

export const buildOf = (job: Case, id: string): Build | undefined =>
  job.builds.find((build) => build.id === id);

/** The swap that waits to be begun, or whose case is open: the one that is being worked on. */
export const currentSwap = (job: Case): Swap | undefined =>
  job.swaps.find((swap) => swap.state === "open") ?? job.swaps.find((swap) => swap.state === "planned");

export const swapInto = (job: Case, buildId: string): Swap | undefined =>
  job.swaps.findLast((swap) => swap.after === buildId);

/** The swap that a build is measured for: the first that led to it or from it, also where it was flipped back later. */
export const swapOf = (job: Case, buildId: string): Swap | undefined =>
  job.swaps.find((swap) => swap.after === buildId || swap.before === buildId);

/** The plan that a build is measured by: that of the first swap into it, else of the first from it, else the open one. */
export const planFor = (job: Case, buildId: string): Plan => {
  const into = job.swaps.find((swap) => swap.after === buildId);
  const out = job.swaps.find((swap) => swap.before === buildId);
  return (into ?? out)?.plan ?? job.open_plan.plan;
};

export const sittingsOf = (job: Case, buildId: string): Sitting[] =>
  job.sittings.filter((sitting) => sitting.build === buildId);

/** The swaps that led from one build to another, oldest first; those that led to the second where none did. */
export function swapsBetween(job: Case, before: string, after: string): Swap[] {
  const chain: Swap[] = [];
  let build = after;
  while (build !== before) {
    const known = build;
    const into = job.swaps.findLast((swap) => swap.after === known && !chain.includes(swap));
    if (!into) return chain.slice(-1);
    chain.unshift(into);
    build = into.before;
  }
  return chain;
}

/** A row whose entry was taken back: its place is free to be typed anew, and it counts as no run. */
export const isEmptied = (run: Run): boolean =>
  run.state === "complete" && Object.keys(run.readings).length === 0;

export const measuresOf = (job: Case, workload: string): Measure[] =>
  job.measures.filter((measure) => measure.workload === workload);

/** Whether something was not set aside. */
export const isOffered = ({ set_aside }: { set_aside: string | null }): boolean => set_aside === null;

/** The one of some measures that a plan judges by: its headline, else its first claim, else the first that is whole. */
export function leadOf(measures: Measure[], plan: Plan): Measure | undefined {
  const whole = measures.filter(({ part_of }) => part_of === null);
  return (
    whole.find(({ id }) => id === plan.headline) ??
    whole.find(({ id }) => plan.measures[id]?.role === "claim") ??
    whole[0]
  );
}

export const buildName = (build: Build): string => `${build.letter} · ${build.label}`;

/** How often a build was measured, and how many sittings its plan still asks for, as the server counts. */
export const tally = (job: Case, buildId: string): Case["tallies"][string] =>
  job.tallies[buildId] ?? { sittings: 0, runs: 0, sittings_left: 0 };

/** One line that says what a build is made of. */
export const describeParts = (build: Pick<Build, "parts">): string =>
  build.parts
    .filter((part) => ["processor", "memory", "drive"].includes(part.role))
    .map((part) => part.label)
    .join(" · ");

/** Where a job stands: what the server says, and that a re-check is due. */
export type JobState = Case["job_state"] | "recheck";

/** A swap as far as its next step is told by it. */
export type UnderWay = Pick<Swap, "label" | "opens" | "steps" | "recognitions">;

/** What decides what comes next, be it of a whole machine or of its line on the home screen. */
export interface JobNow {
  job_state: Case["job_state"];
  letter: string | null;
  swap: UnderWay | undefined;
  /** What a re-check that is due by now wants to find out. */
  due: string | undefined;
  left: number;
}

type Dated = Pick<Case["rechecks"][number], "done" | "due_on" | "note">;

export const dueRecheck = <T extends Dated>(rechecks: T[], day: string): T | undefined =>
  rechecks.find((recheck) => !recheck.done && recheck.due_on <= day);

/** The state of a machine on a day, such as 2026-05-04. */
export function stateOf(job: Case, day: string): JobNow {
  const build = fittedBuild(job);
  return {
    job_state: job.job_state,
    letter: build?.letter ?? null,
    swap: currentSwap(job),
    due: dueRecheck(job.rechecks, day)?.note,
    left: build ? tally(job, build.id).sittings_left : 0,
  };
}

export function stateOfLine(line: NonNullable<Bench["line"]>, day: string): JobNow {
  return {
    job_state: line.job_state,
    letter: line.fitted?.letter ?? null,
    swap: line.swap ?? undefined,
    due: dueRecheck(line.rechecks, day)?.note,
    left: line.fitted?.sittings_left ?? 0,
  };
}

/** Where the job stands on a day: a re-check that is due comes before measuring, but after a swap under way. */
export const jobStateOn = ({ job_state, due }: JobNow): JobState =>
  due === undefined || ["set up", "planned", "open"].includes(job_state) ? job_state : "recheck";

type Step = { text: string; station: string; done: number };

/** The next thing to do, and the station where it is done. */
export function nextStep(state: JobNow): Step {
  const { left, letter, swap, due } = state;
  const sittings = `${left} more sitting${left === 1 ? "" : "s"} on build ${letter ?? ""}`;
  const steps: Record<JobState, () => Step> = {
    "set up": () => ({
      text: letter === null ? "Describe its parts" : "Say what to measure",
      station: "setup",
      done: 0,
    }),
    baseline: () => ({ text: sittings, station: "measure", done: 1 }),
    swap: () => ({ text: "The baseline is complete: plan the swap", station: "swap", done: 2 }),
    planned: () => ({ text: `Begin the swap: ${swap?.label ?? ""}`, station: "swap", done: 2 }),
    open: () => ({ text: swap ? sayOpenCase(swap) : "", station: "swap", done: 2 }),
    after: () => ({ text: sittings, station: "measure", done: 3 }),
    judged: () => ({ text: "Read the bill, or plan the next swap", station: "bill", done: 5 }),
    recheck: () => ({ text: `Re-check due: ${due || "measure again"}`, station: "measure", done: 4 }),
  };
  return steps[jobStateOn(state)]();
}

/** What comes next while the case is open: the exact step at which it was left. */
export function sayOpenCase(swap: UnderWay): string {
  const failed = swap.recognitions.find((line) => line.result === "fail");
  if (failed) return `Not recognised: ${failed.what}`;
  const step = swap.steps.find((other) => other.done_at === null);
  if (step) {
    const done = swap.steps.filter((other) => other.done_at !== null).length;
    return `Case open, ${done} of ${swap.steps.length} steps done. Next: ${step.text}`;
  }
  const unanswered = swap.recognitions.find((line) => line.result === null && line.seen);
  if (unanswered) return `${unanswered.what}: ${unanswered.seen} seen. Will it do?`;
  const unseen = swap.recognitions.find((line) => line.result === null);
  if (unseen) return swap.opens ? `Look: is the ${unseen.what} seen?` : `Look: ${unseen.what} as expected?`;
  return swap.opens ? "Close the case" : "The change is made: say so";
}

export const today = (): string => new Date().toISOString().slice(0, 10);

import type { Build, Case, Measure, Part, PartRole, Plan, Run, Sitting, Swap } from "../../api/client";

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

export const newestBuild = (job: Case): Build | undefined => job.builds.at(-1);

export const swapInto = (job: Case, buildId: string): Swap | undefined =>
  job.swaps.findLast((swap) => swap.after === buildId);

/** The plan that holds for measuring a build: that of the swap into it, before any swap the open one. */
export const planFor = (job: Case, buildId: string): Plan =>
  swapInto(job, buildId)?.plan ?? job.open_plan.plan;

export const sittingsOf = (job: Case, buildId: string): Sitting[] =>
  job.sittings.filter((sitting) => sitting.build === buildId);

export const runsOf = (job: Case, sittingId: string): Run[] =>
  job.runs.filter((run) => run.sitting === sittingId);

export const measuresOf = (job: Case, workload: string): Measure[] =>
  job.measures.filter((measure) => measure.workload === workload);

export const buildName = (build: Build): string => `${build.letter} · ${build.label}`;

/** How often a build was measured: its sittings that count towards the plan, and all its runs. */
export function tally(job: Case, buildId: string): { sittings: number; runs: number } {
  const sittings = sittingsOf(job, buildId).filter((s) => s.purpose === "plan" || s.purpose === "earlier");
  const ids = new Set(sittings.map((sitting) => sitting.id));
  const counted = job.runs.filter((run) => ids.has(run.sitting) && !run.warm_up);
  const used = new Set(counted.map((run) => run.sitting));
  return { sittings: used.size, runs: counted.length };
}

/** Rated figures as a line of text: "4 cores · 3.2 GHz base". */
export function describeRated(part: Part): string {
  return Object.entries(part.rated)
    .map(([key, value]) => (key === "noted" ? String(value) : describeFigure(key, String(value))))
    .join(" · ");
}

const FIGURES: Record<string, (value: string) => string> = {
  cores: (v) => `${v} cores`,
  threads: (v) => `${v} threads`,
  base_ghz: (v) => `${v} GHz base`,
  boost_ghz: (v) => `${v} GHz boost`,
  power_w: (v) => `${v} W`,
  rated_w: (v) => `for ${v} W`,
  size_gb: (v) => `${v} GB`,
  rate_mts: (v) => `${v} MT/s`,
  link_gts: (v) => `${v} GT/s`,
  lanes: (v) => `${v} lanes`,
  applied: (v) => `applied ${v}`,
};

const describeFigure = (key: string, value: string): string =>
  FIGURES[key]?.(value) ?? `${key.replaceAll("_", " ")} ${value}`;

const SETTING_NAMES: Record<string, string> = {
  power_limit_w: "power limit, W",
  memory_mts: "memory speed, MT/s",
};

export const settingName = (key: string): string => SETTING_NAMES[key] ?? key.replaceAll("_", " ");

/** One line that says what a build is made of. */
export const describeParts = (build: Build): string =>
  build.parts
    .filter((part) => ["processor", "memory", "drive"].includes(part.role))
    .map((part) => part.label)
    .join(" · ");

export type Step = "set up" | "baseline" | "swap" | "after" | "judged";

/** Where the job stands, from what is recorded alone. */
export function jobStep(job: Case): Step {
  const build = newestBuild(job);
  if (!build || job.measures.length === 0) return "set up";
  const wanted = planFor(job, build.id).sittings_a_side ?? 1;
  const enough = tally(job, build.id).sittings >= wanted;
  if (swapInto(job, build.id)) return enough ? "judged" : "after";
  return enough ? "swap" : "baseline";
}

/** The next thing to do, and the station where it is done. */
export function nextStep(job: Case): { text: string; station: string; done: number } {
  const build = newestBuild(job);
  const step = jobStep(job);
  const left = build ? (planFor(job, build.id).sittings_a_side ?? 1) - tally(job, build.id).sittings : 0;
  const sittings = `${left} more sitting${left === 1 ? "" : "s"} on build ${build?.letter ?? ""}`;
  switch (step) {
    case "set up":
      return build
        ? { text: "Say what to measure", station: "setup", done: 0 }
        : { text: "Describe its parts", station: "setup", done: 0 };
    case "baseline":
      return { text: sittings, station: "measure", done: 1 };
    case "swap":
      return { text: "The baseline is complete: record the swap", station: "swap", done: 2 };
    case "after":
      return { text: sittings, station: "measure", done: 3 };
    case "judged":
      return { text: "Read the bill, or plan the next swap", station: "bill", done: 5 };
  }
}

import type { Comparison, Explanation, Measure, MeasureResult, Run, Worded } from "../../api/client";
import { formatTime } from "../../lib/format";
import { isWork } from "../../lib/work";
import type { MachineRecord } from "../../job/api";

export interface Group {
  title: string;
  unit: string;
  measures: Measure[];
}

/** The board's groups: work first, then heat and noise, then what should not move, then what is only watched. */
export function groupMeasures(comparison: Comparison, measures: Measure[]): Group[] {
  const shown = withParts(measures.filter((measure) => comparison.measures[measure.id]));
  const role = (measure: Measure) => comparison.measures[measure.id]?.role;
  const claims = shown.filter((measure) => role(measure) === "claim");
  const isTurning = (m: Measure) => (m.scale === "ratio" && !isWork(m)) || m.kind === "fan";
  const isSensed = (m: Measure) => m.kind === "heat" || m.kind === "noise";
  const rest = claims.filter((m) => !isStep(m) && !isTurning(m) && !(m.scale === "ratio" && isWork(m)));
  const groups: Group[] = [
    { title: "Works or not, and felt", unit: "", measures: claims.filter(isStep) },
    { title: "Work", unit: "%", measures: claims.filter((m) => m.scale === "ratio" && isWork(m)) },
    {
      title: "Power, clocks and fans",
      unit: "%",
      measures: claims.filter(isTurning),
    },
    { title: "Heat and noise", unit: "", measures: rest.filter(isSensed) },
    { title: "Amounts, gauges and other figures", unit: "", measures: rest.filter((m) => !isSensed(m)) },
    { title: "Controls, should not move", unit: "%", measures: shown.filter((m) => role(m) === "control") },
    { title: "Watched, no verdict", unit: "%", measures: shown.filter((m) => role(m) === "watch") },
  ];
  return groups.filter((group) => group.measures.length > 0);
}

const isStep = (measure: Measure): boolean => measure.scale === "outcome" || measure.scale === "ordinal";

/** Every total followed by its parts. */
function withParts(measures: Measure[]): Measure[] {
  const ids = new Set(measures.map((measure) => measure.id));
  const wholes = measures.filter((measure) => !measure.part_of || !ids.has(measure.part_of));
  return wholes.flatMap((whole) => [whole, ...measures.filter((part) => part.part_of === whole.id)]);
}

/** The parts of a total, what moved least or fell first. */
export function partsOf(comparison: Comparison, measures: Measure[], whole: Measure) {
  return measures
    .flatMap((measure) => {
      const result = comparison.measures[measure.id];
      return measure.part_of === whole.id && result && result.estimate !== null ? [{ measure, result }] : [];
    })
    .sort((a, b) => (a.result.estimate ?? 0) - (b.result.estimate ?? 0));
}

/** What was first said of a measure, where that is not what stands here now; with the time zone of the machine. */
export const sayFirstShown = (result: MeasureResult, worded: Worded, zone: string): string | null =>
  worded.first && result.first_shown
    ? `First shown ${formatTime(result.first_shown.at, zone)}: ${worded.first}`
    : null;

/** A run's reading of a measure, or null. */
export function readingOf(run: Run | undefined, measureId: string): number | null {
  const reading = run?.readings[measureId];
  return reading ? (reading.low + reading.high) / 2 : null;
}

/** The dots of a measure: its pairs, and every other run that has a reading. */
export function dotsOf(
  job: Pick<MachineRecord, "runs" | "sittings">,
  comparison: Comparison,
  measure: Measure,
) {
  const result = comparison.measures[measure.id];
  const runs = new Map(job.runs.map((run) => [run.id, run]));
  const sittings = new Map(job.sittings.map((sitting) => [sitting.id, sitting]));
  // Temperatures stand here as the verdict takes them: above the room of their own sitting.
  const valueOf = (run: Run | undefined): number | null => {
    const value = readingOf(run, measure.id);
    if (!run || value === null || !result?.above_room) return value;
    const room = sittings.get(run.sitting)?.ambient_c ?? null;
    return room === null ? null : value - room;
  };
  const pairs = (result?.pairs ?? []).flatMap(([ours, theirs]) => {
    const [before, after] = [valueOf(runs.get(ours)), valueOf(runs.get(theirs))];
    return before === null || after === null ? [] : [{ before, after }];
  });
  const loose = (result?.unpaired ?? []).flatMap(({ run: id }) => {
    const run = runs.get(id);
    const value = valueOf(run);
    if (!run || value === null) return [];
    const isBefore = sittings.get(run.sitting)?.build === comparison.before;
    return [{ side: isBefore ? ("before" as const) : ("after" as const), value }];
  });
  return { pairs, loose };
}

/** Where a run stands: "B 2 run 4" is run 4 of the second sitting on build B. */
export function sayRunPlace(job: MachineRecord, runId: string): string {
  const run = job.runs.find((other) => other.id === runId);
  const sitting = job.sittings.find((other) => other.id === run?.sitting);
  const build = job.builds.find((other) => other.id === sitting?.build);
  const onBuild = job.sittings.filter((other) => other.build === build?.id);
  return `${build?.letter ?? "?"} ${onBuild.findIndex((other) => other.id === sitting?.id) + 1} run ${run?.position ?? "?"}`;
}

type ExplanationState = Explanation["state"];

export const EXPLANATION_STATES: readonly (readonly [ExplanationState, string])[] = [
  ["untested", "suspected, not tested"],
  ["supported", "supported"],
  ["ruled out", "ruled out"],
];

export const explanationDraft = (recorded: Explanation | null) => ({
  version: recorded?.version ?? null,
  text: recorded?.text ?? "",
  state: recorded?.state ?? "untested",
  test: recorded?.test ?? "",
  grounds: recorded?.grounds ?? "",
});

/** A cause in words that follow its state: nothing is a finding before something speaks for it. */
export function sayExplanation({ state, text }: Pick<Explanation, "state" | "text">): string {
  switch (state) {
    case "untested":
      return `Suspected, not tested: ${text}`;
    case "supported":
      return `Supported: ${text}`;
    case "ruled out":
      return `Ruled out: ${text}`;
  }
}

import type {
  Case,
  Comparison,
  Explanation,
  Measure,
  MeasureResult,
  Run,
  Swap,
  VerdictWord,
  Vocabulary,
} from "../../api/client";
import {
  formatCount,
  formatFigure,
  formatList,
  formatNumber,
  formatReading,
  formatSignedPercent,
  formatTime,
  sayStep,
} from "../../lib/format";
import { verdictWord } from "../../ui/Verdict";
import { isWork } from "../../lib/work";
import type { Evidence } from "../machine/api";
import { swapsBetween } from "../machine/model";
import {
  leadMeasure,
  percentDecimals,
  sayAbsolute,
  sayChange,
  sayInterval,
  sayKind,
  sayLevel,
  sayLosses,
  sayMargin,
  sayMeanFigure,
  sayNoLoss,
  sayPassed,
  sayRatio,
  sayRecognition,
  sayVerdict,
} from "../machine/says";

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

export const isStep = (measure: Measure): boolean =>
  measure.scale === "outcome" || measure.scale === "ordinal";

/** Every total followed by its parts. */
function withParts(measures: Measure[]): Measure[] {
  const ids = new Set(measures.map((measure) => measure.id));
  const wholes = measures.filter((measure) => !measure.part_of || !ids.has(measure.part_of));
  return wholes.flatMap((whole) => [whole, ...measures.filter((part) => part.part_of === whole.id)]);
}

/** What is known, in the order in which it is asked for: what got worse, what works now, the headline. */
export interface Known {
  losses: string | null;
  rest: string;
}

export function sayComparison(comparison: Comparison, measures: Measure[]): Known {
  const lead = leadMeasure(comparison, measures);
  const result = lead && comparison.measures[lead.id];
  if (!lead || !result) return { losses: null, rest: "Nothing is measured on these two builds yet." };
  const losses = sayLosses(comparison, measures);
  const works = measures.flatMap((measure) => {
    const found = comparison.measures[measure.id];
    const isNew = measure.id !== lead.id && found?.verdict === "real_gain" && isStep(measure);
    return isNew ? [`${sayVerdict(found, measure)}.`] : [];
  });
  const noLoss = losses === null && sayNoLoss(comparison);
  const sentences = [noLoss, ...works, `${sayVerdict(result, lead)}.`].filter(Boolean);
  return { losses, rest: sentences.join(" ") };
}

/** How many verdicts of each kind there are; null where there is one measure alone. */
export function sayCounts(comparison: Comparison): string | null {
  const results = Object.values(comparison.measures);
  if (results.length < 2) return null;
  const count = (verdict: MeasureResult["verdict"]) =>
    results.filter((result) => result.verdict === verdict).length;
  const parts = [
    count("real_gain") && formatCount(count("real_gain"), "real gain"),
    count("real_loss") && formatCount(count("real_loss"), "loss").replace(/losss$/, "losses"),
    count("no_change") && `${count("no_change")} without change`,
    count("not_settled") && `${count("not_settled")} not settled`,
    count("untested") && `${count("untested")} untested`,
  ].filter((part): part is string => Boolean(part));
  return `In all: ${formatList(parts)}.`;
}

/** Whether what should not move held; null without controls. */
export function sayControls(comparison: Comparison, measures: Measure[]): string | null {
  const controls = measures.filter((measure) => comparison.measures[measure.id]?.role === "control");
  const named = (verdicts: VerdictWord[]) =>
    controls
      .filter((m) => verdicts.includes(comparison.measures[m.id]?.verdict ?? "untested"))
      .map((m) => m.name);
  const [held, moved, open] = [
    named(["no_change"]),
    named(["real_gain", "real_loss"]),
    named(["not_settled", "untested"]),
  ];
  const parts = [
    moved.length > 0 && `${formatList(moved)} moved and should not have`,
    held.length > 0 && `${formatList(held)} held`,
    open.length > 0 && `${formatList(open)} not shown to hold`,
  ].filter((part): part is string => Boolean(part));
  return parts.length ? `Controls: ${parts.join("; ")}.` : null;
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

/** Which look of the plan says it, and what another one could bring; null where there is nothing to say of it. */
export function sayLook(comparison: Comparison, measures: Measure[]): string | null {
  const lead = leadMeasure(comparison, measures);
  const result = lead && comparison.measures[lead.id];
  if (!result || result.verdict === "untested") return null;
  const { planned, first_look: first, second_look: second, attempt } = comparison;
  const again = attempt > 1 ? ` Attempt ${attempt}: every level is halved.` : "";
  if (!planned)
    return `Nothing was planned between these two builds: a stricter rule speaks throughout.${again}`;
  const level = result.level === null ? "" : `, at ${sayLevel(result.level)}`;
  if (result.look === 2) return `The second look of two${level}.${again}`;
  if (result.look === 1 && second !== null) {
    const open =
      result.verdict === "not_settled" ? ` A second one, at ${second} a side, could still settle it.` : "";
    return `The first look of two${level}.${open}${again}`;
  }
  if (result.look === 1) return `The plan’s one look${level}.${again}`;
  const due = first === null ? "" : ` Its first look is due at ${first} a side.`;
  return `Outside the plan’s looks, by a stricter rule.${result.remark === "plan_incomplete" ? due : ""}${again}`;
}

/** The entries of the ledger for a measure of a comparison, oldest first. */
export const showingsOf = (job: Case, comparison: Comparison, measure: Measure) =>
  swapsBetween(job, comparison.before, comparison.after)
    .flatMap((swap) => (swap.after === comparison.after ? (swap.shown ?? []) : []))
    .filter((entry) => {
      const swap = job.swaps.find(({ shown }) => shown?.includes(entry));
      return entry.measure === measure.id && (entry.compared ?? swap?.before) === comparison.before;
    })
    .filter(({ verdict }) => verdict !== "");

/** What was first said of a measure, where that is not what stands here now; with the time zone of the machine. */
export function sayFirstShown(result: MeasureResult, measure: Measure, zone: string): string | null {
  const first = result.first_shown;
  if (!first || !first.verdict || (!result.changed && first.verdict === result.verdict)) return null;
  const figures = { ...result, estimate: first.gain, ci_low: first.low, ci_high: first.high };
  const isRatio = measure.scale === "ratio";
  const percent = (value: number | null) => (value === null || !isRatio ? null : 100 * Math.expm1(value));
  const then = {
    ...figures,
    gain_percent: percent(first.gain),
    gain_low: percent(first.low),
    gain_high: percent(first.high),
    passed_before: null,
    passed_after: null,
  };
  const interval = sayInterval(then, measure);
  const said = `${sayChange(then, measure)}${interval ? ` (${interval})` : ""}, ${verdictWord(first.verdict as VerdictWord).toLowerCase()}`;
  const why = result.changed ? "Readings were changed since" : "More was measured since";
  return `First shown ${formatTime(first.at, zone)}: ${said}. ${why}.`;
}

/** Both readings, which lead: "40.2 → 30.2 s", "5 of 9 passed → 9 of 9". */
export function sayBoth(result: MeasureResult, measure: Measure): string {
  const { before_mean: before, after_mean: after } = result;
  const passed = sayPassed(result, measure);
  if (passed) return passed;
  if (before === null && after === null) return "not measured";
  const unit = result.above_room ? "K" : measure.unit_display;
  if (before === null || after === null) return formatReading(before ?? after ?? 0, unit);
  if (isStep(measure)) return `${sayMeanFigure(before, measure)} → ${sayMeanFigure(after, measure)}`;
  const [first, second] = [formatReading(before, unit), formatReading(after, unit)];
  if (first === second && before !== after) {
    const said = sayStep(before, after, unit);
    return `${said.from} → ${said.to}`;
  }
  // The unit stands once, but for times that are written out.
  const isPlain = second === `${formatFigure(after)} ${unit}` && first === `${formatFigure(before)} ${unit}`;
  return `${isPlain ? formatFigure(before) : first} → ${second}`;
}

/** The change in every form that it may be said in: "1.33× as fast (+33.1 %), 24.9 % less time"; "4.6 K cooler". */
export function sayForms(result: MeasureResult, measure: Measure): string[] {
  if (result.estimate === null || sayPassed(result, measure)) return [];
  const saved = result.time_saved_percent;
  const change = sayChange(result, measure);
  const ratio = sayRatio(result, measure);
  const forms = [ratio === change ? change : `${ratio} (${change})`];
  if (saved !== null) {
    const size = formatNumber(Math.abs(saved), percentDecimals(result));
    forms.push(`the same job takes ${size} % ${saved >= 0 ? "less" : "more"} time`);
  }
  const absolute = sayAbsolute(result, measure);
  return [forms.join(", "), ...(absolute ? [absolute.replace(/, from .*$/, "")] : [])];
}

/** What the comparison rests on. */
export function sayBasis(comparison: Comparison, job: Case): string {
  const results = Object.values(comparison.measures);
  const most = (pick: (result: MeasureResult) => number) => Math.max(0, ...results.map(pick));
  const [before, after] = [most((r) => r.units_before), most((r) => r.units_after)];
  const sides =
    before === after ? `${formatCount(before, "sitting")} a side` : `${before} + ${after} sittings`;
  const ambient = [comparison.before, comparison.after].map((build) => meanAmbient(job, build));
  const [cool, warm] = ambient;
  const rooms =
    cool != null && warm != null ? ` · room ${formatNumber(cool, 1)} → ${formatNumber(warm, 1)} °C` : "";
  return `${sides}${rooms}`;
}

function meanAmbient(job: Case, build: string): number | null {
  const rooms = job.sittings.flatMap((s) => (s.build === build && s.ambient_c !== null ? [s.ambient_c] : []));
  return rooms.length ? rooms.reduce((sum, room) => sum + room, 0) / rooms.length : null;
}

/** A run's reading of a measure, or null. */
export function readingOf(run: Run | undefined, measureId: string): number | null {
  const reading = run?.readings[measureId];
  return reading ? (reading.low + reading.high) / 2 : null;
}

/** The dots of a measure: its pairs, and every other run that has a reading. */
export function dotsOf(job: Pick<Evidence, "runs" | "sittings">, comparison: Comparison, measure: Measure) {
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
export function sayRunPlace(job: Evidence, runId: string): string {
  const run = job.runs.find((other) => other.id === runId);
  const sitting = job.sittings.find((other) => other.id === run?.sitting);
  const build = job.builds.find((other) => other.id === sitting?.build);
  const onBuild = job.sittings.filter((other) => other.build === build?.id);
  return `${build?.letter ?? "?"} ${onBuild.findIndex((other) => other.id === sitting?.id) + 1} run ${run?.position ?? "?"}`;
}

type Remark = NonNullable<MeasureResult["remark"]>;

/** Why the verdict is what it is, in as few words as a row has room for. */
const WHY: Record<Remark, string | null> = {
  small_but_detectable_gain: "a small gain, below what matters",
  small_but_detectable_loss: "a small loss, below what matters",
  may_be_too_small_to_matter: "may be too small to matter",
  too_wide: "in or out of the band: open",
  too_few_sittings: "fewer than 3 sittings a side",
  plan_incomplete: "the plan is not complete",
  added_after_verdict: "added after the last look",
  awaits_second_look: "second look not due yet",
  waits_for_sitting: "one more sitting is needed",
  rests_on_left_out: "other with what was left out",
  rests_on_boots: "restarts were only answered",
  room_unknown: "the room is not known",
  blocked_by_family: "chance, among so many",
  one_run_a_side: "one run a side",
  too_few_runs: "too few runs",
  before_missing: "no before-side",
  after_missing: "no after-side yet",
  not_measured: "not measured",
  watched_only: null,
  workload_version_differs: "other versions",
  parameters_differ: "other parameters",
  target_differs: "other targets",
  statistic_differs: "unlike readings",
  scale_needs_counts: "needs 4 sittings a side",
  pairs_missing: "labels make no pairs",
};

export function sayWhy(result: MeasureResult): string | null {
  if (result.remark === null) return result.provisional ? "one sitting on a side" : null;
  // What was never planned has no plan to be completed.
  if (result.remark === "plan_incomplete" && result.grade === "unplanned")
    return "not planned: more is asked";
  return WHY[result.remark];
}

/** Why the verdict is what it is, and what would help. */
export function sayRemark(result: MeasureResult, measure: Measure): string | null {
  switch (result.remark) {
    case null:
      return result.provisional ? sayProvisional(result, measure) : null;
    case "small_but_detectable_gain":
      return "A small gain can be detected, but it is below what matters.";
    case "small_but_detectable_loss":
      return "A small loss can be detected, but it is below what matters.";
    case "may_be_too_small_to_matter":
      return "The change is real, but its interval reaches into the band: it may be too small to matter.";
    case "too_wide":
      return sayTooWide(result, measure);
    case "too_few_sittings":
      return result.provisional
        ? sayProvisional(result, measure)
        : "Fewer than three sittings a side leave the interval wide. Reboot and measure again, on both sides if you can.";
    case "plan_incomplete":
      if (result.grade === "unplanned")
        return "These two builds were not planned to be compared. A stricter rule speaks of them, which stays right however often one looks; it does not settle this.";
      return "The plan is not complete yet. Until it is, a stricter rule speaks, which stays right however often one looks; it does not settle this.";
    case "added_after_verdict":
      return "Sittings were added beyond the plan’s last look. They speak by a rule that asks for twice the evidence, and there is not that much.";
    case "awaits_second_look":
      return "The first look left it open, and the second is not due yet. Until then a stricter rule speaks, and does not settle it.";
    case "waits_for_sitting":
      return "Something was taken out late, or a sitting was closed short of its planned runs, and what is left is not enough: one more sitting has to make it good.";
    case "rests_on_left_out":
      return "With what was taken out or changed late, or closed short of its planned runs, the verdict is another one than without it. So it is not settled.";
    case "rests_on_boots":
      return "Whether the machine was restarted between sittings was only answered, and the verdict is another one if it was not. So it is not settled.";
    case "room_unknown":
      return `${sayChange(result, measure)}, the room not known: a cooler day would look just the same. Say how warm the room was, and it is judged above it.`;
    case "blocked_by_family":
      return "On its own this would count as real; among so many measures it could be chance.";
    case "one_run_a_side":
      return "One run a side shows a change, never a verdict: it says nothing about chance.";
    case "too_few_runs":
      return "Too few runs: take at least three runs a side, better three sittings.";
    case "before_missing":
      return "Only the after-side is measured; there is nothing to compare with.";
    case "after_missing":
      return "Only the before-side is measured so far.";
    case "not_measured":
      return "Neither side is measured yet.";
    case "watched_only":
      return "Watched only: it gets an interval, no verdict.";
    case "workload_version_differs":
      return "The two sides ran different versions of the workload. Different versions are never compared: measure one side again.";
    case "parameters_differ":
      return "The two sides ran the workload with different parameters. Measure one side again with the same ones.";
    case "target_differs":
      return "The two sides were aimed at different targets. Measure one side again on the right one.";
    case "statistic_differs":
      return "The two sides read different figures: lowest, mean, highest, settled or momentary. Read the same one on both sides, or correct which one a reading was.";
    case "scale_needs_counts":
      return "Steps and outcomes are counted by sittings: two a side at least, four before anything can be called.";
    case "pairs_missing":
      return "This plan pairs by label, and too few inputs carry the same label on both sides.";
  }
}

/** What was waived on the way to the verdict, which stands beside it for ever. */
export function sayWaivers(swaps: Swap[], comparison: Comparison): string[] {
  const gates = swaps.flatMap(({ gate_reason, gate_missing }) =>
    gate_reason
      ? [`Begun before the baseline was complete, because: ${gate_reason}. ${gate_missing.join(" ")}`]
      : [],
  );
  const results = Object.values(comparison.measures);
  const lacksControl = results.length > 0 && results.every(({ role }) => role !== "control");
  return [
    ...gates,
    ...swaps.flatMap(sayRecognition),
    ...(lacksControl ? ["No control: nothing here would show that the machine itself moved."] : []),
  ];
}

/** What speaks against the change for ever: drawbacks noted at the swap, and nuisances of the runs after it. */
export function listDrawbacks(swaps: Swap[], job: Evidence, comparison: Comparison): string[] {
  const noted = swaps.flatMap(({ notes }) =>
    notes.flatMap(({ kind, text }) => (kind === "drawback" && text ? [text] : [])),
  );
  const after = new Set(job.sittings.filter(({ build }) => build === comparison.after).map(({ id }) => id));
  const nuisances = job.runs.flatMap((run) => {
    const nuisance = run.conditions["nuisance"];
    if (!after.has(run.sitting) || typeof nuisance !== "string") return [];
    const step = run.conditions["nuisance_step"];
    return [`${nuisance}${typeof step === "number" ? ` (${step} of 4)` : ""}, ${sayRunPlace(job, run.id)}`];
  });
  return [...noted, ...nuisances];
}

/** How a machine was found when it was opened. */
export const listFound = (swaps: Swap[], scales: Vocabulary["found_steps"]): string[] =>
  swaps.flatMap(({ notes }) =>
    notes.flatMap((note) => (note.step == null ? [] : [`${sayKind(note, scales)} ${note.text}`.trim()])),
  );

const GRADES: Record<NonNullable<MeasureResult["grade"]>, string> = {
  full_plan: "full plan held",
  block_order: "plan held, before then after",
  one_mount: "plan held, one mount a side",
  boots_unknown: "restarts not known",
  margin_changed: "margin changed after readings",
  conditions_differ: "plan held, conditions differ",
  corrected_late: "taken out or corrected late",
  history_unknown: "what was shown before is not known",
  changed_after_verdict: "changed after the verdict",
  unplanned: "not planned",
  early_look: "an early look",
  one_sitting: "one sitting a side",
  one_run: "one run a side",
  told: "told, not measured",
};

/** How good the evidence is, beside the verdict and never instead of it. */
export const sayGrade = (result: MeasureResult): string | null => result.grade && GRADES[result.grade];

/** Rank and permutation figures, and the evidence of an early look; none of them decides. */
export function listCompanions(result: MeasureResult): [string, number | null][] {
  const { companions } = result;
  return [
    ["e-value", result.e_value],
    ["Hodges-Lehmann", companions.hodges_lehmann],
    ["p, Mann-Whitney", companions.mann_whitney_p],
    ["p, Welch", companions.welch_p],
    ["p, sign flips", companions.sign_flip_p],
    ["p, signed ranks", companions.signed_rank_p],
    ["least p, ranks of so few", result.least_rank_p],
  ];
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
  evidence: recorded?.evidence ?? "",
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

/** It may matter or not: said by the interval, for the estimate itself may well lie beyond what matters. */
function sayTooWide(result: MeasureResult, measure: Measure): string {
  const interval = sayInterval(result, measure);
  const span = interval ? `Anything from ${interval} fits the readings, and ` : "";
  return `${span}${sayMargin(result, measure)} is what matters: so it is open whether it does. More sittings narrow it; more runs in the same sitting hardly do.`;
}

function sayProvisional(result: MeasureResult, measure: Measure): string {
  if (result.break_even === null || result.sd === null) {
    return "Provisional: one side has a single sitting, taken to be as steady as the other.";
  }
  const moved = result.break_even * result.sd;
  const size =
    measure.scale === "ratio"
      ? formatSignedPercent(100 * Math.expm1(moved)).replace("+", "")
      : `${formatNumber(moved, 2)} ${measure.difference_display}`;
  const holds =
    result.break_even > 0
      ? `The sides would still differ unless a reboot moves this measure by more than ${formatNumber(result.break_even, 1)} times its scatter (${size}).`
      : "The difference is within the scatter of the runs themselves.";
  return `A reboot alone can move readings, and with one sitting a side that can't be told from the part. ${holds} More runs here won't help; two more sittings a side, with a reboot and three runs each, will.`;
}

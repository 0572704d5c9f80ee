import type {
  BenchNote,
  Case,
  Comparison,
  Foreseen,
  Measure,
  MeasureResult,
  Swap,
  Verdict,
  Vocabulary,
} from "../../api/client";
import {
  decimalsFor,
  formatFigure,
  formatList,
  formatNumber,
  formatSignedPercent,
  sayStep,
  formatMoney,
} from "../../lib/format";
import { isWork } from "../../lib/work";
import { verdictWord } from "../../ui/Verdict";

/** What a result says in words. Figures are rounded by the width of their interval, here and nowhere else. */

/** "5 of 9 passed → 9 of 9", which leads wherever outcomes are shown; of a set whose runs are alike, in each run. */
export function sayPassed(result: Verdict, measure: Pick<Measure, "of">): string | null {
  const { passed_before: before, passed_after: after } = result;
  if (before === null || after === null) return null;
  const tries = measure.of ?? 1;
  const [runsBefore, runsAfter] = [result.runs_before, result.runs_after];
  const isAlike = measure.of !== null && before % runsBefore === 0 && after % runsAfter === 0;
  if (isAlike && runsBefore > 0 && runsAfter > 0)
    return `${before / runsBefore} of ${tries} passed → ${after / runsAfter} of ${tries}`;
  return `${before} of ${runsBefore * tries} passed → ${after} of ${runsAfter * tries}`;
}

/** A mean in its column: whole steps and counts without a fraction that nobody read. */
export const sayMeanFigure = (mean: number, measure: Pick<Measure, "scale">): string =>
  measure.scale === "ordinal" || measure.scale === "outcome"
    ? formatNumber(mean, Number.isInteger(mean) ? 0 : 1)
    : formatFigure(mean);

/** The change of a ratio reading that is not work, in percent of what it was; positive is more of it. */
const percentMore = (oriented: number, measure: Measure): number =>
  100 * Math.expm1(measure.better === "higher" ? oriented : -oriented);

/** The change as a technician says it: "+34.1 %", "20 % less power", "4.6 K hotter", "5 of 9 passed → 9 of 9". */
export function sayChange(result: Verdict, measure: Measure): string {
  if (result.estimate === null) return "–";
  const passed = sayPassed(result, measure);
  if (passed) return passed;
  if (measure.scale === "ratio" && !isWork(measure)) {
    const percent = percentMore(result.estimate, measure);
    return sayMore(percent, formatNumber(Math.abs(percent), moreDecimals(result, measure)), measure);
  }
  if (result.gain_percent !== null) return formatSignedPercent(result.gain_percent, percentDecimals(result));
  const size = formatNumber(Math.abs(result.estimate), decimalsFor(halfWidth(result)));
  return `${inUnits(size, measure)} ${sayDirection(result.estimate, measure)}`;
}

/** A difference with its unit; steps of a scale have no other. */
const inUnits = (size: string, measure: Measure): string =>
  [size, measure.scale === "ordinal" ? "steps" : measure.difference_display].filter(Boolean).join(" ");

function sayDirection(estimate: number, measure: Measure): string {
  const better = estimate >= 0;
  const more = better === (measure.better === "higher");
  switch (measure.kind) {
    case "heat":
      return better ? "cooler" : "hotter";
    case "noise":
      return better ? "quieter" : "louder";
    case "time":
    case "rate":
    case "score":
    case "power":
    case "clock":
    case "felt":
    case "other":
      return better ? "better" : "worse";
    case "fan":
      return more ? "faster fan" : "slower fan";
    case "amount":
      return more ? "more" : "less";
    case "gauge":
    case "rank":
      return more ? "higher" : "lower";
  }
}

const MORE: Record<Measure["kind"], readonly [string, string]> = {
  power: ["less power", "more power"],
  clock: ["lower clock", "higher clock"],
  fan: ["slower fan", "faster fan"],
  heat: ["less", "more"],
  noise: ["less", "more"],
  time: ["less", "more"],
  rate: ["less", "more"],
  score: ["less", "more"],
  amount: ["less", "more"],
  gauge: ["less", "more"],
  rank: ["less", "more"],
  felt: ["less", "more"],
  other: ["less", "more"],
};

/** "20 % less power", "21 % faster fan". */
const sayMore = (percent: number, size: string, measure: Measure): string =>
  `${size} % ${MORE[measure.kind][percent > 0 ? 1 : 0]}`;

/** Both ends of the interval as percent more of the reading, the smaller first. */
function moreEnds(result: Verdict, measure: Measure): [number, number] | null {
  if (result.ci_low === null || result.ci_high === null) return null;
  const [one, other] = [percentMore(result.ci_low, measure), percentMore(result.ci_high, measure)];
  return [Math.min(one, other), Math.max(one, other)];
}

function moreDecimals(result: Verdict, measure: Measure): number {
  const ends = moreEnds(result, measure);
  return ends ? Math.min(2, decimalsFor((ends[1] - ends[0]) / 2)) : 1;
}

/** "12 to 28 % less power", or from less to more where the interval holds both. */
function sayMoreInterval(result: Verdict, measure: Measure): string | null {
  const ends = moreEnds(result, measure);
  if (!ends) return null;
  const decimals = moreDecimals(result, measure);
  const size = (percent: number) => formatNumber(Math.abs(percent), decimals);
  const [low, high] = ends;
  if (low < 0 && high > 0)
    return `${sayMore(low, size(low), measure)} to ${sayMore(high, size(high), measure)}`;
  const [near, far] = low < 0 ? [high, low] : [low, high];
  return `${size(near)} to ${sayMore(far, size(far), measure)}`;
}

/** The level of an interval as it is written, "95 %", "97.5 %"; of none, that of a plan with one look. */
export function sayLevel(level: number | null): string {
  const percent = Math.round(1000 * (level ?? 0.95)) / 10;
  return `${formatNumber(percent, Number.isInteger(percent) ? 0 : 1)} %`;
}

const halfWidth = (result: Verdict): number | null =>
  result.ci_low === null || result.ci_high === null ? null : (result.ci_high - result.ci_low) / 2;

export function percentDecimals(result: Verdict): number {
  if (result.gain_low === null || result.gain_high === null) return 1;
  return Math.min(2, decimalsFor((result.gain_high - result.gain_low) / 2));
}

/** "+30.2 to +38.1 %" or "3.7 to 5.6 K hotter"; null where there is no interval. */
export function sayInterval(result: Verdict, measure: Measure): string | null {
  if (measure.scale === "ratio" && !isWork(measure)) return sayMoreInterval(result, measure);
  if (result.gain_low !== null && result.gain_high !== null) {
    const decimals = percentDecimals(result);
    return `${formatSignedPercent(result.gain_low, decimals).replace(" %", "")} to ${formatSignedPercent(result.gain_high, decimals)}`;
  }
  if (result.ci_low === null || result.ci_high === null) return null;
  const decimals = decimalsFor(halfWidth(result));
  const [low, high] = [result.ci_low, result.ci_high];
  if (low >= 0)
    return `${formatNumber(low, decimals)} to ${inUnits(formatNumber(high, decimals), measure)} ${sayDirection(1, measure)}`;
  if (high <= 0)
    return `${formatNumber(-high, decimals)} to ${inUnits(formatNumber(-low, decimals), measure)} ${sayDirection(-1, measure)}`;
  return `${inUnits(formatNumber(-low, decimals), measure)} ${sayDirection(-1, measure)} to ${inUnits(formatNumber(high, decimals), measure)} ${sayDirection(1, measure)}`;
}

/** "1.34× as fast" for work, the plain change otherwise. */
export function sayRatio(result: Verdict, measure: Measure): string {
  if (result.gain_percent === null || !isWork(measure)) return sayChange(result, measure);
  const times = 1 + result.gain_percent / 100;
  const decimals = Math.abs(result.gain_percent) < 10 ? 3 : 2;
  return `${formatNumber(times, decimals)}× ${measure.kind === "score" ? "the score" : "as fast"}`;
}

/** "matters from ±1.5 %". */
export const sayMargin = (result: MeasureResult, measure: Measure): string =>
  `±${inUnits(formatNumber(result.matters_from, result.matters_from % 1 ? 1 : 0), measure)}`;

/** The measure that the first sentence speaks of. */
export const leadMeasure = (comparison: Comparison, measures: Measure[]): Measure | undefined =>
  measures.find((measure) => measure.id === comparison.lead);

/** What was seen of the parts that went in, as far as it bears on the verdict: remarks, and what was not looked at. */
export function sayRecognition(swap: Swap): string[] {
  if (swap.state !== "closed") return [];
  const remarks = swap.recognitions
    .filter((line) => line.result === "pass with remark")
    .map((line) => `${line.what}: ${line.seen} instead of ${line.expected}; ${line.remark}.`);
  const unseen = swap.recognitions.filter((line) => line.result === null).map((line) => line.what);
  if (unseen.length === 0) return remarks;
  const why = swap.recognition_skipped
    ? `, because: ${swap.recognition_skipped}`
    : ", and no reason was given";
  return [...remarks, `Not looked at: ${unseen.join("; ")}${why}.`];
}

/** What a note tells of, where it is no note of the teardown: "Dust found, 3 of 4: fins half closed". */
export function sayKind(note: Pick<BenchNote, "kind" | "step">, scales: Vocabulary["found_steps"]): string {
  const name = note.kind.charAt(0).toUpperCase() + note.kind.slice(1);
  const scale = scales[note.kind];
  if (note.step == null || !scale) return `${name}:`;
  return `${name}, ${note.step} of ${scale.length}: ${scale[note.step - 1] ?? ""}.`;
}

/** What something cost net; what is not given is not nothing. */
export const sayNet = (net: string | null, currency: string): string =>
  net === null ? "cost not given" : `${formatMoney(net, currency)} net`;

/** Whether a verdict is due that nobody was given yet: it is said on Judge first, and nowhere else before that. */
export const isToBeJudged = (result: Pick<Verdict, "can_be_shown" | "shown">): boolean =>
  result.can_be_shown && !result.shown;

/** A comparison as every screen but Judge may say it: what was not given there yet has no verdict, and no value. */
export function asGiven(comparison: Comparison): Comparison {
  const measures = Object.entries(comparison.measures).map(([id, result]) => [
    id,
    isToBeJudged(result) ? { ...result, verdict: "untested" as const, remark: null } : result,
  ]);
  const lead = comparison.lead === null ? undefined : comparison.measures[comparison.lead];
  const bill = { ...comparison.bill, gain_per_10: null, low: null, high: null, note: "untested" as const };
  return {
    ...comparison,
    measures: Object.fromEntries(measures) as Comparison["measures"],
    bill: lead && isToBeJudged(lead) ? bill : comparison.bill,
  };
}

/** What is known of one measure, on every screen but Judge: a verdict only once it was given there. */
export const sayKnown = (result: Verdict, measure: Measure): string =>
  isToBeJudged(result) ? `${measure.name}: complete, judge it` : sayVerdict(result, measure);

/** What is known of one measure, as a sentence. */
export function sayVerdict(result: Verdict, measure: Measure): string {
  const provisional = result.provisional ? ", provisionally" : "";
  switch (result.verdict) {
    case "real_gain":
      return `${measure.name}: ${sayRatio(result, measure)}, and the gain is real${provisional}`;
    case "real_loss":
      return `${measure.name}: ${sayRatio(result, measure)}, and the loss is real${provisional}`;
    case "no_change":
      return `${measure.name} did not change by an amount that matters${provisional}`;
    case "not_settled":
      return `${measure.name}: ${sayRatio(result, measure)}, but not settled`;
    case "untested":
      return result.estimate === null
        ? `${measure.name} is not measured on both sides yet`
        : `${measure.name}: ${sayRatio(result, measure)} so far, untested`;
  }
}

/** What got worse, said as plainly as what got better. */
export function sayLosses(comparison: Comparison, measures: Measure[]): string | null {
  const losses = measures.flatMap((measure) => {
    const result = comparison.measures[measure.id];
    if (result?.verdict !== "real_loss") return [];
    return [`${measure.name}, ${sayChange(result, measure)}`];
  });
  return losses.length ? `Got worse: ${losses.join("; ")}.` : null;
}

/** That nothing got worse, where something was judged: the line of losses always stands. */
export function sayNoLoss(comparison: Comparison): string | null {
  const results = Object.values(comparison.measures);
  const isJudged = results.some(({ verdict }) => verdict === "real_gain" || verdict === "no_change");
  if (!isJudged || results.some(({ verdict }) => verdict === "real_loss")) return null;
  const open = results.filter(({ verdict }) => verdict === "not_settled").length;
  return `Nothing was shown to get worse${open ? `; ${open} not settled` : ""}.`;
}

/** The change in the measure's own unit beside its percent: "10.9 s less, from 42.1 to 31.2 s". */
export function sayAbsolute(result: MeasureResult, measure: Measure): string | null {
  const { before_mean: before, after_mean: after } = result;
  if (result.gain_percent === null || before === null || after === null || before === after) return null;
  const said = sayStep(before, after, measure.unit_display);
  return `${said.size} ${after < before ? "less" : "more"}, from ${said.from} to ${said.to}`;
}

/** What the gain belongs to where more than one thing was changed: it can't be credited to one of them. */
export function sayBundle(comparison: Pick<Comparison, "changes">): string | null {
  if (comparison.changes.length < 2) return null;
  return `Changed together: ${formatList(comparison.changes)}.`;
}

/** "Tile rendering, B → C: real gain becomes not settled." What leaving something out would do, before it is done. */
export function sayForeseen(job: Pick<Case, "builds" | "measures">, foreseen: Foreseen[]): string {
  if (foreseen.length === 0) return "No verdict would change.";
  const letter = (id: string) => job.builds.find((build) => build.id === id)?.letter ?? "?";
  const said = foreseen.map(({ before, after, measure, now, then }) => {
    const name = job.measures.find((other) => other.id === measure)?.name ?? "A measure";
    const words = `${verdictWord(now)} becomes ${verdictWord(then)}`.toLowerCase();
    return `${name}, ${letter(before)} → ${letter(after)}: ${words}.`;
  });
  return `This would change ${said.length === 1 ? "a verdict" : `${said.length} verdicts`}. ${said.join(" ")}`;
}

import type { Comparison, Measure, MeasureResult } from "../../api/client";
import { decimalsFor, formatList, formatNumber, formatSignedPercent } from "../../lib/format";

/** What a result says in words. Figures are rounded by the width of their interval, here and nowhere else. */

/** The change as a technician says it: "+34.1 %", "4.6 K hotter", "0.3 dB(A) louder". */
export function sayChange(result: MeasureResult, measure: Measure): string {
  if (result.estimate === null) return "–";
  if (result.gain_percent !== null) return formatSignedPercent(result.gain_percent, percentDecimals(result));
  const size = formatNumber(Math.abs(result.estimate), decimalsFor(halfWidth(result)));
  return `${size} ${measure.unit_display} ${sayDirection(result.estimate, measure)}`;
}

function sayDirection(estimate: number, measure: Measure): string {
  const better = estimate >= 0;
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
    case "fan":
    case "other":
      return better ? "better" : "worse";
  }
}

const halfWidth = (result: MeasureResult): number | null =>
  result.ci_low === null || result.ci_high === null ? null : (result.ci_high - result.ci_low) / 2;

export function percentDecimals(result: MeasureResult): number {
  if (result.gain_low === null || result.gain_high === null) return 1;
  return Math.min(2, decimalsFor((result.gain_high - result.gain_low) / 2));
}

/** "+30.2 to +38.1 %" or "3.7 to 5.6 K hotter"; null where there is no interval. */
export function sayInterval(result: MeasureResult, measure: Measure): string | null {
  if (result.gain_low !== null && result.gain_high !== null) {
    const decimals = percentDecimals(result);
    return `${formatSignedPercent(result.gain_low, decimals).replace(" %", "")} to ${formatSignedPercent(result.gain_high, decimals)}`;
  }
  if (result.ci_low === null || result.ci_high === null) return null;
  const decimals = decimalsFor(halfWidth(result));
  const [low, high] = [result.ci_low, result.ci_high];
  if (low >= 0)
    return `${formatNumber(low, decimals)} to ${formatNumber(high, decimals)} ${measure.unit_display} ${sayDirection(1, measure)}`;
  if (high <= 0)
    return `${formatNumber(-high, decimals)} to ${formatNumber(-low, decimals)} ${measure.unit_display} ${sayDirection(-1, measure)}`;
  return `${formatNumber(-low, decimals)} ${measure.unit_display} ${sayDirection(-1, measure)} to ${formatNumber(high, decimals)} ${measure.unit_display} ${sayDirection(1, measure)}`;
}

/** "1.34× as fast" for a ratio, the plain change otherwise. */
export function sayRatio(result: MeasureResult, measure: Measure): string {
  if (result.gain_percent === null) return sayChange(result, measure);
  const times = 1 + result.gain_percent / 100;
  const decimals = Math.abs(result.gain_percent) < 10 ? 3 : 2;
  const word = measure.kind === "time" || measure.kind === "rate" ? "as fast" : "of what it was";
  return `${formatNumber(times, decimals)}× ${word}`;
}

/** "matters from ±1.5 %". */
export const sayMargin = (result: MeasureResult, measure: Measure): string =>
  `±${formatNumber(result.matters_from, result.matters_from % 1 ? 1 : 0)} ${measure.scale === "ratio" ? "%" : measure.unit_display}`;

/** The measure that the first sentence speaks of: the headline, else the first claim. */
export function leadMeasure(
  comparison: Comparison,
  measures: Measure[],
  headline: string | null,
): Measure | undefined {
  const present = measures.filter((measure) => comparison.measures[measure.id]);
  return (
    present.find((measure) => measure.id === headline) ??
    present.find((measure) => comparison.measures[measure.id]?.role === "claim") ??
    present[0]
  );
}

/** What is known of one measure, as a sentence. */
export function sayVerdict(result: MeasureResult, measure: Measure): string {
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

/** What the gain belongs to where more than one thing was changed: it can't be credited to one of them. */
export function sayBundle(comparison: Comparison): string | null {
  if (comparison.changes.length < 2) return null;
  return `Changed together: ${formatList(comparison.changes)}.`;
}

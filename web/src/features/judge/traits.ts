import type { Comparison, Measure } from "../../api/client";
import { formatFigure, formatList } from "../../lib/format";

export type Trend = Comparison["trends"][number];

/** "In 5 of 6 pairs of jobs the one with more photos gained more." */
export function sayTrend({ trait, rising, falling }: Trend): string {
  const pairs = rising + falling;
  if (pairs === 0) return `The jobs gained alike, whatever their ${trait}.`;
  if (rising === falling)
    return `The gain does not follow ${trait}: of ${pairs} pairs of jobs, half rise with it and half fall.`;
  const [count, word] = rising > falling ? [rising, "more"] : [falling, "less"];
  const which =
    count === pairs
      ? pairs === 1
        ? "In the only pair"
        : `In all ${pairs} pairs`
      : `In ${count} of ${pairs} pairs`;
  return `${which} of jobs the one with more ${trait} gained ${word}.`;
}

/** Why it is no rule: too few jobs, or another trait that goes along with this one; null where neither holds. */
export function sayDoubt({ points, few, moves_with }: Trend): string | null {
  const reasons = [
    few && `${points.length} jobs are few; it takes twelve to tell a trend from chance`,
    moves_with.length > 0 && `${formatList(moves_with)} moves with it and may be what counts`,
  ].filter((reason): reason is string => Boolean(reason));
  return reasons.length ? `A suggestion only: ${reasons.join(", and ")}.` : null;
}

/** A trend's points in percent, with the name of the measure and its interval. */
export function pointsOf(trend: Trend, comparison: Comparison, measures: Measure[]) {
  return trend.points.map(({ measure, value, estimate }) => {
    const result = comparison.measures[measure];
    return {
      name: measures.find((other) => other.id === measure)?.name ?? measure,
      value,
      gain: 100 * Math.expm1(estimate),
      low: result?.gain_low ?? null,
      high: result?.gain_high ?? null,
    };
  });
}

/** What the picture shows, for those who can't see it. */
export const describePoints = (trend: Trend, comparison: Comparison, measures: Measure[]): string =>
  pointsOf(trend, comparison, measures)
    .map(({ name, value, gain }) => `${name}: ${formatFigure(value)} ${trend.trait}, ${formatFigure(gain)} %`)
    .join("; ");

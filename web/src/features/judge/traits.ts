import type { Comparison, Measure } from "../../api/client";

export type Trend = Comparison["trends"][number];

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

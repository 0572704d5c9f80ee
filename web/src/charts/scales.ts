import { scaleLinear, scaleSymlog } from "d3-scale";

import type { Measure, MeasureResult } from "../api/client";
import { isWork } from "../lib/work";

/** One result on the axis of its group: percent for ratios, the unit otherwise; right is better. */
export interface Span {
  estimate: number;
  low: number | null;
  high: number | null;
  margin: [number, number];
}

export function spanOf(result: MeasureResult, measure: Measure): Span | null {
  if (result.estimate === null) return null;
  if (measure.scale === "ratio" && !isWork(measure)) {
    // Percent of what it was, as the words beside it say; right is better here too.
    const sign = measure.better === "higher" ? 1 : -1;
    const percent = (oriented: number) => sign * 100 * Math.expm1(sign * oriented);
    return {
      estimate: percent(result.estimate),
      low: result.ci_low === null ? null : percent(result.ci_low),
      high: result.ci_high === null ? null : percent(result.ci_high),
      margin: [percent(-result.bound), percent(result.bound)],
    };
  }
  if (result.gain_percent !== null) {
    const band: [number, number] = [100 * Math.expm1(-result.bound), 100 * Math.expm1(result.bound)];
    return { estimate: result.gain_percent, low: result.gain_low, high: result.gain_high, margin: band };
  }
  return {
    estimate: result.estimate,
    low: result.ci_low,
    high: result.ci_high,
    margin: [-result.bound, result.bound],
  };
}

const WIDEST = 400;
const TICKS = [-300, -200, -100, -50, -20, -10, -5, -2, -1, 0, 1, 2, 5, 10, 20, 50, 100, 200, 300];

export interface Axis {
  place: (value: number) => number;
  ticks: number[];
}

/** The axis that a group of results shares. Small changes get room beside large ones; far ends are clamped. */
export function sharedAxis(spans: Span[], width: number): Axis {
  const ends = spans.flatMap((span) => [span.estimate, span.low ?? 0, span.high ?? 0, ...span.margin]);
  const reach = (sign: 1 | -1) => Math.min(WIDEST, 1.15 * Math.max(...ends.map((end) => sign * end), 0.5));
  const [left, right] = [reach(-1), reach(1)];
  const wide = Math.max(left, right) > 15;
  const scale = wide ? scaleSymlog().constant(4) : scaleLinear();
  scale
    .domain([-left, right])
    .range([6, width - 6])
    .clamp(true);
  const place = (value: number) => scale(value);
  return { place, ticks: spreadTicks(place, left, right) };
}

/** Zero first, then ticks outward wherever a label has room. */
function spreadTicks(place: (value: number) => number, left: number, right: number): number[] {
  const room = 30;
  const chosen = [0];
  const outward = TICKS.filter((tick) => tick !== 0 && tick > -left && tick < right).sort(
    (a, b) => Math.abs(b) - Math.abs(a),
  );
  for (const tick of outward) {
    if (chosen.every((other) => Math.abs(place(other) - place(tick)) >= room)) chosen.push(tick);
  }
  return chosen.sort((a, b) => a - b);
}

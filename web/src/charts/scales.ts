import { scaleLinear, scaleSymlog } from "d3-scale";

import type { Worded } from "../api/client";

/** A result on the axis of its group, as the server drew it: percent for ratios, the unit otherwise; right is better. */
export type Span = NonNullable<Worded["drawn"]>;

const WIDEST = 400;
const TICKS = [-300, -200, -100, -50, -20, -10, -5, -2, -1, 0, 1, 2, 5, 10, 20, 50, 100, 200, 300];

export interface Axis {
  place: (value: number) => number;
  ticks: number[];
}

/** The axis that a group of results shares. Small changes get room beside large ones; far ends are clamped. */
export function sharedAxis(spans: Span[], width: number): Axis {
  const ends = spans.flatMap((span) => [
    span.estimate,
    span.low ?? 0,
    span.high ?? 0,
    span.margin_low,
    span.margin_high,
  ]);
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

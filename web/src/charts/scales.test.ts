import { describe, expect, it } from "vitest";

import type { Measure, MeasureResult } from "../api/client";
import { sharedAxis, spanOf } from "./scales";

const span = (estimate: number, low: number, high: number) => ({
  estimate,
  low,
  high,
  margin: [-2, 2] as [number, number],
});

describe("the axis that a group shares", () => {
  it("keeps order, so that right is better", () => {
    const { place } = sharedAxis([span(34, 30, 38), span(0.4, -0.9, 1.8)], 216);
    const placed = [-2, 0, 2, 30, 34, 38].map(place);
    expect(placed).toEqual([...placed].sort((a, b) => a - b));
  });
  it("holds every end, and clamps what lies far outside", () => {
    const { place } = sharedAxis([span(5, -1e9, 1e9)], 216);
    for (const end of [-1e9, 5, 1e9]) {
      expect(place(end)).toBeGreaterThanOrEqual(0);
      expect(place(end)).toBeLessThanOrEqual(216);
    }
  });
  it("has zero among its ticks, and room between their labels", () => {
    const { place, ticks } = sharedAxis([span(34, 30, 38), span(-8, -12, -4)], 216);
    expect(ticks).toContain(0);
    const gaps = ticks.slice(1).map((tick, index) => place(tick) - place(ticks[index] ?? 0));
    expect(Math.min(...gaps)).toBeGreaterThanOrEqual(30);
  });
});

describe("a result on its axis", () => {
  const tiles = { kind: "time", scale: "ratio", better: "lower" } as Measure;
  it("stands at the percent that is said of it where it is not work", () => {
    const power = { ...tiles, kind: "power" } as Measure;
    const drawn = spanOf({ ...result, estimate: Math.log(100 / 80), ci_low: null, ci_high: null }, power);
    expect(drawn?.estimate).toBeCloseTo(20, 12);
    const fan = { ...power, kind: "fan", better: "higher" } as Measure;
    expect(spanOf({ ...result, estimate: Math.log(0.8) }, fan)?.estimate).toBeCloseTo(-20, 12);
  });
  const result = {
    estimate: Math.log(1.34),
    gain_percent: 34,
    gain_low: 30,
    gain_high: 38,
    bound: Math.log(1.015),
    ci_low: 0.26,
    ci_high: 0.32,
  } as MeasureResult;
  it("stands in percent for a ratio, with the band in percent too", () => {
    const found = spanOf(result, tiles);
    expect(found).toMatchObject({ estimate: 34, low: 30, high: 38 });
    expect(found?.margin[1]).toBeCloseTo(1.5);
  });
  it("stands in the unit otherwise", () => {
    expect(
      spanOf({ ...result, gain_percent: null, estimate: -4.6, ci_low: -5.6, ci_high: -3.7, bound: 1 }, tiles),
    ).toEqual({ estimate: -4.6, low: -5.6, high: -3.7, margin: [-1, 1] });
  });
  it("is absent without an estimate", () => {
    expect(spanOf({ ...result, estimate: null }, tiles)).toBeNull();
  });
});

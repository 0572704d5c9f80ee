import { describe, expect, it } from "vitest";

import { sharedAxis } from "./scales";

const span = (estimate: number, low: number, high: number) => ({
  estimate,
  low,
  high,
  margin_low: -2,
  margin_high: 2,
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
  it("gives small changes room beside large ones, and is even where all are small", () => {
    const beside = sharedAxis([span(34, 30, 38)], 216).place;
    expect((beside(4) - beside(0)) / (beside(34) - beside(30))).toBeGreaterThan(3);
    const small = sharedAxis([span(4, 2, 6)], 216).place;
    expect(small(4) - small(2)).toBeCloseTo(small(2) - small(0));
  });
  it("has zero among its ticks, and room between their labels", () => {
    const { place, ticks } = sharedAxis([span(34, 30, 38), span(-8, -12, -4)], 216);
    expect(ticks).toContain(0);
    const gaps = ticks.slice(1).map((tick, index) => place(tick) - place(ticks[index] ?? 0));
    expect(Math.min(...gaps)).toBeGreaterThanOrEqual(30);
  });
});

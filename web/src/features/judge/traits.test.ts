import { expect, it } from "vitest";

import type { Comparison, Measure } from "../../api/client";
import { pointsOf, type Trend } from "./traits";

it("draws a trend in percent by the names of its jobs, with their intervals where there are any", () => {
  const trend = {
    points: [
      { measure: "t", value: 4, estimate: Math.log(1.5) },
      { measure: "gone", value: 8, estimate: 0 },
    ],
  } as unknown as Trend;
  const comparison = { measures: { t: { gain_low: 40, gain_high: 61 } } } as unknown as Comparison;
  const [first, second] = pointsOf(trend, comparison, [{ id: "t", name: "Tiles" } as Measure]);
  expect(first).toMatchObject({ name: "Tiles", value: 4, low: 40, high: 61 });
  expect(first?.gain).toBeCloseTo(50);
  expect(second).toEqual({ name: "gone", value: 8, gain: 0, low: null, high: null });
});

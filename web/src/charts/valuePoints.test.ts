import { describe, expect, it } from "vitest";

import { valuePoints } from "./valuePoints";

describe("the picture of ways to spend money", () => {
  it("draws what has a cost and a gain, and doing nothing is no point of it", () => {
    const option = (kind: string, id: string, point: object | null) => ({ kind, id, label: id, point });
    const point = { cost: 10, cost_low: 8, cost_high: 12, gain: 5, low: null, high: null };
    const drawn = valuePoints([
      option("nothing", "n", point),
      option("swap", "s", point),
      option("candidate", "c", null),
    ] as unknown as Parameters<typeof valuePoints>[0]);
    expect(drawn.map(({ id, costLow }) => [id, costLow])).toEqual([["s", 8]]);
  });
});

import { describe, expect, it } from "vitest";

import type { Heat, HeatCurve } from "../api/client";
import { lengthOf, levelAt, meanWithin, panelsOf, pathOf, sayLevels } from "./heat";

const curve = (
  levels: (number | null)[],
  role: HeatCurve["role"] = "temperature",
  unit = "K",
): HeatCurve => ({
  role,
  unit,
  at: levels.map((_, place) => 60 * place),
  lows: levels,
  highs: levels,
});

const side = (levels: number[]) => ({
  build: "b",
  letter: "A",
  runs: [
    {
      run: "r",
      sitting: 1,
      settled: true,
      curves: [curve(levels), curve([3600, 3590, 3580], "clock", "MHz")],
    },
  ],
  means: [curve(levels), curve([3600, 3590, 3580], "clock", "MHz")],
  equilibrium: null,
  held: [],
});

const heat: Heat = {
  workload: "w",
  workloads: ["w"],
  above_room: true,
  same_s: 120,
  sides: [side([0, 30, 40]), side([0, 25, 35])],
  said: {
    sentence: "",
    beneath: "",
    rows: [],
    unit: "K above the room",
    held_before: "",
    held_after: "",
    minute: "2",
  },
  window: null,
  shown: false,
};

describe("heat laid over each other", () => {
  it("has a panel for each channel that is told, one under the other", () => {
    const panels = panelsOf(heat, 10);
    expect(panels.map(({ role }) => role)).toEqual(["temperature", "clock"]);
    expect(panels[1]?.top).toBeGreaterThan(panels[0]?.bottom ?? 0);
    expect(lengthOf(heat)).toBe(120);
  });

  it("does not blow a steady clock up to the whole height", () => {
    const clock = panelsOf(heat, 0)[1];
    expect((clock?.high ?? 0) - (clock?.low ?? 0)).toBeGreaterThan(500);
  });

  it("reads both sides between samples, and nothing outside or over a gap", () => {
    expect(levelAt(curve([0, 30, 40]), 90)).toBe(35);
    expect(levelAt(curve([0, 30, 40]), 121)).toBeNull();
    expect(levelAt(curve([0, null, 40]), 90)).toBeNull();
    expect(levelAt(undefined, 0)).toBeNull();
    expect(heat.sides.map((one) => sayLevels(one, 60))).toEqual(["30.0 K, 3590 MHz", "25.0 K, 3590 MHz"]);
  });

  it("means a window of samples", () => {
    expect(meanWithin(curve([0, 30, 40]), 60, 120)).toBe(35);
    expect(meanWithin(curve([0, 30, 40]), 61, 100)).toBeNull();
  });

  it("breaks a path at gaps", () => {
    const itself = (value: number) => value;
    expect(pathOf(curve([1, null, 3]), itself, itself)).toBe("M0.0 1.0M120.0 3.0");
  });
});

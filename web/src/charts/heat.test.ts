import { describe, expect, it } from "vitest";

import type { Heat, HeatCurve } from "../api/client";
import { lengthOf, levelAt, meanWithin, panelsOf, pathOf, sayLevels, sayMinute } from "./heat";

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
  worded: {
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

describe("the panels of heat", () => {
  it("are named by what they show, and say whether runs or means are drawn", () => {
    expect(panelsOf(heat, 0).map(({ title }) => title)).toEqual([
      "K above the room, every run; thick: mean of its side",
      "clock, MHz",
    ]);
    const [first, second] = heat.sides.map((one) => ({ ...one, runs: [] }));
    const means = { ...heat, sides: [first!, second!] } as Heat;
    expect(panelsOf(means, 0)[0]?.title).toBe("K above the room, mean of each side");
    const half = { ...heat, sides: [heat.sides[0], second!] } as Heat;
    expect(panelsOf(half, 0)[0]?.title).toContain("every run");
  });
  it("begin at zero where a temperature comes near it, and else leave room on both ends", () => {
    const range = (...levels: number[]) => {
      const only = { ...side(levels), runs: [] };
      const [panel] = panelsOf({ ...heat, sides: [only, only] }, 0);
      return [panel?.low, panel?.high];
    };
    expect(range(10, 100)).toEqual([0, 105.4]);
    expect(range(60, 70)).toEqual([60 - 0.6, 70 + 0.6]);
    expect(range(50, 50)).toEqual([46.25, 53.75]);
    expect(range(0, 100)).toEqual([-6, 106]);
  });
  it("tell minutes as an axis does", () => {
    expect([60, 90, 480].map(sayMinute)).toEqual(["1", "1.5", "8"]);
  });
  it("take the mean of a window from its own samples alone", () => {
    expect(meanWithin(curve([10, 20, 60]), 60, 120)).toBe(40);
    expect(meanWithin(curve([10, null, 60]), 60, 60)).toBeNull();
    expect(meanWithin(undefined, 0, 60)).toBeNull();
  });
});

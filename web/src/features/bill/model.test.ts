import { describe, expect, it } from "vitest";

import type { Case, Comparison, Measure, MeasureResult, Swap } from "../../api/client";
import { claimsOf, sayBetterValue, sayMakeup, sayNotDrawn, valuePoints } from "./model";

const tiles = { id: "t", name: "Tiles", kind: "time", scale: "ratio", difference_display: "%" } as Measure;
const soak = { id: "s", name: "Soak", kind: "heat", scale: "difference", difference_display: "K" } as Measure;
const job = { measures: [tiles, soak], swaps: [] as Swap[] } as unknown as Case;
const swap = { id: "x", label: "Processor", net_cost: "94.90" } as Swap;
const faster = {
  ...{ estimate: 0.29, gain_percent: 34, gain_low: 33, gain_high: 35, time_saved_percent: 25.4 },
  ...{ ci_low: 0.28, ci_high: 0.3, passed_before: null, verdict: "real_gain", provisional: false },
} as unknown as MeasureResult;
const cooler = {
  ...{ estimate: 2.8, gain_percent: null, gain_low: null, gain_high: null, time_saved_percent: null },
  ...{ ci_low: 2.2, ci_high: 3.4, passed_before: null, verdict: "real_gain", provisional: false },
} as unknown as MeasureResult;

type Parts = Partial<Omit<Comparison, "bill">> & { bill?: Partial<Comparison["bill"]> };

const comparison = ({ bill, ...rest }: Parts = {}): Comparison =>
  ({
    lead: "t",
    measures: { t: faster },
    overall: { basis: "sittings", gain_percent: 26.8, low: 24.1, high: 29.5, measures: ["t"] },
    bill: { net_cost: "94.90", currency: "EUR", gain_per_10: 3.58, low: 3.1, high: 4.0, note: null, ...bill },
    said: { measures: { t: { ratio: "1.34× as fast" }, s: { ratio: "2.80 K cooler" } } },
    ...rest,
  }) as unknown as Comparison;
it("lists claims alone, what got worse first", () => {
  const results = {
    t: { ...faster, role: "claim" },
    s: { ...cooler, role: "claim", verdict: "real_loss" },
  } as unknown as Comparison["measures"];
  const listed = (measures: Comparison["measures"]) =>
    claimsOf(job, comparison({ measures })).map(({ measure }) => measure.id);
  expect(listed(results)).toEqual(["s", "t"]);
  expect(listed({ ...results, s: { ...cooler, role: "control" } })).toEqual(["t"]);
});

describe("the value chart", () => {
  const at = (parts: Parts, fields: Partial<Swap> = {}) => ({
    job: { ...job, swaps: [{ ...swap, ...fields }] },
    all: [comparison(parts)],
  });
  it("draws the headline with its own verdict", () => {
    const { job: one, all } = at({ measures: { t: { ...faster, verdict: "not_settled" } } });
    expect(valuePoints(one, all)).toMatchObject([{ cost: 94.9, gain: 34, low: 33, verdict: "not_settled" }]);
    expect(sayNotDrawn(one, all)).toBeNull();
  });
  it("draws nothing whose cost is not given, and says so", () => {
    const { job: one, all } = at({}, { net_cost: null });
    expect(valuePoints(one, all)).toEqual([]);
    expect(sayNotDrawn(one, all)).toBe("Not in the picture: “Processor”, cost not given.");
    const heat = at({ lead: "s", measures: { s: cooler } });
    expect(sayNotDrawn(heat.job, heat.all)).toContain("judged by Soak");
  });
});

describe("value against the other swaps", () => {
  const ladder = { swaps: [{ before: "B", after: "C", label: "Memory" }] } as unknown as Case;
  const against = (better: Partial<Comparison["better_value"][number]>) =>
    sayBetterValue(ladder, {
      better_value: [{ before: "B", after: "C", probability: null, winner: null, note: null, ...better }],
    } as unknown as Comparison)[0];
  it("names the better one only from 95 % on", () => {
    expect(against({ probability: 0.97, winner: "first" })).toBe("Better value than “Memory”, 97 % sure.");
    expect(against({ probability: 0.0001, winner: "second" })).toBe(
      "Worse value than “Memory”, more than 99.9 % sure.",
    );
    expect(against({ probability: 0.63 })).toContain("not settled which was better value: 63 % for this one");
  });
  it("says why two swaps can't be weighed", () => {
    expect(against({ note: "no_costs" })).toContain("cost of one of them is not given");
    expect(against({ note: "plan_incomplete" })).toContain("not complete");
    expect(against({ note: "no_gain" })).toContain("no real gain");
  });
});

describe("the overall gain", () => {
  it("names every claim with its own gain and weight, and nothing else", () => {
    const work = {
      measures: [
        { id: "t", name: "Tiles", kind: "time" },
        { id: "p", name: "Packing", kind: "rate" },
        { id: "n", name: "Noise", kind: "noise" },
      ],
    };
    const measured = {
      ...comparison(),
      overall: { measures: ["t", "p"] },
      said: { measures: { t: { change: "+34.8 %" }, p: { change: "−1.2 %" }, n: { change: "+5 %" } } },
    } as unknown as Comparison;
    const planned = {
      label: "Processor",
      plan: { measures: { t: { weight: 3 }, p: { weight: 1 } } },
    } as unknown as Swap;
    expect(sayMakeup(work as unknown as Case, planned, measured)).toBe(
      "It is the weighted geometric mean of Tiles +34.8 % (weight 3) and Packing −1.2 % (weight 1); heat and noise stay out of it.",
    );
  });
});

import { describe, expect, it } from "vitest";

import type { Case, Comparison, Swap } from "../../api/client";
import { overallVerdict, sayBetterValue, sayBill, sayMakeup, sayPerTen } from "./model";

const swap = { label: "Processor" } as Swap;
const comparison = (
  bill: Partial<Comparison["bill"]>,
  overall: Partial<Comparison["overall"]> = {},
): Comparison =>
  ({
    overall: { gain_percent: 26.8, low: 24.5, high: 29.1, measures: ["t"], ...overall },
    bill: {
      net_cost: "94.90",
      currency: "EUR",
      gain_per_10: 2.83,
      low: 2.56,
      high: 3.03,
      note: null,
      ...bill,
    },
  }) as Comparison;

describe("the bill's first sentence", () => {
  it("gives gain, cost and value", () => {
    expect(sayBill(swap, comparison({}))).toBe(
      "Processor bought +26.8 % for 94.90 EUR net: 2.83 % per 10 EUR.",
    );
  });
  it("leads with the plain pair where the cost is tiny", () => {
    expect(sayBill(swap, comparison({ net_cost: "0.10" }))).toBe("Processor bought +26.8 % for 0.10 EUR.");
  });
  it("divides nothing by a swap that pays for itself", () => {
    expect(
      sayBill(swap, comparison({ net_cost: "-5.00", gain_per_10: null, note: "pays_for_itself" })),
    ).toContain("pays for itself");
  });
  it("claims no gain that is not settled", () => {
    const open = comparison(
      { gain_per_10: null, low: null, high: 0.6, note: "not_settled_at_most" },
      { low: -1, high: 3 },
    );
    expect(sayBill(swap, open)).toContain("not settled");
    expect(sayPerTen(open)).toBe("at most 0.60 %");
    expect(overallVerdict(open)).toBe("not_settled");
  });
  it("waits for the plan", () => {
    expect(sayBill(swap, comparison({ gain_per_10: null, note: "plan_incomplete" }))).toContain(
      "not complete",
    );
    expect(overallVerdict(comparison({}, { low: null, high: null }))).toBe("untested");
  });
});

describe("value against the other swaps", () => {
  const job = { swaps: [{ before: "B", after: "C", label: "Memory" }] } as unknown as Case;
  const say = (better: Partial<Comparison["better_value"][number]>) =>
    sayBetterValue(job, {
      better_value: [{ before: "B", after: "C", probability: null, winner: null, note: null, ...better }],
    } as unknown as Comparison)[0];
  it("names the better one only from 95 % on", () => {
    expect(say({ probability: 0.97, winner: "first" })).toBe("Better value than “Memory”, 97 % sure.");
    expect(say({ probability: 0.0001, winner: "second" })).toBe(
      "Worse value than “Memory”, more than 99.9 % sure.",
    );
    expect(say({ probability: 0.63 })).toContain("not settled which was better value: 63 % for this one");
  });
  it("says why two swaps can't be weighed", () => {
    expect(say({ note: "no_costs" })).toContain("no cost noted");
    expect(say({ note: "plan_incomplete" })).toContain("not complete");
  });
});

describe("what the overall gain is made of", () => {
  const gain = (gain_percent: number, gain_low: number, gain_high: number) => ({
    ...{ estimate: 0.1, passed_before: null, passed_after: null },
    ...{ gain_percent, gain_low, gain_high },
  });
  it("names every claim with its own gain and weight, and nothing else", () => {
    const job = {
      measures: [
        { id: "t", name: "Tiles" },
        { id: "p", name: "Packing" },
        { id: "n", name: "Noise" },
      ],
    };
    const measured = {
      ...comparison({}, { measures: ["t", "p"] }),
      measures: { t: gain(34.8, 33.3, 36.3), p: gain(-1.2, -2.4, 0), n: gain(5, 4, 6) },
    } as unknown as Comparison;
    const planned = { label: "Processor", plan: { measures: { t: { weight: 3 } } } } as unknown as Swap;
    expect(sayMakeup(job as unknown as Case, planned, measured)).toBe(
      "Overall is the weighted geometric mean of Tiles +34.8 % (weight 3) and Packing −1.2 % (weight 1); heat and noise stay out of it.",
    );
  });
});

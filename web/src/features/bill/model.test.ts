import { describe, expect, it } from "vitest";

import type { Comparison, Swap } from "../../api/client";
import { overallVerdict, sayBill, sayPerTen } from "./model";

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

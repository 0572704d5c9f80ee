import { describe, expect, it } from "vitest";

import type { Machine, Swap } from "../../api/client";
import { readMoney } from "../../lib/money";
import { type CostDraft, costBody, costDrafts, emptyCost, offersOf } from "./costs";

describe("cost lines", () => {
  it("read amounts by the machine's decimal mark, and hand on what is none", () => {
    expect(readMoney("1,240.50", ".")).toBe("1240.50");
    expect(readMoney("1.240,50", ",")).toBe("1240.50");
    expect(readMoney("a lot", ".")).toBe("a lot");
  });
  it("leave untouched lines out", () => {
    const lines = [emptyCost("part", "EUR"), { ...emptyCost("resale", "EUR"), amount: "52" }];
    expect(costBody(lines, ".")).toMatchObject([
      { kind: "resale", label: "resale", amount: "52", low: null, rate: null },
    ]);
    expect(costBody([emptyCost("labour", "EUR", "35.00")], ".")).toEqual([]);
  });
  it("come back as they were sent", () => {
    const draft: CostDraft = {
      ...emptyCost("electricity", "EUR"),
      label: "Mapping",
      amount: "0,32",
      by: "jobs",
      aDay: "12,5",
      before: "40",
      after: "36,5",
      split: "by hand",
      shares: { a: "1,5", b: "2" },
    };
    const [line] = costBody([draft], ",");
    expect(line).toMatchObject({
      amount: "0.32",
      running: { by: "jobs", a_day: 12.5, before: 40, after: 36.5, power: null },
      shares: { a: "1.5", b: "2" },
    });
    const [again] = costDrafts({ costs: [line] } as unknown as Swap, ",");
    expect({ ...again, key: draft.key }).toEqual(draft);
  });
  it("take power from its measures alone where these are named, and no shares of what is split no more", () => {
    const draft: CostDraft = {
      ...emptyCost("electricity", "EUR"),
      ...{ label: "Mapping", amount: "0.32", by: "jobs", aDay: "12", before: "40", after: "36" },
      ...{ power: "watts", time: "seconds", shares: { a: "1", b: "2" } },
    };
    const [line] = costBody([draft], ".");
    expect(line).toMatchObject({
      running: { before: null, after: null, power: "watts", time: "seconds" },
      split_by: null,
    });
    expect(line?.shares).toEqual({});
    expect(costBody([{ ...draft, by: "hours" }], ".")[0]?.running?.time).toBeNull();
  });
  it("name a worth only of what was not paid, and then no amount", () => {
    const part = { ...emptyCost("part", "EUR"), label: "Marl", worth: "49" };
    expect(costBody([{ ...part, amount: "10" }], ".")[0]).toMatchObject({ worth: null, amount: "10" });
    expect(costBody([{ ...part, basis: "gift" }], ".")[0]).toMatchObject({ worth: "49", amount: "0.00" });
  });
  it("are offered from the record of the swap, once", () => {
    const machine = { currency: "EUR", labour_rate: "35.00", decimal_mark: "." } as Machine;
    const swap = {
      starts: [{ rework_min: 20 }, { rework_min: 15 }],
      opened_at: "2026-05-04T09:00:00Z",
      closed_at: "2026-05-06T21:00:00Z",
    } as Swap;
    const offers = offersOf(swap, [], machine, { at_hand_a_side: 45, unattended_a_side: 60 });
    expect(offers.map((offer) => offer.text)).toEqual([
      "Take over 35 min of rework",
      "Take over 2.5 days out of use",
      "Take over 90 min at hand for measuring",
      "Take over 120 min of waiting while it measured",
    ]);
    expect(costBody([offers[0]!.draft], ".")[0]).toMatchObject({
      kind: "rework",
      quantity: "0.5833",
      amount: "35.00",
    });
    expect(
      offersOf(
        swap,
        offers.map(({ draft }) => draft),
        machine,
        { at_hand_a_side: 45, unattended_a_side: 60 },
      ),
    ).toEqual([]);
  });
});

import { describe, expect, it } from "vitest";

import type { Machine, Swap } from "../../api/client";
import { readMoney } from "../../lib/money";
import {
  type CostDraft,
  costBody,
  costDrafts,
  costField,
  emptyCost,
  isHourly,
  isUnpaid,
  offersOf,
} from "./costs";

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
      by: "tasks",
      aDay: "12,5",
      before: "40",
      after: "36,5",
      split: "by hand",
      shares: { a: "1,5", b: "2" },
    };
    const [line] = costBody([draft], ",");
    expect(line).toMatchObject({
      amount: "0.32",
      running: { by: "tasks", a_day: 12.5, before: 40, after: 36.5, power: null },
      shares: { a: "1.5", b: "2" },
    });
    const [again] = costDrafts({ costs: [line] } as unknown as Swap, ",");
    expect({ ...again, key: draft.key }).toEqual(draft);
  });
  it("take power from its measures alone where these are named, and no shares of what is split no more", () => {
    const draft: CostDraft = {
      ...emptyCost("electricity", "EUR"),
      ...{ label: "Mapping", amount: "0.32", by: "tasks", aDay: "12", before: "40", after: "36" },
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
      "Take over 60 min of waiting while it measured",
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

describe("a cost line that was just added", () => {
  it("has the unit, the rate and the hours of its kind", () => {
    const { unit, amount, by, kind, currency, daysAYear } = emptyCost("labour", "EUR", "35.00");
    expect([kind, currency, unit, amount, by, daysAYear]).toEqual(["labour", "EUR", "h", "35.00", "", "250"]);
    expect(emptyCost("part", "EUR", "35.00")).toMatchObject({ unit: "", amount: "", by: "", split: "" });
    expect(emptyCost("downtime", "EUR").unit).toBe("days");
    expect(emptyCost("electricity", "EUR").by).toBe("hours");
    const hourly = (["labour", "waiting", "rework", "measuring", "part", "downtime"] as const).filter(
      isHourly,
    );
    expect(hourly).toEqual(["labour", "waiting", "rework", "measuring"]);
    expect((["drawer", "gift", "new", ""] as const).map((basis) => isUnpaid({ basis }))).toEqual([
      ...[true, true, false, false],
    ]);
  });
  it("is sent once something of it was typed, under its kind where it has no name", () => {
    const hours = emptyCost("labour", "EUR", "35.00");
    expect(costBody([{ ...hours, quantity: "0.5" }], ".")).toMatchObject([
      { label: "labour", quantity: "0.5", unit: "h" },
    ]);
    expect(costBody([{ ...emptyCost("part", "EUR"), label: " Varro " }], ".")[0]).toMatchObject({
      ...{ label: "Varro", amount: "", unit: "", on: null, rate_date: null, split_by: null, running: null },
    });
    const dated = {
      ...emptyCost("part", " usd "),
      label: "x",
      on: "2026-05-04",
      rateDate: "2026-05-03",
      low: "1",
    };
    expect(costBody([{ ...dated, by: "hours", supplier: " us " }], ".")[0]).toMatchObject({
      ...{
        on: "2026-05-04",
        rate_date: "2026-05-03",
        currency: "USD",
        low: "1",
        supplier: "us",
        running: null,
      },
    });
  });
  it("finds its field in a refusal by its place among those that were sent", () => {
    const lines = [emptyCost("part", "EUR"), { ...emptyCost("resale", "EUR"), amount: "52" }];
    expect(costField(lines, lines[1]!.key, "amount")).toBe("costs.0.amount");
    expect(costField(lines, lines[1]!.key, "")).toBe("costs.0");
  });
  it("is offered for hands where the case was open for less than a day", () => {
    const machine = { currency: "EUR", labour_rate: "35.00", decimal_mark: "," } as Machine;
    const swap = { starts: [], opened_at: "2026-05-04T09:00:00Z", closed_at: "2026-05-04T10:30:00Z" };
    const offers = offersOf(swap as unknown as Swap, [], machine, {
      at_hand_a_side: 0,
      unattended_a_side: null,
    });
    expect(offers.map(({ text }) => text)).toEqual(["Take over 90 min with the case open"]);
    expect(offers[0]?.draft).toMatchObject({
      kind: "labour",
      label: "Labour",
      quantity: "1,5",
      amount: "35,00",
    });
    expect(offersOf({ ...swap, closed_at: null } as unknown as Swap, [], machine)).toEqual([]);
    const labels = offersOf(
      { ...swap, closed_at: "2026-05-06T09:00:00Z", starts: [{ rework_min: 20 }] } as unknown as Swap,
      [],
      machine,
      { at_hand_a_side: 45, unattended_a_side: 60 },
    ).map(({ draft }) => [draft.kind, draft.label, draft.quantity]);
    expect(labels).toEqual([
      ["rework", "Rework until it started", "0,3333"],
      ["downtime", "Out of use", "2"],
      ["measuring", "Measuring both sides, as planned", "1,5"],
      ["waiting", "Waiting while it measured, as planned", "1"],
    ]);
  });
});

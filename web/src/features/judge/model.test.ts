import { describe, expect, it } from "vitest";

import type { Comparison, Measure } from "../../api/client";
import { groupMeasures, partsOf, sayControls } from "./model";

const measure = (id: string, fields: Partial<Measure> = {}) =>
  ({ id, name: id, scale: "ratio", part_of: null, ...fields }) as Measure;
const comparison = (results: Record<string, object>) => ({ measures: results }) as unknown as Comparison;

describe("controls", () => {
  const measures = [measure("Read"), measure("Write"), measure("Start")];
  const role = "control";
  it("are said to hold, to have moved, or not to be shown to hold", () => {
    const results = {
      Read: { role, verdict: "no_change" },
      Write: { role, verdict: "real_loss" },
      Start: { role, verdict: "not_settled" },
    };
    expect(sayControls(comparison(results), measures)).toBe(
      "Controls: Write moved and should not have; Read held; Start not shown to hold.",
    );
  });
  it("are not spoken of where there are none", () => {
    expect(sayControls(comparison({ Read: { role: "claim", verdict: "no_change" } }), measures)).toBeNull();
  });
});

describe("a total and its parts", () => {
  const [total, other] = [measure("Total"), measure("Other")];
  const [up, down] = [measure("Up", { part_of: "Total" }), measure("Down", { part_of: "Total" })];
  const results = comparison({
    Total: { role: "claim", estimate: 0.05 },
    Other: { role: "claim", estimate: 0.1 },
    Up: { role: "claim", estimate: 0.2 },
    Down: { role: "watch", estimate: -0.1 },
  });
  it("stand together on the board where they share a group", () => {
    const groups = groupMeasures(results, [up, total, down, other]);
    expect(groups.map((group) => group.measures.map((m) => m.id))).toEqual([
      ["Total", "Up", "Other"],
      ["Down"],
    ]);
  });
  it("list what fell first", () => {
    const parts = partsOf(results, [total, up, down, other], total);
    expect(parts.map((part) => part.measure.id)).toEqual(["Down", "Up"]);
    expect(partsOf(results, [total, up, down, other], other)).toEqual([]);
  });
});

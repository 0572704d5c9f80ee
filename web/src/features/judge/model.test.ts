import { describe, expect, it } from "vitest";

import type { Comparison, Measure, MeasureResult, Said } from "../../api/client";
import type { Evidence } from "../machine/api";
import { dotsOf, groupMeasures, partsOf, sayFirstShown } from "./model";

const measure = (id: string, fields: Partial<Measure> = {}) =>
  ({ id, name: id, scale: "ratio", kind: "time", part_of: null, ...fields }) as Measure;
const comparison = (results: Record<string, object>) => ({ measures: results }) as unknown as Comparison;

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

describe("the dots of a temperature", () => {
  const job = {
    sittings: [
      { id: "cool", build: "A", ambient_c: 18 },
      { id: "warm", build: "B", ambient_c: 27 },
    ],
    runs: [
      { id: "a", sitting: "cool", readings: { core: { low: 71, high: 71 } } },
      { id: "b", sitting: "warm", readings: { core: { low: 76, high: 76 } } },
      { id: "c", sitting: "warm", readings: { core: { low: 79, high: 79 } } },
    ],
  } as unknown as Evidence;
  const of = (above_room: boolean) =>
    dotsOf(
      job,
      {
        before: "A",
        after: "B",
        measures: { core: { above_room, pairs: [["a", "b"]], unpaired: [{ run: "c", reason: "warm-up" }] } },
      } as unknown as Comparison,
      measure("core"),
    );
  it("stand above the room where the verdict does, so that a warm day is no scatter", () => {
    expect(of(true)).toEqual({ pairs: [{ before: 53, after: 49 }], loose: [{ side: "after", value: 52 }] });
    expect(of(false)).toEqual({ pairs: [{ before: 71, after: 76 }], loose: [{ side: "after", value: 79 }] });
  });
});

it("says when something else was first said of a measure, in the machine's own zone", () => {
  const result = { first_shown: { at: "2026-05-04T20:30:00Z" } } as MeasureResult;
  const said = { first: "+1.2 %, not settled. More was measured since." } as Said;
  expect(sayFirstShown(result, said, "Europe/Vienna")).toBe(
    "First shown 4 May, 22:30: +1.2 %, not settled. More was measured since.",
  );
  expect(sayFirstShown(result, { ...said, first: null }, "UTC")).toBeNull();
});

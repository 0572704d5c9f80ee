import { describe, expect, it } from "vitest";

import type { Comparison, Measure, MeasureResult, Worded } from "../../api/client";
import type { MachineRecord } from "../../job/api";
import {
  dotsOf,
  EXPLANATION_STATES,
  explanationDraft,
  groupMeasures,
  partsOf,
  readingOf,
  sayExplanation,
  sayFirstShown,
  sayRunPlace,
} from "./model";

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
  } as unknown as MachineRecord;
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
  const worded = { first: "+1.2 %, not settled. More was measured since." } as Worded;
  expect(sayFirstShown(result, worded, "Europe/Vienna")).toBe(
    "First shown 4 May, 22:30: +1.2 %, not settled. More was measured since.",
  );
  expect(sayFirstShown(result, { ...worded, first: null }, "UTC")).toBeNull();
});

describe("the board", () => {
  it("parts measures by what they are: each stands in one group, with its unit", () => {
    const kinds: [string, Partial<Measure>, string][] = [
      ["starts", { scale: "outcome", kind: "other" }, "claim"],
      ["felt", { scale: "ordinal", kind: "felt" }, "claim"],
      ["time", {}, "claim"],
      ["power", { kind: "power" }, "claim"],
      ["fan", { scale: "difference", kind: "fan" }, "claim"],
      ["soak", { scale: "difference", kind: "heat" }, "claim"],
      ["sound", { scale: "level", kind: "noise" }, "claim"],
      ["free", { scale: "difference", kind: "amount" }, "claim"],
      ["read", {}, "control"],
      ["seen", {}, "watch"],
    ];
    const results = comparison(Object.fromEntries(kinds.map(([id, , role]) => [id, { role }])));
    const measures = kinds.map(([id, fields]) => measure(id, fields));
    const groups = groupMeasures(results, [...measures, measure("not compared")]);
    expect(groups.map(({ title, unit, measures }) => [title, unit, measures.map(({ id }) => id)])).toEqual([
      ["Works or not, and felt", "", ["starts", "felt"]],
      ["Work", "%", ["time"]],
      ["Power, clocks and fans", "%", ["power", "fan"]],
      ["Heat and noise", "", ["soak", "sound"]],
      ["Amounts, gauges and other figures", "", ["free"]],
      ["Controls, should not move", "%", ["read"]],
      ["Watched, no verdict", "%", ["seen"]],
    ]);
  });
});

describe("a run", () => {
  const record = {
    builds: [{ id: "A", letter: "A" }],
    sittings: [
      { id: "first", build: "A", ambient_c: null },
      { id: "second", build: "A", ambient_c: 20 },
    ],
    runs: [
      { id: "r", sitting: "second", position: 4, readings: { core: { low: 70, high: 72 } } },
      { id: "s", sitting: "first", position: 1, readings: { core: { low: 70, high: 70 } } },
    ],
  } as unknown as MachineRecord;
  it("is named by its build, sitting and place", () => {
    expect(sayRunPlace(record, "r")).toBe("A 2 run 4");
    expect(sayRunPlace(record, "gone")).toBe("? 0 run ?");
  });
  it("is read in the middle of its range", () => {
    expect(readingOf(record.runs[0], "core")).toBe(71);
    expect(readingOf(record.runs[0], "other")).toBeNull();
    expect(readingOf(undefined, "core")).toBeNull();
  });
  it("has no dot above a room that nobody noted", () => {
    const results = {
      before: "A",
      measures: {
        core: { above_room: true, pairs: [["r", "s"]], unpaired: [{ run: "r" }, { run: "gone" }] },
      },
    } as unknown as Comparison;
    expect(dotsOf(record, results, measure("core"))).toEqual({
      pairs: [],
      loose: [{ side: "before", value: 51 }],
    });
    expect(dotsOf(record, { ...results, measures: {} }, measure("core"))).toEqual({ pairs: [], loose: [] });
  });
});

describe("a cause", () => {
  it("is no finding before something speaks for it", () => {
    const worded = EXPLANATION_STATES.map(([state]) => sayExplanation({ state, text: "the paste" }));
    expect(worded).toEqual([
      "Suspected, not tested: the paste",
      "Supported: the paste",
      "Ruled out: the paste",
    ]);
    expect(EXPLANATION_STATES.map(([, words]) => words)).toEqual([
      ...["suspected, not tested", "supported", "ruled out"],
    ]);
  });
  it("is edited as it was recorded, or begins empty and untested", () => {
    const empty = { version: null, text: "", state: "untested", test: "", grounds: "" } as const;
    expect(explanationDraft(null)).toEqual(empty);
    const recorded = {
      version: 2,
      text: "paste",
      state: "supported",
      test: "again",
      grounds: "cooler",
    } as const;
    expect(explanationDraft(recorded as never)).toEqual(recorded);
  });
});

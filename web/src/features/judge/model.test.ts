import { describe, expect, it } from "vitest";

import type { Comparison, Measure, MeasureResult, Swap } from "../../api/client";
import type { Evidence } from "../machine/api";
import {
  dotsOf,
  groupMeasures,
  listDrawbacks,
  partsOf,
  sayBoth,
  sayComparison,
  sayControls,
  sayForms,
  sayRemark,
  sayWaivers,
  sayWhy,
} from "./model";

const measure = (id: string, fields: Partial<Measure> = {}) =>
  ({ id, name: id, scale: "ratio", kind: "time", part_of: null, ...fields }) as Measure;
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

const outcome = measure("Programs", { scale: "outcome", kind: "other", unit_display: "", of: 9 });
const judged = (fields: object) =>
  ({
    ...{ role: "claim", verdict: "real_gain", remark: null, provisional: false, estimate: 0.1 },
    ...{ gain_percent: 10.5, gain_low: 9, gain_high: 12, ci_low: 0.09, ci_high: 0.11, level: 0.95 },
    ...{ time_saved_percent: 9.5, before_mean: 40.2, after_mean: 36.4, above_room: false, matters_from: 2 },
    ...{ passed_before: null, passed_after: null, can_be_shown: false, shown: true },
    ...fields,
  }) as unknown as MeasureResult;
const counts = { passed_before: 20, passed_after: 36, runs_before: 4, runs_after: 4 };

describe("the first sentences", () => {
  const tiles = measure("Tiles", { unit_display: "s", difference_display: "%" });
  const soak = measure("Soak", {
    scale: "difference",
    kind: "heat",
    better: "lower",
    difference_display: "K",
  });
  const measures = [tiles, soak, outcome];
  const of = (results: Record<string, MeasureResult>) =>
    ({ lead: "Tiles", measures: results }) as unknown as Comparison;
  it("say what got worse before all else, then what works now, then the headline", () => {
    const heat = { verdict: "real_loss", estimate: -4.6, ci_low: -6.6, ci_high: -2.6 };
    const bare = { gain_percent: null, gain_low: null, gain_high: null };
    const results = {
      Tiles: judged({}),
      Soak: judged({ ...heat, ...bare }),
      Programs: judged({ ...bare, ...counts }),
    };
    const { losses, rest } = sayComparison(of(results), measures);
    expect(losses).toBe("Got worse: Soak, 4.6 K hotter.");
    expect(rest).toBe(
      "Programs: 5 of 9 passed → 9 of 9, and the gain is real. Tiles: 1.10× as fast, and the gain is real.",
    );
  });
  it("say that nothing was shown to get worse where that is so", () => {
    expect(sayComparison(of({ Tiles: judged({}) }), measures)).toEqual({
      losses: null,
      rest: "Nothing was shown to get worse. Tiles: 1.10× as fast, and the gain is real.",
    });
  });
});

describe("one result", () => {
  const tiles = measure("Tiles", { unit_display: "s", difference_display: "%", better: "lower" });
  it("shows both readings first and every form of the change after them", () => {
    expect(sayBoth(judged({}), tiles)).toBe("40.2 → 36.4 s");
    expect(sayForms(judged({}), tiles)).toEqual([
      "1.10× as fast (+10.5 %), the same job takes 9.5 % less time",
      "3.8 s less",
    ]);
    expect(sayBoth(judged(counts), outcome)).toBe("5 of 9 passed → 9 of 9");
    expect(sayForms(judged(counts), outcome)).toEqual([]);
    expect(sayBoth(judged({ before_mean: null }), tiles)).toBe("36.4 s");
  });
  it("says on its row why it is not settled, and beside it the same by its interval", () => {
    const open = judged({ verdict: "not_settled", remark: "too_wide", gain_low: -0.4, gain_high: 4.1 });
    expect(sayWhy(open)).toBe("in or out of the band: open");
    expect(sayRemark(open, tiles)).toContain(
      "Anything from −0.4 to +4.1 % fits the readings, and ±2 % is what",
    );
    expect(sayWhy(judged({ remark: "room_unknown" }))).toBe("the room is not known");
    expect(sayWhy(judged({}))).toBeNull();
  });
});

describe("what was waived", () => {
  const swap = (fields: object) =>
    ({
      state: "closed",
      gate_reason: "",
      gate_missing: [],
      recognitions: [],
      notes: [],
      ...fields,
    }) as unknown as Swap;
  it("stands beside the verdict: the gate, what was not looked at, a control that there is none of", () => {
    const waived = swap({
      ...{
        gate_reason: "it burnt",
        gate_missing: ["Time: 1 of 3 sittings."],
        recognition_skipped: "no screen",
      },
      recognitions: [{ what: "memory, size", result: null, seen: "" }],
    });
    const lines = sayWaivers([waived], comparison({ T: { role: "claim" } }));
    expect(lines).toEqual([
      "Begun before the baseline was complete, because: it burnt. Time: 1 of 3 sittings.",
      "Not looked at: memory, size, because: no screen.",
      "No control: nothing here would show that the machine itself moved.",
    ]);
    expect(sayWaivers([swap({})], comparison({ T: { role: "control" } }))).toEqual([]);
  });
  it("never hides a drawback or a nuisance of the runs after", () => {
    const job = {
      builds: [
        { id: "A", letter: "A" },
        { id: "B", letter: "B" },
      ],
      sittings: [
        { id: "s", build: "A" },
        { id: "t", build: "B" },
      ],
      runs: [
        { id: "r", sitting: "s", position: 1, conditions: { nuisance: "a hum" } },
        { id: "q", sitting: "t", position: 2, conditions: { nuisance: "a rattle", nuisance_step: 2 } },
      ],
    } as unknown as Evidence;
    const noted = swap({
      notes: [
        { kind: "drawback", text: "glares" },
        { kind: "teardown", text: "screw" },
      ],
    });
    const pair = { before: "A", after: "B", measures: {} } as unknown as Comparison;
    expect(listDrawbacks([noted], job, pair)).toEqual(["glares", "a rattle (2 of 4), B 1 run 2"]);
  });
});

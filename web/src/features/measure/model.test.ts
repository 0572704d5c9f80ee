import { describe, expect, it } from "vitest";

import type { Case, Measure, Run, Sitting, Workload } from "../../api/client";
import {
  cellText,
  type Entry,
  fitEntries,
  isEmptyEntry,
  rowName,
  runBody,
  sayLeft,
  sheetRows,
  whereNext,
} from "./model";

const reading = (low: number, high = low) => ({ low, high, about: false, source: null, statistic: null });
const run = (position: number, fields: Partial<Run> = {}): Run =>
  ({
    id: `r${position}`,
    position,
    state: "complete",
    reason: null,
    warm_up: false,
    readings: { m: reading(41.9) },
    version: 3,
    ...fields,
  }) as Run;
const entry = (texts: Record<string, string>, fields: Partial<Entry> = {}): Entry => ({
  id: "e",
  texts,
  state: "complete",
  reason: "",
  ready: true,
  ...fields,
});
const sitting = { id: "s" } as Sitting;
const workload = { id: "w" } as Workload;
const measures = [{ id: "m" }, { id: "n" }] as Measure[];

describe("the rows of the sheet", () => {
  it("are as many as planned, and always one more than recorded or typed", () => {
    expect(sheetRows([], {}, 5)).toHaveLength(5);
    expect(sheetRows([run(1), run(2)], {}, 2)).toHaveLength(3);
    expect(sheetRows([], { 7: entry({ m: "1" }) }, 5)).toHaveLength(8);
  });
  it("begin with the warm-ups, planned or recorded, apart from the runs that count", () => {
    const rows = sheetRows([run(1, { warm_up: true }), run(1, { id: "first" })], {}, 1, 2);
    expect(rows.map((row) => [rowName(row), row.run?.id])).toEqual([
      ["Warm-up 1", "r1"],
      ["Warm-up 2", undefined],
      ["Run 1", "first"],
      ["Run 2", undefined],
    ]);
    const [warmUp] = rows;
    expect(warmUp && runBody(warmUp, entry({ m: "9" }), sitting, workload, measures)).toMatchObject({
      position: 1,
      warm_up: true,
    });
    expect(sheetRows([run(1, { warm_up: true })], {}, 1)).toHaveLength(2);
  });
});

describe("a timer", () => {
  it("counts full seconds down", () => {
    expect(sayLeft(65_000)).toBe("1:05");
    expect(sayLeft(59_001)).toBe("1:00");
    expect(sayLeft(0)).toBe("0:00");
  });
});

describe("a cell", () => {
  const [recorded] = sheetRows([run(1)], {}, 1);
  const [typed] = sheetRows([run(1)], { 1: entry({ m: "4x" }) }, 1);
  const [range] = sheetRows([run(1, { readings: { m: reading(40, 43) } })], {}, 1);
  it("shows what was typed, else what is recorded, with the machine's decimal mark", () => {
    expect(recorded && cellText(recorded, "m", ",")).toBe("41,9");
    expect(typed && cellText(typed, "m", ".")).toBe("4x");
    expect(range && cellText(range, "m", ".")).toBe("40–43");
    expect(recorded && cellText(recorded, "n", ".")).toBe("");
  });
});

describe("a run as it is sent", () => {
  it("keeps what held it back, its soak and its input when a figure is corrected", () => {
    const noted = {
      held_back: "heat",
      soak_s: 600,
      pair_label: "sheet 4",
      duration_s: 41,
      target: "slot 2",
    } as const;
    const [row] = sheetRows([run(1, noted)], {}, 1);
    expect(row && runBody(row, entry({ m: "42" }), sitting, workload, measures)).toMatchObject(noted);
  });
  it("keeps untouched readings at full precision and sends typed ones as text", () => {
    const recorded = run(1, { readings: { m: reading(41.123456789012) } });
    const [row] = sheetRows([recorded], {}, 1);
    const body = row && runBody(row, entry({ n: "1:52.4" }), sitting, workload, measures);
    expect(body?.readings).toEqual({
      m: { value: 41.123456789012, about: false, source: null, statistic: null },
      n: "1:52.4",
    });
    expect(body?.version).toBe(3);
  });
  it("drops a reading whose cell was emptied", () => {
    const [row] = sheetRows([run(1)], {}, 1);
    expect(row && runBody(row, entry({ m: "  " }), sitting, workload, measures).readings).toEqual({});
  });
  it("is nothing as long as nothing was typed", () => {
    const [fresh] = sheetRows([], {}, 1);
    const [recorded] = sheetRows([run(1)], {}, 1);
    expect(fresh && isEmptyEntry(fresh, entry({ m: " " }))).toBe(true);
    expect(fresh && isEmptyEntry(fresh, entry({}, { state: "failed" }))).toBe(false);
    expect(recorded && isEmptyEntry(recorded, entry({ m: "" }))).toBe(false);
  });
});

describe("entries that a browser kept", () => {
  const entry = { id: "r1", texts: { t: "41.9" }, state: "complete", reason: "", ready: true };
  it("come back as they were typed, and a damaged row takes no other with it", () => {
    expect(fitEntries({ 1: entry, 2: "41.7", 3: { ...entry, id: "" }, x: entry })).toEqual({ 1: entry });
    expect(fitEntries({ 1: { ...entry, ready: "yes" } })).toEqual({ 1: { ...entry, ready: false } });
    expect(fitEntries("nothing")).toBeNull();
  });
});

describe("where to go on", () => {
  const job = (left: number, swaps: object[]) =>
    ({ swaps, tallies: { b: { sittings: 3, runs: 9, sittings_left: left } } }) as unknown as Case;
  const closed = { id: "s", build: "b", closed_at: "2026-05-04T09:00:00Z" } as Sitting;
  it("is Judge after a swap and the swap before one, once all planned sittings are closed", () => {
    expect(whereNext(job(0, [{ after: "b" }]), closed)?.to).toBe("../judge");
    expect(whereNext(job(0, [{ before: "b", after: "c" }]), closed)?.to).toBe("../swap");
  });
  it("is nowhere else while the sitting is open, or more are to come", () => {
    expect(whereNext(job(0, []), { ...closed, closed_at: null })).toBeNull();
    expect(whereNext(job(1, []), closed)).toBeNull();
  });
});

import { describe, expect, it } from "vitest";

import type { Case, Measure, Run, Sitting, Workload } from "../../api/client";
import {
  cellText,
  countedWith,
  type Entry,
  fitEntries,
  isEmptyEntry,
  NO_ENTRY,
  rowName,
  runBody,
  sheetRows,
} from "../../job/rows";
import {
  nextInQueue,
  nextRow,
  nextSide,
  otherRows,
  queueOf,
  sayLeft,
  sayPlace,
  saySitting,
  stepAfter,
} from "./model";

const reading = (low: number, high = low) => ({
  low,
  high,
  about: false,
  source: null,
  statistic: null,
  confirmed: false,
});
const run = (position: number, fields: Partial<Run> = {}): Run =>
  ({
    id: `r${position}`,
    position,
    state: "complete",
    reason: null,
    warm_up: false,
    readings: { m: reading(41.9) },
    counts_for: ["m"],
    version: 3,
    ...fields,
  }) as Run;
const entry = (texts: Record<string, string>, fields: Partial<Entry> = {}): Entry => ({
  id: "e",
  texts,
  state: "complete",
  reason: "",
  noted: {},
  marks: {},
  ready: true,
  late: false,
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
  it("keeps how a figure was read when it is corrected, until that is said anew", () => {
    const told = { ...reading(71), statistic: "highest", source: "remembered" } as const;
    const [row] = sheetRows([run(1, { readings: { m: told } })], {}, 1);
    const sent = (typed: Entry) => row && runBody(row, typed, sitting, workload, measures).readings?.["m"];
    expect(sent(entry({ m: "70" }))).toEqual({ typed: "70", statistic: "highest", source: "remembered" });
    expect(sent(entry({ m: "70" }, { marks: { m: { statistic: "settled", source: null } } }))).toEqual({
      typed: "70",
      statistic: "settled",
      source: null,
    });
  });
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
      m: { value: 41.123456789012, about: false, source: null, statistic: null, confirmed: false },
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
  const entry = { ...NO_ENTRY, id: "r1", texts: { t: "41.9" }, ready: true };
  it("come back as they were typed, and a damaged row takes no other with it", () => {
    expect(fitEntries({ 1: entry, 2: "41.7", 3: { ...entry, id: "" }, x: entry })).toEqual({ 1: entry });
    expect(fitEntries({ 1: { ...entry, ready: "yes" } })).toEqual({ 1: { ...entry, ready: false } });
    const { noted, marks, ...older } = entry;
    expect(fitEntries({ 1: older })).toEqual({ 1: { ...older, noted, marks } });
    expect(fitEntries("nothing")).toBeNull();
  });
});

describe("the next row", () => {
  it("is the first without a figure or a mark; warm-ups are never waited for", () => {
    const failed = run(2, { state: "failed", reason: "hung", readings: {} });
    const rows = sheetRows([run(1), failed], { 3: entry({ m: "40" }) }, 3, 1);
    expect(nextRow(rows)?.position).toBe(4);
    expect(nextRow(sheetRows([run(1, { readings: {} })], {}, 3, 1))?.position).toBe(1);
  });
  it("makes good a run that failed, so that the workload has all its runs", () => {
    const failed = run(2, { state: "failed", reason: "hung", readings: {} });
    const rows = sheetRows([run(1), failed, run(3)], {}, 3);
    expect(nextRow(rows)?.position).toBe(4);
    expect(countedWith(rows, 4)).toBe(3);
  });
  it("goes on past a photo that waits for its figure, and comes back to it once all are made", () => {
    const photos = new Map([[2, "pictured"]]);
    const rows = sheetRows([run(1)], {}, 3, 0, false, photos);
    expect(nextRow(rows, null, null, 3)?.position).toBe(3);
    expect(otherRows(rows, nextRow(rows)).map((row) => row.photo)).toEqual([undefined, "pictured"]);
    const all = sheetRows([run(1), run(3)], {}, 3, 0, false, photos);
    expect(nextRow(all, null, null, 3)?.position).toBe(2);
    expect(sheetRows([run(1), run(2)], {}, 3, 0, false, photos)[1]?.photo).toBeUndefined();
  });
  it("leaves below it what is recorded, and what was refused", () => {
    const rows = sheetRows([run(1)], { 2: entry({ m: "fast" }) }, 5);
    expect(otherRows(rows, nextRow(rows)).map((row) => row.position)).toEqual([1, 2]);
  });
});

describe("the queue", () => {
  const workloads = ["A", "B", "C"].map((name) => ({ id: name, name })) as Workload[];
  const queued = (done: number[]) =>
    workloads.map((workload, index) => ({ workload, done: done[index] ?? 0, failed: 0, planned: 2 }));
  const [first, second, third] = workloads as [Workload, Workload, Workload];
  it("goes on with the next workload that lacks runs, then with those before it, and ends with all", () => {
    expect(nextInQueue(queued([2, 0, 0]), first)).toBe(second);
    expect(nextInQueue(queued([0, 1, 2]), third)).toBe(first);
    expect(nextInQueue(queued([2, 2, 1]), third)).toBeUndefined();
  });
});

describe("what comes after a sitting", () => {
  const builds = [
    { id: "a", letter: "A" },
    { id: "b", letter: "B" },
  ];
  const held = (build: string, number: number) =>
    ({ id: `${build}${number}`, build, purpose: "plan", set_aside: null, closed_at: null }) as Sitting;
  const job = (left: number, swaps: object[], sittings: Sitting[] = [held("b", 1)]) =>
    ({
      builds,
      swaps,
      sittings,
      tallies: { a: { sittings_left: left }, b: { sittings_left: left } },
      open_plan: { plan: {} },
    }) as unknown as Case;
  const swap = { before: "a", after: "b", plan: { order: "before_then_after", sittings_a_side: 3 } };
  it("is the next sitting, then the swap after the before-side and the verdict after the other", () => {
    expect(stepAfter(job(2, [swap]), held("b", 1)).text).toBe("Sitting done: restart, then sitting 2");
    expect(stepAfter(job(0, [swap]), held("b", 3))).toMatchObject({ to: "../judge" });
    expect(stepAfter(job(0, [swap]), held("a", 3))).toMatchObject({ to: "../swap" });
    expect(stepAfter(job(0, []), held("a", 3))).toMatchObject({ to: "../swap" });
  });
  it("says which side comes next, and what to set, where the sides take turns", () => {
    const turns = { ...swap, plan: { order: "abba", sittings_a_side: 2 } };
    const after = (...sittings: Sitting[]) =>
      stepAfter(job(1, [turns], sittings), sittings.at(-1) ?? held("a", 1));
    expect(after(held("a", 1))).toMatchObject({
      build: "b",
      text: "Sitting done: set B, restart, then sitting 1 on B",
    });
    expect(after(held("a", 1), held("b", 1))).toMatchObject({
      build: "b",
      text: "Sitting done: restart, then sitting 2 on B",
    });
    expect(after(held("a", 1), held("b", 1), held("b", 2))).toMatchObject({ build: "a" });
    expect(after(held("a", 1), held("b", 1), held("b", 2), held("a", 2))).toMatchObject({ to: "../judge" });
  });
});

it("counts as runs of the plan only what was measured", () => {
  const told = run(2, { readings: { m: { ...reading(40), source: "remembered" } }, counts_for: [] });
  expect(countedWith(sheetRows([run(1), told], {}, 5), null)).toBe(1);
});

describe("whose turn it is", () => {
  const swap = (order: string) =>
    ({ before: "A", after: "B", plan: { order, sittings_a_side: 3 } }) as unknown as Case["swaps"][number];
  const job = (...held: string[]) =>
    ({
      sittings: held.map((build, index) => ({ id: `s${index}`, build, purpose: "plan", set_aside: null })),
    }) as unknown as Case;
  it("goes from side to side, and a side that was passed over comes first", () => {
    expect(nextSide(job(), swap("alternating"))).toEqual({ build: "A", number: 1 });
    expect(nextSide(job("A"), swap("alternating"))).toEqual({ build: "B", number: 1 });
    expect(nextSide(job("B"), swap("alternating"))).toEqual({ build: "A", number: 1 });
    expect(nextSide(job("A", "A"), swap("alternating"))).toEqual({ build: "B", number: 1 });
    expect(nextSide(job("A", "B", "B"), swap("abba"))).toEqual({ build: "A", number: 2 });
    expect(nextSide(job("A", "B", "A", "B", "A", "B"), swap("alternating"))).toBeNull();
    expect(nextSide(job("A"), swap("before_then_after"))).toBeUndefined();
  });
});

describe("the queue of a sitting", () => {
  const tiles = { id: "w", name: "Tiles", set_aside: null } as Workload;
  const old = { id: "o", name: "Old", set_aside: null } as Workload;
  const plan = { measures: {}, runs: { Tiles: 3 }, runs_a_sitting: 4 };
  const job = {
    workloads: [tiles, old],
    measures: [
      { id: "m", workload: "Tiles", set_aside: null },
      { id: "x", workload: "Old", set_aside: "no longer asked" },
    ],
    swaps: [],
    open_plan: { plan },
  } as unknown as Case;
  const held = { id: "s", build: "a" } as Sitting;
  it("counts what was measured, and no second-hand figure, warm-up or run that failed", () => {
    const runs = [
      run(1),
      run(2, { counts_for: [] }),
      run(3, { state: "failed", counts_for: [] }),
      run(1, { warm_up: true, counts_for: [] }),
    ].map((each) => ({ ...each, workload: "Tiles" }));
    expect(queueOf(job, runs, held)).toEqual([{ workload: tiles, done: 1, failed: 1, planned: 3 }]);
  });
  it("leaves out a workload that was set aside, unless it has runs or the plan names it", () => {
    const names = (asked: Case, runs: Run[]) =>
      queueOf(asked, runs, held).map(({ workload }) => workload.name);
    expect(names(job, [])).toEqual(["Tiles"]);
    expect(names(job, [{ ...run(1), workload: "Old" }])).toEqual(["Tiles", "Old"]);
    const asked = { ...job, open_plan: { plan: { ...plan, measures: { x: {} } } } } as unknown as Case;
    expect(names(asked, [])).toEqual(["Tiles", "Old"]);
  });
});

describe("the first sentence of a sheet", () => {
  const queued = { workload: { name: "Tiles" } as Workload, done: 1, failed: 0, planned: 3 };
  const [next] = sheetRows([run(1)], {}, 3).slice(1);
  it("says which run is next, what waits, and that all are there", () => {
    expect(sayPlace(queued, next, true)).toBe("Tiles, run 2 of 3");
    expect(sayPlace(queued, next, true, 1)).toBe("Tiles, run 3 of 3");
    expect(sayPlace({ ...queued, done: 3 }, next, true)).toBe("Tiles: all 3 runs are there.");
    expect(sayPlace(queued, next && { ...next, photo: "p" }, true)).toBe("Tiles: read run 2 off its photo.");
    expect(sayPlace(queued, next, false)).toBe("Tiles: 1 of 3 runs, in a closed sitting.");
    expect(sayPlace({ ...queued, done: 4 }, next, false)).toBe("Tiles: 4 runs, in a closed sitting.");
  });
  it("places its sitting in the plan", () => {
    const job = {
      sittings: [
        { id: "s", build: "a" },
        { id: "t", build: "a" },
      ],
      swaps: [],
      open_plan: { plan: { sittings_a_side: 3 } },
    } as unknown as Case;
    expect(saySitting(job, { id: "t", build: "a" } as Sitting)).toBe("Sitting 2 of 3");
    const bare = { ...job, open_plan: { plan: { sittings_a_side: null } } } as unknown as Case;
    expect(saySitting(bare, { id: "s", build: "a" } as Sitting)).toBe("Sitting 1");
    const short = { ...job, open_plan: { plan: { sittings_a_side: 1 } } } as unknown as Case;
    expect(saySitting(short, { id: "t", build: "a" } as Sitting)).toBe("Sitting 2 of 2");
  });
});

it("sends nothing of a run that only the record knows", () => {
  const record = {
    excluded_late: "x",
    workload_version: "2",
    written_at: "t",
    left_out_at: "t",
    changes: [],
  };
  const [row] = sheetRows([run(1, { ...record, note: "odd" })], {}, 1);
  const sent = row && runBody(row, entry({}), sitting, workload, measures);
  expect(sent).toMatchObject({ note: "odd", version: 3 });
  expect(Object.keys(sent ?? {}).filter((name) => name in record || name === "id")).toEqual([]);
});

it("takes a row for empty only where every cell of it is", () => {
  const [row] = sheetRows([], {}, 1);
  expect(row && isEmptyEntry(row, entry({ m: " ", n: "" }))).toBe(true);
  expect(row && isEmptyEntry(row, entry({ m: "1", n: "" }))).toBe(false);
  expect(row && isEmptyEntry(row, entry({ m: "" }, { state: "failed" }))).toBe(false);
});

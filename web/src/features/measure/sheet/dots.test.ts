import { describe, expect, it } from "vitest";

import type { Case, Measure, Run, Sitting, Workload } from "../../../api/client";
import { bandOf, columnsOf, sidesOf, isAboveRoom } from "./dots";

const HEAT = { id: "m", unit: "Cel", scale: "difference" } as Measure;
const TIME = { id: "m", unit: "s", scale: "ratio" } as Measure;
const SOAK = { id: "w", name: "Soak" } as Workload;

const sitting = (id: string, build: string, ambient_c: number | null = 22): Sitting =>
  ({ id, build, ambient_c, closed_at: "2026-05-04T10:00:00Z" }) as Sitting;

const run = (held: string, value: number, fields: Partial<Run> = {}): Run =>
  ({
    id: `${held} ${String(value)}`,
    sitting: held,
    workload: "Soak",
    warm_up: false,
    state: "complete",
    excluded_late: null,
    readings: { m: { low: value, high: value } },
    counts_for: ["m"],
    ...fields,
  }) as Run;

const job = (sittings: Sitting[], fields: object = {}): Case =>
  ({
    builds: [
      { id: "A", letter: "A" },
      { id: "B", letter: "B" },
    ],
    swaps: [{ before: "A", after: "B", plan: { runs_a_sitting: 3, runs: {} } }],
    open_plan: { plan: { runs_a_sitting: 3, runs: {} } },
    sittings,
    ...fields,
  }) as unknown as Case;

const HELD = [sitting("a", "A"), sitting("b", "B", 24)];

describe("the runs of a measure so far", () => {
  it("stand side by side and sitting by sitting, above the room as they are judged", () => {
    const runs = [run("a", 70), run("a", 71), run("b", 60)];
    const columns = columnsOf(job(HELD), runs, HELD[1] as Sitting, SOAK, HEAT);
    expect(columns.map(({ label, side, values }) => [label, side, values])).toEqual([
      ["A 1", "before", [48, 49]],
      ["B 1", "after", [36]],
    ]);
  });
  it("stay as they were read where a room is not known, on both sides alike", () => {
    const held = [sitting("a", "A", null), sitting("b", "B")];
    const runs = [run("a", 70), run("b", 60)];
    const columns = columnsOf(job(held), runs, held[1] as Sitting, SOAK, HEAT);
    expect(columns.map(({ values }) => values)).toEqual([[70], [60]]);
    expect(isAboveRoom(job(held), [run("b", 60)], HEAT)).toBe(true);
  });
  it("tell what does not count apart, and leave room for what the open sitting still has to do", () => {
    const open = { ...sitting("b", "B"), closed_at: null };
    const held = [sitting("a", "A"), open];
    const runs = [
      run("a", 40),
      run("a", 90, { state: "failed", counts_for: [] }),
      run("a", 80, { excluded_late: "a window was open", counts_for: [] }),
      run("b", 30),
      run("b", 99, { warm_up: true }),
      run("b", 98, { workload: "Other" }),
    ];
    const [before, after] = columnsOf(job(held), runs, open, SOAK, TIME);
    expect(before).toMatchObject({ values: [40], out: [90, 80], left: 0 });
    expect(after).toMatchObject({ values: [30], out: [], left: 2 });
  });
  it("are those of the newest sittings where the past is long", () => {
    const held = Array.from({ length: 20 }, (_, number) => sitting(`a${String(number)}`, "A"));
    const runs = held.map(({ id }) => run(id, 40));
    const columns = columnsOf(job(held), runs, held[0] as Sitting, SOAK, TIME);
    expect(columns.map(({ label }) => label)).toEqual(
      Array.from({ length: 12 }, (_, n) => `A ${String(n + 9)}`),
    );
  });
  it("are of one build alone before there is a swap", () => {
    expect(sidesOf(job(HELD, { swaps: [] }), HELD[0] as Sitting)).toEqual({ before: "A", after: null });
    expect(sidesOf(job(HELD), HELD[1] as Sitting)).toEqual({ before: "A", after: "B" });
  });
});

describe("what does not matter", () => {
  const columns = [
    { label: "A 1", side: "before" as const, values: [40, 42], out: [90], left: 0 },
    { label: "B 1", side: "after" as const, values: [10], out: [], left: 0 },
  ];
  it("lies around the mean of the before-side's runs that count", () => {
    expect(bandOf(columns, HEAT, 2)).toEqual([39, 43]);
    const [low, high] = bandOf(columns, TIME, 2.5) ?? [];
    expect(low).toBeCloseTo(40);
    expect(high).toBeCloseTo(42.025);
  });
  it("is unknown without a margin or a run", () => {
    expect(bandOf(columns, HEAT, undefined)).toBeNull();
    expect(bandOf(columns.slice(1), HEAT, 2)).toBeNull();
  });
});

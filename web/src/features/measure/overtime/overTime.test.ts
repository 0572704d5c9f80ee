import { expect, test } from "vitest";

import type { Beside, DrawnTrace, Measure, Workload } from "../../../api/client";
import {
  besideAt,
  cellKey,
  dueMinute,
  everyFive,
  freshOverTime,
  hottestFrom,
  isSensed,
  type OverTime,
  readMinutes,
  readOverTime,
  restAndEnd,
  typedOf,
} from "./overTime";

const CORE = { id: "c", name: "Core", role: "temperature" } as const;
const FAN = { id: "f", name: "Fan", role: "fan" } as const;
const typed = (cells: Record<string, string>): OverTime => ({
  minutes: "0, 5",
  sensors: [CORE, FAN],
  cells,
  began: 0,
});
const BESIDE = {
  ...{ role: "temperature", of: "processor", unit: "Cel", sensor: "Core", build: "A" },
  ...{ first: "30.1", minutes: [null, null, null, null, "61.0"], last: "64.2" },
} as Beside;

test.each([
  ["0, 5, 10", ".", [0, 5, 10]],
  ["0 5 10", ".", [0, 5, 10]],
  ["0; 2,5; 5", ",", [0, 2.5, 5]],
  ["0, 5, 10", ",", [0, 5, 10]],
  ["5, 5", ".", null],
  ["10, 5", ".", null],
  ["soon", ".", null],
  ["", ".", null],
] as const)("moments %s are read", (text, mark, minutes) => {
  expect(readMinutes(text, mark)).toEqual(minutes);
});

test("moments are proposed by how long a run takes, and the form for many sensors has two", () => {
  expect(everyFive(18)).toBe("0, 5, 10, 15");
  expect(everyFive(null)).toBe("0, 5, 10, 15, 20");
  expect(restAndEnd(12.5)).toBe("0, 12");
});

test("a sensor that two logs told of is asked for once", () => {
  const twice = [BESIDE, { ...BESIDE, of: "board" }, { ...BESIDE, sensor: "Hub" }] as Beside[];
  const { sensors } = freshOverTime({ minutes_a_run: 10 } as Workload, [], twice);
  expect(sensors.map(({ name }) => name)).toEqual(["Core", "Hub"]);
});

test("what was typed of a run stands there again to be mended, and what an agent told does not", () => {
  const channel = { role: "temperature", sensor: "Core", at: [0, 150, 600], highs: [31.5, null, 66.25] };
  const trace = { trace: { source: "typed" }, channels: [channel] } as unknown as DrawnTrace;
  const again = typedOf(trace, ",");
  const id = again?.sensors[0]?.id ?? "";
  expect(again?.minutes).toBe("0; 10");
  expect(again?.cells).toEqual({ [cellKey(id, 0)]: "31,5", [cellKey(id, 10)]: "66,25" });
  expect(readMinutes(again?.minutes ?? "", ",")).toEqual([0, 10]);
  expect(typedOf({ ...trace, trace: { ...trace.trace, source: "agent" } }, ",")).toBeNull();
  expect(typedOf(null, ",")).toBeNull();
});

test("a minute is due once the clock has come to it", () => {
  expect([-1, 0, 299_000, 300_000, 900_000].map((ms) => dueMinute([0, 5], ms))).toEqual([null, 0, 0, 5, 5]);
});

test("beside each field stands what the other side read at that minute, at rest and at the end", () => {
  expect([0, 5, 7, 20].map((minute) => besideAt([BESIDE], CORE, minute, minute === 20))).toEqual([
    "30.1",
    "61.0",
    "",
    "64.2",
  ]);
  expect(besideAt([BESIDE], FAN, 5, false)).toBe("");
});

test("what was typed is sent by sensor; what was left empty is no reading", () => {
  const read = readOverTime(
    typed({ [cellKey("c", 0)]: "30,5", [cellKey("c", 5)]: "61", [cellKey("f", 5)]: "" }),
    [0, 5],
    ",",
  );
  expect("channels" in read && read.channels.map(({ sensor, at, values }) => [sensor, at, values])).toEqual([
    ["Core", [0, 300], [30.5, 61]],
  ]);
});

test("what can't be read is marked in its field, and nothing is sent", () => {
  const read = readOverTime(typed({ [cellKey("c", 5)]: "warm" }), [0, 5], ".");
  expect("problems" in read && Object.keys(read.problems)).toEqual([cellKey("c", 5)]);
});

test("the sensors of earlier runs are asked again, else one of each kind that is measured", () => {
  const soak = { loads: ["cooler"], minutes_a_run: 10 } as unknown as Workload;
  expect(freshOverTime(soak, [], [BESIDE]).sensors.map(({ name }) => name)).toEqual(["Core"]);
  const kinds = [{ kind: "fan" }, { kind: "time" }] as never[];
  expect(freshOverTime(soak, kinds, []).sensors.map(({ role }) => role)).toEqual(["temperature", "fan"]);
});

test("a temperature at the machine's stop is named as it was typed, and no other sensor's figure", () => {
  const hot = typed({ [cellKey("c", 5)]: "98,5", [cellKey("f", 5)]: "1200" });
  expect(hottestFrom(hot, 98, ",")).toBe("Core 98,5 °C");
  expect(hottestFrom(hot, 99, ",")).toBeNull();
});

test("what changes while a run lasts is asked for by its kind, its rule, or the part that is loaded", () => {
  const job = (...loads: string[]) => ({ loads }) as unknown as Workload;
  const kind = (kind: Measure["kind"], trace_figure: Measure["trace_figure"] = null) =>
    [{ kind, trace_figure }] as Measure[];
  for (const each of ["heat", "fan", "clock", "power", "noise"] as const)
    expect(isSensed(job(), kind(each))).toBe(true);
  expect(isSensed(job(), kind("time"))).toBe(false);
  expect(isSensed(job(), kind("time", "recovery"))).toBe(true);
  expect([isSensed(job("drive", "cooler"), []), isSensed(job("thermal paste"), [])]).toEqual([true, true]);
  expect(isSensed(job("drive"), [])).toBe(false);
});

test("each sensor is sent in its unit, as a reading of the part that it belongs to", () => {
  const roles = ["temperature", "fan", "clock", "power", "noise"] as const;
  const sensors = roles.map((role) => ({ id: role, name: role === "fan" ? "  " : role, role }));
  const cells = Object.fromEntries(roles.map((role) => [cellKey(role, 0), "40"]));
  const read = readOverTime({ ...typed(cells), sensors }, [0], ".");
  expect(
    "channels" in read && read.channels.map(({ role, of, unit, sensor }) => [role, of, unit, sensor]),
  ).toEqual([
    ["temperature", "processor", "Cel", "temperature"],
    ["fan", "board", "/min", "Fan"],
    ["clock", "processor", "MHz", "clock"],
    ["power", "processor", "W", "power"],
    ["noise", "board", "dB[SPL]", "noise"],
  ]);
});

test("beside a sensor of another name stands the only one of its kind, and of several none", () => {
  const other = { ...CORE, name: "Hotspot" };
  expect(besideAt([BESIDE], other, 0, false)).toBe("30.1");
  expect(besideAt([BESIDE, { ...BESIDE, sensor: "Second" }], other, 0, false)).toBe("");
});

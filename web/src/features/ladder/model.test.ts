import { describe, expect, it } from "vitest";

import type { Case, Job, Measure } from "../../api/client";
import { historyColumns, lanePath, sayMean, sayShare, sayUnit } from "./model";

const measures = [{ id: "m", name: "Soak" }] as Measure[];
const share = {
  measure: "m",
  as_new: "a",
  worn: "b",
  renewed: "c",
  share: 2 / 3,
  low: 0.5,
  high: 0.9,
  changes: ["thermal paste"],
  as_new_measured: true,
  room_missing: false,
};

describe("the history of a machine", () => {
  it("has a column for each measured build, re-checks apart", () => {
    const job = {
      builds: [
        { id: "a", letter: "A" },
        { id: "b", letter: "B" },
        { id: "c", letter: "C" },
      ],
    };
    const points = [
      { build: "a", recheck: false },
      { build: "b", recheck: false },
      { build: "b", recheck: true },
    ];
    const columns = historyColumns(job as Case, { history: [{ points }] } as unknown as Job);
    expect(columns.map((column) => column.letter + (column.recheck ? "'" : ""))).toEqual(["A", "B", "B'"]);
  });
  it("draws a straight line within a lane and a bend into another", () => {
    expect(lanePath([10, 0], [10, 64], 64)).toBe("M10 0V64");
    expect(lanePath([10, 0], [32, 128], 64)).toContain("C10 32 32 0 32 32V128");
  });
  it("shows temperatures above the room, and says where no room was noted", () => {
    const point = { build: "a", mean: 38.6, sittings: 1, runs: 3, recheck: false, above_room: true };
    const raw = { ...point, build: "b", mean: 61.2, above_room: false };
    const soak = { id: "m", unit: "Cel", unit_display: "°C" } as Measure;
    const line = { measure: "m", points: [point, raw] };
    expect(sayUnit(line, soak)).toBe("K above the room");
    expect(line.points.map((each) => sayMean(each, line, soak))).toEqual(["38.6", "61.2 °C, room not noted"]);
    expect(sayUnit({ measure: "m", points: [raw] }, soak)).toBe("°C");
    expect(sayMean(raw, { measure: "m", points: [raw] }, soak)).toBe("61.2");
  });
  it("says what came back, and what that rests on", () => {
    expect(sayShare(share, measures)).toBe("Soak: 67 % of what was lost came back (50 to 90 %).");
    const bundle = { ...share, low: null, high: null, changes: ["thermal paste", "dust-out"] };
    expect(sayShare(bundle, measures)).toBe(
      "Soak: 67 % of what was lost came back (between which ends is not settled) by thermal paste and dust-out together.",
    );
    expect(sayShare({ ...share, as_new_measured: false }, measures)).toContain("remembered or claimed");
    expect(sayShare({ ...share, share: null }, measures)).toContain("no share");
  });
});

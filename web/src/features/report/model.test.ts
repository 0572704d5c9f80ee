import { describe, expect, it } from "vitest";

import type { Report, ReportRow } from "../../api/client";
import { byAxis, columnsOf, drawnHeat, fileName, keepUnits, type Paper } from "./model";

const row = (axis: string, fields: Partial<ReportRow> = {}): ReportRow =>
  ({ axis, before_dots: [], after_dots: [], ...fields }) as ReportRow;

describe("a report on paper", () => {
  it("has rows of one unit on one axis, in the order in which they come", () => {
    const rows = [row("%"), row("K"), row("%"), row("dB(A)")];
    expect(byAxis(rows).map((group) => group.map(({ axis }) => axis))).toEqual([
      ["%", "%"],
      ["K"],
      ["dB(A)"],
    ]);
  });
  it("draws single runs sitting by sitting, the before-side first", () => {
    const dots = {
      before_dots: [
        [1, 40],
        [2, 41],
        [1, 42],
      ],
      after_dots: [[1, 30]],
    };
    const told = Object.fromEntries(
      Object.entries(dots).map(([side, found]) => [
        side,
        found.map(([sitting, value]) => ({ sitting, value })),
      ]),
    );
    expect(
      columnsOf(row("s", told as Partial<ReportRow>)).map(({ label, values }) => [label, values]),
    ).toEqual([
      ["before 1", [40, 42]],
      ["before 2", [41]],
      ["after 1", [30]],
    ]);
  });
  it("keeps a number and its unit on one line, and parts nothing else", () => {
    expect(keepUnits("6.0 K cooler, 3 + 3 sittings")).toBe("6.0\u00a0K cooler, 3\u00a0+ 3\u00a0sittings");
    expect(keepUnits("no figure 4")).toBe("no figure 4");
  });
  it("is saved under a name that any file system takes", () => {
    const paper = (machine: string, number: number | null): Paper =>
      ({ report: { machine } as Report, number, form: "full" }) as Paper;
    expect(fileName(paper("Plotting PC", 3))).toBe("plotting-pc-report-3-full.html");
    expect(fileName(paper("../Größe: 2\\3?", null))).toBe("größe-2-3-draft-full.html");
    expect(fileName(paper("", null))).toBe("draft-full.html");
  });
  it("draws the heat that it keeps: means alone, gaps left open", () => {
    const side = {
      build: "A",
      letter: "A",
      means: [{ role: "temperature", unit: "K", at: [0, 60], values: [1, null] }],
    };
    const drawn = drawnHeat({ sides: [side, side] } as unknown as NonNullable<Report["heat"]>);
    expect(drawn.sides[0]?.runs).toEqual([]);
    expect(drawn.sides[0]?.means[0]).toMatchObject({ at: [0, 60], lows: [1, null], highs: [1, null] });
  });
});

import { describe, expect, it } from "vitest";

import { looksLikeSeries, readBlock } from "./paste";
import { readNumber, writeNumber } from "./number";

describe("what is pasted", () => {
  it("is one cell where it has neither tab nor line break", () => {
    expect(readBlock("41.9", 3)).toEqual({ kind: "cell" });
    expect(readBlock("41.9\n", 3)).toEqual({ kind: "cell" });
  });
  it("is a column or a block as a spreadsheet hands it over", () => {
    expect(readBlock("41.9\r\n41.7\r\n", 1)).toEqual({ kind: "block", rows: [["41.9"], ["41.7"]] });
    expect(readBlock("1\t2\n3\t4", 2)).toEqual({
      kind: "block",
      rows: [
        ["1", "2"],
        ["3", "4"],
      ],
    });
  });
  it("keeps a cell whole that the spreadsheet quoted", () => {
    expect(readBlock('"two\nlines"\t"a ""b"""\n7\t3"', 2)).toEqual({
      kind: "block",
      rows: [
        ["two\nlines", 'a "b"'],
        ["7", '3"'],
      ],
    });
  });
  it("is refused whole where it does not fit", () => {
    expect(readBlock("1\t2\t3", 2)).toMatchObject({ kind: "refused" });
    expect(readBlock("1\n".repeat(10_001), 1)).toMatchObject({ kind: "refused" });
    expect(readBlock("1\n".repeat(3 * 2 ** 20), 1)).toMatchObject({
      kind: "refused",
      message: expect.stringContaining("6 MB") as string,
    });
  });
});

describe("typed numbers", () => {
  it("follow the machine's decimal mark", () => {
    expect(readNumber("22.5", ".")).toBe(22.5);
    expect(readNumber("22,5", ",")).toBe(22.5);
    expect(readNumber("−3", ".")).toBe(-3);
    expect(readNumber("22,5", ".")).toBeNull();
    expect(readNumber("warm", ".")).toBeNull();
  });
  it("are written back as they would be typed", () => {
    expect(writeNumber(0.1 + 0.2, ".")).toBe("0.3");
    expect(writeNumber(41.9, ",")).toBe("41,9");
  });
});

describe("a block that looks like a series", () => {
  const read = (text: string) => (text.trim() ? Number(text) : null);
  const column = (...cells: string[]) => cells.map((cell) => [cell]);
  it("rises by the same step from its first row to its last", () => {
    expect(
      looksLikeSeries(
        [..."01234"].map((cell) => [cell, "61.5"]),
        read,
      ),
    ).toBe(true);
    expect(looksLikeSeries(column("0", "0.5", "1.0", "1.5", "2.0", "2.501"), read)).toBe(true);
  });
  it("is not one where it is short, falls, wavers or holds no numbers", () => {
    expect(looksLikeSeries(column("41", "42", "43", "44"), read)).toBe(false);
    expect(looksLikeSeries(column("5", "4", "3", "2", "1"), read)).toBe(false);
    expect(looksLikeSeries(column("41", "41.3", "41.1", "41.6", "41.2"), read)).toBe(false);
    expect(looksLikeSeries(column("41", "41", "41", "41", "41"), read)).toBe(false);
    expect(looksLikeSeries(column("1", "2", "", "4", "5"), read)).toBe(false);
  });
});

import { describe, expect, it } from "vitest";

import typed from "../../../server/tests/data/typed_numbers.json";
import { readMoney } from "./money";
import { readNumber, writeNumber } from "./number";

describe("numbers as they are typed", () => {
  it.each([
    ["22.5", 22.5],
    [" 22.5 ", 22.5],
    ["-3", -3],
    ["−3.25", -3.25],
    ["007", 7],
  ])("reads %s", (text, value) => expect(readNumber(text, ".")).toBe(value));
  it.each(typed as [string, "." | ",", number | null][])(
    "reads “%s” with “%s” as the server does",
    (text, mark, value) => expect(readNumber(text, mark)).toBe(value),
  );
  it.each(["", "22,5", "1.2.3", "22.", ".5", "1e3", "22 °C", "--3", "NaN", "Infinity"])(
    "takes “%s” for no number",
    (text) => expect(readNumber(text, ".")).toBeNull(),
  );
  it("takes the machine's decimal mark and no other", () => {
    expect(readNumber("22,5", ",")).toBe(22.5);
    expect(readNumber("22.5", ",")).toBeNull();
  });
  it.each([0, 1, -4.25, 118, 1e-9, 2.5e-7, 123456.789, 9.9e14, 0.1 + 0.2])(
    "reads %d back as written",
    (value) => {
      for (const mark of [".", ","] as const) {
        const text = writeNumber(value, mark);
        expect(text).toMatch(mark === "." ? /^-?\d+(\.\d+)?$/ : /^-?\d+(,\d+)?$/);
        expect(readNumber(text, mark)).toBeCloseTo(value, 12);
      }
    },
  );
});

describe("money as it is typed", () => {
  it.each([
    ["118", ".", "118"],
    ["118.00", ".", "118.00"],
    ["1,118.50", ".", "1118.50"],
    ["1,234,567.89", ".", "1234567.89"],
    ["118,50", ",", "118.50"],
    ["1.118,50", ",", "1118.50"],
    ["1.234", ",", "1234"],
    ["−52", ".", "-52"],
    [" 7.90 ", ".", "7.90"],
  ] as const)("sends %s, typed with “%s”, as %s", (text, mark, sent) =>
    expect(readMoney(text, mark)).toBe(sent),
  );
  it("leaves what is no amount as typed, for the server to name", () => {
    expect(readMoney("94,90", ".")).toBe("94,90");
    expect(readMoney("a lot", ".")).toBe("a lot");
    expect(readMoney("12,3456", ".")).toBe("12,3456");
  });
});

import { describe, expect, it } from "vitest";

import { csvText } from "./csv";

const oneCell = (text: string): string => csvText([[text]]).replace("\r\n", "");

describe("a table as a file", () => {
  it("quotes what holds a comma, a quote or a line, as RFC 4180 says", () => {
    expect(oneCell("Soak, above ambient")).toBe('"Soak, above ambient"');
    expect(oneCell('a 19" rack')).toBe('"a 19"" rack"');
    expect(oneCell("real\ngain")).toBe("real gain");
    expect(
      csvText([
        ["a", "b"],
        ["c", "d"],
      ]),
    ).toBe("a,b\r\nc,d\r\n");
  });
  it("lets no cell begin a formula, and leaves signed figures as they are", () => {
    for (const text of ["=1+1", "@sum", "+cmd|x", "-2+3", "=HYPERLINK()"]) expect(oneCell(text)[0]).toBe("'");
    for (const text of ["+34.1 %", "-5.00", "-5.00 EUR", "−52.00", "4.10 K hotter"])
      expect(oneCell(text)).toBe(text);
  });
});

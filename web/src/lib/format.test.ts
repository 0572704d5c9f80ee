import { describe, expect, it } from "vitest";

import {
  decimalsFor,
  formatDuration,
  formatExact,
  formatFigure,
  formatList,
  formatMoney,
  formatNumber,
  formatP,
  formatReading,
  formatSignedPercent,
  sayStep,
  formatDay,
} from "./format";

describe("an estimate is shown to the digit that its interval deserves", () => {
  it.each([
    [4.2, 1],
    [0.42, 2],
    [42, 0],
    [0.042, 3],
    [0, 1],
    [null, 1],
  ])("a half-width of %s deserves %s decimals", (halfWidth, decimals) => {
    expect(decimalsFor(halfWidth)).toBe(decimals);
  });
});

describe("numbers", () => {
  it("carry a true minus sign, and none on what rounds to zero", () => {
    expect(formatNumber(-4.56, 1)).toBe("−4.6");
    expect(formatNumber(-0.01, 1)).toBe("0.0");
    expect(formatSignedPercent(-0.01)).toBe("0.0 %");
    expect(formatSignedPercent(0.04)).toBe("0.0 %");
  });
  it("show the sign of a gain", () => {
    expect(formatSignedPercent(34.14)).toBe("+34.1 %");
    expect(formatSignedPercent(-2.5)).toBe("−2.5 %");
  });
  it("part thousands from five digits on", () => {
    expect(formatNumber(1240, 0)).toBe("1240");
    expect(formatNumber(1234567.8, 1)).toBe("1\u202f234\u202f567.8");
  });
  it("keep three significant digits as readings", () => {
    expect([512, 41.93, 9.124, 0.1234].map(formatFigure)).toEqual(["512", "41.9", "9.12", "0.123"]);
  });
});

describe("readings, times and money", () => {
  it("show long times as minutes and seconds", () => {
    expect(formatReading(952, "s")).toBe("15 min 52 s");
    expect(formatReading(41.9, "s")).toBe("41.9 s");
    expect(formatDuration(7260)).toBe("2 h 1 min");
    expect(formatReading(123, "")).toBe("123");
  });
  it("never pass money through a float", () => {
    expect(formatMoney("-0.10", "EUR")).toBe("−0.10 EUR");
    expect(formatMoney("123456789012345.67")).toBe("123456789012345.67");
  });
  it("never say that p is zero", () => {
    expect(formatP(0.0421)).toBe("p = 0.042");
    expect(formatP(0.00001)).toBe("p = 0.00001");
    expect(formatP(1e-30)).toBe("p < 0.000001");
  });
  it.each([
    [117.8, 118.6, "", "0.8 more, from 117.8 to 118.6"],
    [966, 790, "s", "2 min 56 s less, from 16 min 6 s to 13 min 10 s"],
    [330, 290, "s", "40 s less, from 5 min 30 s to 4 min 50 s"],
    [966.2, 965.9, "s", "0.3 s less, from 966.2 to 965.9 s"],
    [41.94, 31.16, "s", "10.7 s less, from 41.9 to 31.2 s"],
    [212.4, 271.3, "MB/s", "59 MB/s more, from 212 to 271 MB/s"],
    [5200, 8100, "s", "48 min more, from 1 h 27 min to 2 h 15 min"],
  ])("shows a step from %d to %d %s in one form, and what is shown adds up", (before, after, unit, said) => {
    const { size, from, to } = sayStep(before, after, unit);
    expect(`${size} ${after < before ? "less" : "more"}, from ${from} to ${to}`).toBe(said);
  });
  it("join words as in speech", () => {
    expect(formatList(["a", "b", "c"])).toBe("a, b and c");
    expect(formatList(["a"])).toBe("a");
  });
});

describe("days", () => {
  it("are said as exactly as they were noted", () => {
    expect(formatDay("2026-05-05")).toBe("5 May 2026");
    expect(formatDay("2021-02")).toBe("Feb 2021");
    expect(formatDay("2021")).toBe("2021");
  });
});

describe("a figure behind its rounded one", () => {
  it.each([
    [0.298123456789, "0.2981235"],
    [-1234567.89, "−1234568"],
    [0.0000001234, "1.234e−7"],
    [42, "42"],
  ])("%d is %s", (value, text) => {
    expect(formatExact(value)).toBe(text);
  });
});

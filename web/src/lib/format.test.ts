import { describe, expect, it } from "vitest";

import { formatCount, formatDay, formatDayOf, formatList, formatNumber } from "./format";

describe("ticks, counts and rows of words", () => {
  it("carry a true minus sign, and none on what rounds to zero", () => {
    expect(formatNumber(-4.6, 1)).toBe("−4.6");
    expect(formatNumber(-0.04, 1)).toBe("0.0");
  });
  it("part thousands from five digits on", () => {
    expect(formatNumber(1234, 0)).toBe("1234");
    expect(formatNumber(12345, 0)).toBe("12\u202f345");
  });
  it("count and join as in speech", () => {
    expect([formatCount(1, "run"), formatCount(3, "run")]).toEqual(["1 run", "3 runs"]);
    expect(formatList(["a", "b", "c"])).toBe("a, b and c");
    expect(formatList(["a"])).toBe("a");
  });
});

describe("days", () => {
  it("are said as exactly as they were noted", () => {
    expect(formatDay("2026-05-05")).toBe("5 May 2026");
    expect(formatDay("2021-02")).toBe("Feb 2021");
    expect(formatDayOf("2026-05-04T23:30:00Z", "Europe/Berlin")).toBe("5 May 2026");
    expect(formatDay("2021")).toBe("2021");
  });
});

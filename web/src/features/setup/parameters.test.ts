import { describe, expect, it } from "vitest";

import { readParameters, sayUnreadCount, writeParameters } from "./parameters";

describe("what a workload holds the same", () => {
  it("is read from a count, or from a name and its number", () => {
    expect(readParameters("40 photos, queue depth = 32; GB of input: 7,5", ",")).toEqual({
      photos: 40,
      "queue depth": 32,
      "GB of input": 7.5,
    });
  });
  it("keeps words as words, and a bare word as held", () => {
    expect(readParameters("preset=fine, cold start,", ".")).toEqual({ preset: "fine", "cold start": "yes" });
    expect(readParameters("  ", ".")).toEqual({});
  });
  it("takes thousands for thousands, and a release for a name", () => {
    expect(readParameters("1,000 GB, blocks = 3,000", ".")).toEqual({ GB: 1000, blocks: 3000 });
    expect(readParameters("release = 3.10, build = 007", ".")).toEqual({ release: "3.10", build: "007" });
    expect(readParameters("release = 3.9", ".")).toEqual({ release: 3.9 });
  });
  it("asks a count back that can't be read", () => {
    expect(sayUnreadCount("1,5 photos, preset = 12,34,5", ".")).toMatch(/“1,5” is no number here/);
    expect(sayUnreadCount("1,500 photos, release = 3.10", ".")).toBeUndefined();
  });
  it("comes back the same after it was written", () => {
    const held = { photos: 40, "GB of input": -7.5, preset: "fine", cold: "yes" };
    for (const mark of [".", ","] as const)
      expect(readParameters(writeParameters(held, mark), mark)).toEqual(held);
  });
});

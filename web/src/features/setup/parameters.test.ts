import { describe, expect, it } from "vitest";

import { readParameters, writeParameters } from "./parameters";

describe("what a workload holds the same", () => {
  it("is read from a count, or from a name and its number", () => {
    expect(readParameters("40 photos, queue depth = 32; GB of input: 7,5")).toEqual({
      photos: 40,
      "queue depth": 32,
      "GB of input": 7.5,
    });
  });
  it("keeps words as words, and a bare word as held", () => {
    expect(readParameters("preset=fine, cold start,")).toEqual({ preset: "fine", "cold start": "yes" });
    expect(readParameters("  ")).toEqual({});
  });
  it("comes back the same after it was written", () => {
    const held = { photos: 40, "GB of input": -7.5, preset: "fine", cold: "yes" };
    expect(readParameters(writeParameters(held))).toEqual(held);
  });
});

import { describe, expect, it } from "vitest";

import type { Measure } from "../api/client";
import { asksOf, isDerived, isRead, KIND_NAMES, kindOf, MEASURE_KINDS, sayField } from "./kinds";

const measure = (fields: Partial<Measure> = {}): Measure =>
  ({
    id: "m",
    scale: "ratio",
    kind: "time",
    better: "lower",
    unit: "s",
    needs: null,
    derived_from: null,
    per_measure: null,
    combined_by: null,
    part_of: null,
    of: null,
    levels: [],
    ...fields,
  }) as Measure;

describe("the kind of a measure", () => {
  it("is the one that it was made as", () => {
    for (const name of KIND_NAMES) {
      const { unit, scale, kind, better } = MEASURE_KINDS[name];
      const asks = asksOf(name);
      const made = measure({
        unit,
        scale,
        kind,
        better,
        of: asks === "of" ? 9 : null,
        needs: asks === "needs" ? { measure: "t", at_most: 3 } : null,
        derived_from: isDerived(name) && asks !== "needs" ? "other" : null,
        per_measure: asks === "per power" ? "power" : null,
      } as unknown as Partial<Measure>);
      expect(kindOf(made), name).toBe(name);
    }
  });
  it("is the nearest where its unit is another one", () => {
    expect(kindOf(measure({ unit: "min" }))).toBe("time");
    expect(kindOf(measure({ kind: "clock", better: "higher", unit: "GHz" }))).toBe("clock");
  });
});

describe("who reads a measure", () => {
  it("is nobody where it is made from another one, or from its parts", () => {
    const parts = [measure({ id: "a", part_of: "m" }), measure({ id: "b", part_of: "m" })];
    const combined = measure({ combined_by: "highest" });
    expect(isRead(measure(), [])).toBe(true);
    expect(isRead(measure({ derived_from: "a" }), [])).toBe(false);
    expect(isRead(combined, parts)).toBe(false);
    // One that stands without its parts was typed as a whole.
    expect(isRead(combined, [])).toBe(true);
  });
});

describe("what is to be written", () => {
  it("is said where it is no plain figure", () => {
    expect(sayField(measure({ scale: "outcome" }))).toBe("1 works, 0 does not");
    expect(sayField(measure({ scale: "outcome", of: 9 }))).toBe("how many of 9 work");
    expect(sayField(measure({ scale: "ordinal", levels: ["stutters", "smooth"] }))).toBe(
      "1 stutters · 2 smooth",
    );
    expect(sayField(measure())).toBe("");
  });
});

import { describe, expect, it } from "vitest";

import type { Case, Comparison, Measure, MeasureResult, Vocabulary } from "../../api/client";
import {
  sayAbsolute,
  sayBundle,
  sayChange,
  sayForeseen,
  sayInterval,
  sayKind,
  sayLosses,
  sayNoLoss,
  sayVerdict,
} from "./says";

const tiles = {
  id: "t",
  name: "Tile rendering",
  unit_display: "s",
  difference_display: "%",
  scale: "ratio",
  kind: "time",
} as Measure;
const soak = {
  id: "s",
  name: "Soak",
  unit_display: "°C",
  difference_display: "K",
  scale: "difference",
  kind: "heat",
} as Measure;
const faster = {
  estimate: 0.29,
  gain_percent: 34.14,
  gain_low: 30.2,
  gain_high: 38.1,
  verdict: "real_gain",
  provisional: false,
} as MeasureResult;
const hotter = {
  passed_before: null,
  passed_after: null,
  estimate: -4.6,
  gain_percent: null,
  gain_low: null,
  gain_high: null,
  ci_low: -5.55,
  ci_high: -3.65,
  verdict: "real_loss",
  provisional: false,
} as MeasureResult;

describe("what a result says", () => {
  it("names the direction of a temperature, never with a sign", () => {
    expect(sayChange(hotter, soak)).toBe("4.60 K hotter");
    expect(sayChange({ ...hotter, estimate: 4.6 }, soak)).toBe("4.60 K cooler");
    expect(
      sayChange(
        { ...hotter, estimate: 0.3, ci_low: 0.1, ci_high: 0.5 },
        { ...soak, kind: "noise", difference_display: "dB(A)" },
      ),
    ).toBe("0.30 dB(A) quieter");
  });
  it("counts outcomes and steps", () => {
    const counts = { ...hotter, passed_before: 5, passed_after: 8, runs_before: 9, runs_after: 8 };
    expect(sayChange(counts, soak)).toBe("5 of 9 passed → 8 of 8");
    const set = { ...soak, scale: "outcome", of: 9 } as Measure;
    const tries = { ...hotter, passed_before: 20, passed_after: 36, runs_before: 4, runs_after: 4 };
    expect(sayChange(tries, set)).toBe("5 of 9 passed → 9 of 9");
    expect(sayChange({ ...tries, passed_before: 21 }, set)).toBe("21 of 36 passed → 36 of 36");
    const steps = { ...soak, kind: "other", scale: "ordinal", difference_display: "" } as Measure;
    expect(sayChange({ ...hotter, ci_low: null, ci_high: null }, steps)).toBe("4.6 steps worse");
  });
  it("gives the change in the unit beside its percent", () => {
    const times = { ...faster, before_mean: 42.12, after_mean: 31.24 };
    expect(sayAbsolute(times, tiles)).toBe("10.9 s less, from 42.1 to 31.2 s");
    const rate = { ...tiles, kind: "rate", unit_display: "MB/s" } as Measure;
    expect(sayAbsolute({ ...faster, before_mean: 212, after_mean: 271 }, rate)).toBe(
      "59 MB/s more, from 212 to 271 MB/s",
    );
    expect(sayAbsolute(hotter, soak)).toBeNull();
  });
  it("gives a time as how many times as fast", () => {
    expect(sayVerdict(faster, tiles)).toBe("Tile rendering: 1.34× as fast, and the gain is real");
    expect(sayVerdict({ ...faster, gain_percent: 1.5, verdict: "not_settled" }, tiles)).toBe(
      "Tile rendering: 1.015× as fast, but not settled",
    );
  });
  it.each([
    ["power", "lower", 100, 80, "20.0 % less power"],
    ["power", "lower", 80, 100, "25.0 % more power"],
    ["fan", "lower", 1000, 1210, "21.0 % faster fan"],
    ["clock", "higher", 3000, 3090, "3.0 % higher clock"],
    ["other", "higher", 50, 40, "20.0 % less"],
  ] as const)("never makes a multiple of %s", (kind, better, before, after, said) => {
    const estimate = Math.log(after / before) * (better === "higher" ? 1 : -1);
    const reading = { ...tiles, kind, better } as Measure;
    const result = {
      ...faster,
      estimate,
      gain_percent: 100 * Math.expm1(estimate),
      ci_low: null,
      ci_high: null,
    };
    for (const verdict of ["real_gain", "real_loss", "not_settled"] as const) {
      const sentence = sayVerdict({ ...result, passed_before: null, verdict }, reading);
      expect(sentence).toContain(said);
      expect(sentence).not.toMatch(/×|as fast|of what it was/);
    }
  });
  it("gives the interval of a reading that is not work in the same words", () => {
    const power = { ...tiles, kind: "power", better: "lower" } as Measure;
    const of = (ci_low: number, ci_high: number) => ({ ...faster, estimate: 0.2, ci_low, ci_high });
    expect(sayInterval(of(0.15, 0.25), power)).toBe("13.9 to 22.1 % less power");
    expect(sayInterval(of(-0.05, 0.06), power)).toBe("5.8 % less power to 5.1 % more power");
  });
  it("says that a verdict is provisional", () => {
    expect(sayVerdict({ ...faster, provisional: true }, tiles)).toContain("provisionally");
  });
  it("gives an interval in words that fit its side of zero", () => {
    expect(sayInterval(faster, tiles)).toBe("+30.2 to +38.1 %");
    expect(sayInterval(hotter, soak)).toBe("3.65 to 5.55 K hotter");
    expect(sayInterval({ ...hotter, ci_low: -0.5, ci_high: 1.2 }, soak)).toBe(
      "0.50 K hotter to 1.20 K cooler",
    );
    expect(sayInterval({ ...hotter, ci_low: null, ci_high: null }, soak)).toBeNull();
  });
  it("brings losses to the front, and only real ones", () => {
    const comparison = { measures: { t: faster, s: hotter } } as unknown as Comparison;
    expect(sayLosses(comparison, [tiles, soak])).toBe("Got worse: Soak, 4.60 K hotter.");
    expect(sayNoLoss(comparison)).toBeNull();
    const onlyGains = { ...comparison, measures: { t: faster } };
    expect(sayLosses(onlyGains, [tiles, soak])).toBeNull();
    expect(sayNoLoss(onlyGains)).toBe("Nothing was shown to get worse.");
    const open = { ...hotter, verdict: "not_settled" } as MeasureResult;
    expect(sayNoLoss({ ...comparison, measures: { t: faster, s: open } })).toBe(
      "Nothing was shown to get worse; 1 not settled.",
    );
    expect(sayNoLoss({ ...comparison, measures: { s: open } })).toBeNull();
  });
});

describe("a bundle", () => {
  it("is named whole, and one change alone is none", () => {
    const of = (changes: string[]) => sayBundle({ changes });
    expect(of(["processor", "fresh paste"])).toBe("Changed together: processor and fresh paste.");
    expect(of(["memory"])).toBeNull();
  });
});

describe("what leaving something out would do", () => {
  const job = {
    builds: [
      { id: "b", letter: "B" },
      { id: "c", letter: "C" },
    ],
    measures: [{ id: "t", name: "Tiles" }],
  } as unknown as Case;
  const change = { before: "b", after: "c", measure: "t", now: "real_gain", then: "not_settled" } as const;
  it("names each verdict that would be another one, and says so where none would", () => {
    expect(sayForeseen(job, [change])).toBe(
      "This would change a verdict. Tiles, B → C: real gain becomes not settled.",
    );
    expect(sayForeseen(job, [])).toBe("No verdict would change.");
  });
});

describe("a note of a swap", () => {
  it("says of a note what it tells of, on the scale of its kind", () => {
    const scales = { "dust found": ["none", "a film", "half closed", "closed"] } as Vocabulary["found_steps"];
    expect(sayKind({ kind: "dust found", step: 3 }, scales)).toBe("Dust found, 3 of 4: half closed.");
    expect(sayKind({ kind: "drawback", step: null }, scales)).toBe("Drawback:");
  });
});

import { describe, expect, it } from "vitest";

import { sayDoubt, sayTrend, type Trend } from "./traits";

const point = { measure: "m", value: 1, estimate: 0 };
const trend = (fields: Partial<Trend>): Trend => ({
  trait: "photos",
  points: [point, point, point, point],
  rising: 5,
  falling: 1,
  tau: 0.67,
  few: true,
  moves_with: [],
  ...fields,
});

describe("gain against a trait of the work", () => {
  it("says in how many pairs of jobs more of it meant more gain", () => {
    expect(sayTrend(trend({}))).toBe("In 5 of 6 pairs of jobs the one with more photos gained more.");
    expect(sayTrend(trend({ rising: 0, falling: 6 }))).toBe(
      "In all 6 pairs of jobs the one with more photos gained less.",
    );
    expect(sayTrend(trend({ rising: 3, falling: 3 }))).toContain("does not follow photos");
    expect(sayTrend(trend({ rising: 0, falling: 0 }))).toContain("gained alike");
  });
  it("doubts few jobs and traits that move together, and nothing else", () => {
    expect(sayDoubt(trend({ moves_with: ["files"] }))).toBe(
      "A suggestion only: 4 jobs are few; it takes twelve to tell a trend from chance, and files moves with it and may be what counts.",
    );
    expect(sayDoubt(trend({ few: false }))).toBeNull();
  });
});

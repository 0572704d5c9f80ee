import { expect, test } from "vitest";

import type { Curve, Live } from "../../../api/client";
import { levelAt, minutesOf } from "./live";

const curve = (at: number[], levels: (number | null)[]): Curve => ({
  role: "temperature",
  unit: "K",
  sensor: "die",
  at,
  lows: levels,
  highs: levels.map((level) => (level === null ? null : level + 2)),
});

test("a level is the mean of what stands within a quarter minute, and nothing over a gap", () => {
  const told = curve([0, 10, 20, 60], [10, 20, 30, null]);
  expect(levelAt(told, 10)).toBe(21);
  expect(levelAt(told, 30)).toBe(31);
  expect(levelAt(told, 60)).toBeNull();
  expect(levelAt(told, 300)).toBeNull();
});

test("the minutes are those that the run has seen", () => {
  const seen = (at: number[]) => ({ runs: [{ curves: [curve(at, [])] }] }) as unknown as Live;
  expect(minutesOf(seen([0, 59]))).toEqual([0]);
  expect(minutesOf(seen([0, 125]))).toEqual([0, 1, 2]);
  expect(minutesOf({ runs: [] } as unknown as Live)).toEqual([0]);
});

import { expect, it } from "vitest";

import type { Plan } from "../../../api/client";
import { NO_TIMERS, timedNotes } from "./timing";

const MINUTE = 60_000;
const plan = { soak_min: 10, rest_min: 2 } as Plan;
const NOW = 1_000 * MINUTE;

it("notes the soak with the run after it alone: the real one, else the planned one", () => {
  const soak = NOW - 5 * MINUTE;
  expect(timedNotes({ ...NO_TIMERS, soak }, plan, 0, NOW)).toEqual({ soak_s: 600 });
  expect(timedNotes({ ...NO_TIMERS, soak, soaked: 12 * MINUTE }, plan, 0, NOW)).toEqual({ soak_s: 720 });
  expect(timedNotes({ ...NO_TIMERS, soak: NOW + 4 * MINUTE }, plan, 0, NOW)).toEqual({ soak_s: 360 });
  expect(timedNotes({ ...NO_TIMERS, soak }, plan, 1, NOW)).toEqual({});
});

it("knows no rest: when a figure was typed does not say how long the machine rested before its run", () => {
  expect(timedNotes({ ...NO_TIMERS, rest: NOW - MINUTE }, plan, 3, NOW)).toEqual({});
  expect(timedNotes({ ...NO_TIMERS, rest: NOW + MINUTE }, plan, 3, NOW)).toEqual({});
});

import type { Plan } from "../../../api/client";
import { type Noted } from "../../../job/rows";

/**
 * Until when it rests and soaks, in milliseconds of the clock; `soaked` is how long it soaked where that was said,
 * `soakedFor` how many runs there were when the soak began: it belongs to the one after them.
 */
export interface TimerState {
  rest: number;
  soak: number;
  soaked: number;
  soakedFor: number;
}

export const NO_TIMERS: TimerState = { rest: 0, soak: 0, soaked: 0, soakedFor: 0 };

const MINUTE_MS = 60_000;

/**
 * What the timers tell of a run that is entered now: the real soak, or the planned one where nobody said when it ended.
 *
 * How long the machine rested is not told by when a figure was typed: nobody said it, so it is not known.
 */
export function timedNotes(state: TimerState, plan: Plan, runs: number, now: number): Noted {
  const soakMs = plan.soak_min * MINUTE_MS;
  const soaked = state.soaked || Math.min(soakMs, now - (state.soak - soakMs));
  return state.soak > 0 && state.soakedFor === runs ? { soak_s: Math.round(soaked / 1000) } : {};
}

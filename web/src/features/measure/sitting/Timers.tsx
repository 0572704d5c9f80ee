import { useEffect, useRef, useState } from "react";

import type { Plan } from "../../../api/client";
import { useDraft } from "../../../lib/draft";
import { beep } from "../../../lib/sound";
import { Button } from "../../../ui/Button";
import { Term } from "../../../ui/Term";
import { type Noted } from "../../../job/rows";
import { sayLeft } from "../model";
import { NO_TIMERS, type TimerState, timedNotes } from "./timing";

const TICK_MS = 500;

export interface TimersOfSitting {
  state: TimerState;
  set: (state: TimerState) => void;
  /** What the timers tell of a run that is entered now. */
  noted: () => Noted;
}

/** The timers of a sitting: kept, so that neither a reload nor leaving ends them. */
export function useTimers(plan: Plan, sitting: string, runs: number): TimersOfSitting {
  const [state, set] = useDraft<TimerState>(`timers.${sitting}`, NO_TIMERS);
  const newest = useRef(runs);
  useEffect(() => {
    if (runs > newest.current && plan.rest_min > 0)
      set({ ...state, rest: Date.now() + plan.rest_min * 60_000 });
    newest.current = runs;
  }, [runs, plan.rest_min, state, set]);
  return { state, set, noted: () => timedNotes(state, plan, runs, Date.now()) };
}

interface Props {
  plan: Plan;
  timers: TimersOfSitting;
  runs: number;
}

/** Rest between runs, begun by itself with each run that is saved; and the soak before one, begun by hand. */
export function Timers({ plan, timers: { state, set }, runs }: Props) {
  const rest = useLeft(state.rest);
  const soak = useLeft(state.soak);
  const isSoaking = state.soak > 0 && state.soaked === 0;
  if (!plan.rest_min && !plan.soak_min) return null;
  const begin = () =>
    set({ ...state, soak: Date.now() + plan.soak_min * 60_000, soaked: 0, soakedFor: runs });
  return (
    <div className="mb-3 flex flex-wrap items-center gap-x-5 gap-y-1">
      {plan.soak_min > 0 && (
        <>
          <Button onClick={begin}>
            {state.soak === 0 ? `Start the soak, ${plan.soak_min} min` : "Start the soak anew"}
          </Button>
          <Term name="soak">a soak?</Term>
          {isSoaking && (
            <>
              <span role="timer" className="text-lg font-semibold">
                {soak > 0 ? `soaking, ${sayLeft(soak)} left` : "soaked: measure now"}
              </span>
              <Button
                onClick={() => set({ ...state, soaked: Date.now() - (state.soak - plan.soak_min * 60_000) })}
              >
                The run begins
              </Button>
            </>
          )}
          {state.soaked > 0 && state.soakedFor === runs && (
            <span className="text-soft">soaked for {sayLeft(state.soaked)}; noted with the run</span>
          )}
        </>
      )}
      {plan.rest_min > 0 && (
        <span role="timer" className={rest > 0 ? "text-lg font-semibold" : "text-soft"}>
          {rest > 0 ? `rest, ${sayLeft(rest)} left` : `rest of ${plan.rest_min} min between runs`}
        </span>
      )}
    </div>
  );
}

/** Milliseconds that are left; a tone sounds when they are over, not when they were over before. */
function useLeft(until: number): number {
  const [left, setLeft] = useState(() => Math.max(0, until - Date.now()));
  useEffect(() => {
    if (until <= Date.now()) return;
    const timer = setInterval(() => {
      const still = Math.max(0, until - Date.now());
      setLeft(still);
      if (still > 0) return;
      clearInterval(timer);
      beep();
    }, TICK_MS);
    return () => clearInterval(timer);
  }, [until]);
  return left;
}

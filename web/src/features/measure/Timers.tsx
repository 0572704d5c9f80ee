import { useEffect, useRef, useState } from "react";

import type { Plan } from "../../api/client";
import { useDraft } from "../../lib/draft";
import { beep } from "../../lib/sound";
import { Button } from "../../ui/Button";
import { sayLeft } from "./model";

const TICK_MS = 500;

/** Until when it rests and soaks, in milliseconds of the clock: kept, so that a reload does not end it. */
interface Ends {
  rest: number;
  soak: number;
}

/** Rest between runs, begun by itself with each run that is saved; and the soak before the first, begun by hand. */
export function Timers({ plan, sitting, runs }: { plan: Plan; sitting: string; runs: number }) {
  const [ends, setEnds] = useDraft<Ends>(`timers.${sitting}`, { rest: 0, soak: 0 });
  const newest = useRef(runs);
  useEffect(() => {
    if (runs > newest.current && plan.rest_min > 0)
      setEnds({ ...ends, rest: Date.now() + plan.rest_min * 60_000 });
    newest.current = runs;
  }, [runs, plan.rest_min, ends, setEnds]);
  const rest = useLeft(ends.rest);
  const soak = useLeft(ends.soak);
  if (!plan.rest_min && !plan.soak_min) return null;
  return (
    <div className="mb-3 flex flex-wrap items-center gap-x-5 gap-y-1">
      {plan.soak_min > 0 && (
        <>
          <Button onClick={() => setEnds({ ...ends, soak: Date.now() + plan.soak_min * 60_000 })}>
            {ends.soak === 0 ? `Start the soak, ${plan.soak_min} min` : "Start the soak anew"}
          </Button>
          {ends.soak > 0 && (
            <span role="timer" className="text-lg font-semibold">
              {soak > 0 ? `soaking, ${sayLeft(soak)} left` : "soaked: measure now"}
            </span>
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

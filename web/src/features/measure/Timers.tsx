import { useEffect, useRef, useState } from "react";

import type { Plan } from "../../api/client";
import { Button } from "../../ui/Button";
import { sayLeft } from "./model";

const TICK_MS = 500;

/** Rest between runs, begun by itself with each run that is saved; and the soak before the first, begun by hand. */
export function Timers({ plan, runs }: { plan: Plan; runs: number }) {
  const rest = useRest(runs, plan.rest_min);
  const [soakUntil, setSoakUntil] = useState<number | null>(null);
  const soak = useLeft(soakUntil);
  if (!plan.rest_min && !plan.soak_min) return null;
  return (
    <div className="mb-3 flex flex-wrap items-center gap-x-5 gap-y-1">
      {plan.soak_min > 0 && (
        <>
          <Button onClick={() => setSoakUntil(Date.now() + plan.soak_min * 60_000)}>
            {soakUntil === null ? `Start the soak, ${plan.soak_min} min` : "Start the soak anew"}
          </Button>
          {soakUntil !== null && (
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

/** Milliseconds of rest that are left since the newest run came in. */
function useRest(runs: number, minutes: number): number {
  const [left, setLeft] = useState(0);
  const newest = useRef({ runs, at: 0 });
  useEffect(() => {
    if (!minutes) return;
    const tick = () => {
      if (runs > newest.current.runs) newest.current.at = Date.now();
      newest.current.runs = runs;
      setLeft(Math.max(0, newest.current.at + minutes * 60_000 - Date.now()));
    };
    const timer = setInterval(tick, TICK_MS);
    return () => clearInterval(timer);
  }, [runs, minutes]);
  return left;
}

function useLeft(until: number | null): number {
  const [left, setLeft] = useState(0);
  useEffect(() => {
    if (until === null) return;
    const timer = setInterval(() => setLeft(Math.max(0, until - Date.now())), TICK_MS);
    return () => clearInterval(timer);
  }, [until]);
  return left;
}

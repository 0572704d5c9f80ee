import { useSyncExternalStore } from "react";

import type { Case, Run, Sitting } from "../../../api/client";
import { changesOfDesks, countedAt, followDesks } from "../../../job/desk";
import { type Queued, queueOf } from "../model";

/** The queue of a sitting with what is being sent counted in, so that fast hands are not held up. */
export function useQueue(job: Case, runs: Run[], sitting: Sitting | undefined): Queued[] {
  useSyncExternalStore(followDesks, changesOfDesks);
  return sitting ? withTyped(queueOf(job, runs, sitting), sitting.id) : [];
}

/** A queue with what is typed by this very moment. */
export const withTyped = (queue: Queued[], sitting: string): Queued[] =>
  queue.map((queued) => {
    const { done, refused } = countedAt({ sitting, workload: queued.workload.id });
    return { ...queued, done: Math.max(queued.done, done), refused };
  });

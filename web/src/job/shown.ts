import { useEffect } from "react";

import { call, type Case, type Comparison, Lost, Refused } from "../api/client";
import { isToBeJudged } from "./says";

const RETRY_MS = 3000;

/** The measures of a comparison whose verdict is on the screen, and which the ledger does not hold yet. */
export const toBeGiven = ({ measures }: Pick<Comparison, "measures">): string[] =>
  Object.entries(measures).flatMap(([id, result]) => (isToBeJudged(result) ? [id] : []));

/** Swaps whose both sides have readings, and of which the record does not hold yet that anybody saw them. */
export const notLookedAtYet = (job: Pick<Case, "swaps" | "builds">): string[] => {
  const read = new Set(job.builds.filter(({ sealed }) => sealed).map(({ id }) => id));
  return job.swaps
    .filter(({ before, after, looked_at }) => !looked_at && read.has(before) && read.has(after))
    .map(({ id }) => id);
};

/** Tells the server of which swaps both sides are on the screen, verdict or not; `only` one of them, or all. */
export function useLooked(job: Case, only?: string): void {
  const fresh = JSON.stringify(notLookedAtYet(job).filter((id) => only === undefined || id === only));
  const machineId = job.machine.id;
  useEffect(() => {
    const swaps = JSON.parse(fresh) as string[];
    if (swaps.length === 0) return;
    const tell = (): Promise<void> =>
      call("post", "/api/machines/{machine_id}/looked", { machine_id: machineId }, { swaps }).catch(
        (error: unknown) => {
          if (error instanceof Lost) setTimeout(() => void tell(), RETRY_MS);
          else if (!(error instanceof Refused)) throw error;
        },
      );
    void tell();
  }, [machineId, fresh]);
}

/** Tells the server which verdicts a comparison has given to whoever looks, and from which state it was made. */
export function useShown(machineId: string, comparison: Comparison): void {
  const { before, after, revision, evidence_revision } = comparison;
  const fresh = JSON.stringify(toBeGiven(comparison));
  useEffect(() => {
    const measures = JSON.parse(fresh) as string[];
    if (measures.length === 0 || revision === null || evidence_revision === null) return;
    const tell = (): Promise<void> =>
      call(
        "post",
        "/api/machines/{machine_id}/shown",
        { machine_id: machineId },
        { before, after, measures, revision, evidence_revision },
      ).catch((error: unknown) => {
        // It was seen, also if the screen is left meanwhile: told as soon as the server is back.
        if (error instanceof Lost) setTimeout(() => void tell(), RETRY_MS);
        // What changed meanwhile comes to the screen anew, and is told of then.
        else if (!(error instanceof Refused)) throw error;
      });
    void tell();
  }, [machineId, before, after, revision, evidence_revision, fresh]);
}

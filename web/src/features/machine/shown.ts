import { useEffect } from "react";

import { type Comparison, Lost, postShown, Refused } from "../../api/client";

const RETRY_MS = 3000;

/** Verdicts of a comparison that are on the screen and that the ledger does not hold yet for this evidence. */
export const notShownYet = (comparison: Pick<Comparison, "measures">): string[] =>
  Object.entries(comparison.measures)
    .filter(([, result]) => result.can_be_shown && !result.shown)
    .map(([id]) => id);

/** Tells the server which verdicts a comparison has given to whoever looks, and from which state it was made. */
export function useShown(machineId: string, comparison: Comparison): void {
  const { before, after, revision, evidence } = comparison;
  const fresh = JSON.stringify(notShownYet(comparison));
  useEffect(() => {
    const measures = JSON.parse(fresh) as string[];
    if (measures.length === 0 || revision === null || evidence === null) return;
    const tell = (): Promise<void> =>
      postShown(machineId, { before, after, measures, revision, evidence }).catch((error: unknown) => {
        // It was seen, also if the screen is left meanwhile: told as soon as the server is back.
        if (error instanceof Lost) setTimeout(() => void tell(), RETRY_MS);
        // What changed meanwhile comes to the screen anew, and is told of then.
        else if (!(error instanceof Refused)) throw error;
      });
    void tell();
  }, [machineId, before, after, revision, evidence, fresh]);
}

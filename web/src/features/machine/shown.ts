import { useEffect } from "react";

import { type Comparison, Lost, postShown, Refused, type Swap } from "../../api/client";

/** Verdicts of some measures of a swap, as a screen shows them. */
export interface Showing {
  swap: Swap | undefined;
  comparison: Comparison | undefined;
  measures: string[];
}

const PLANNED = new Set<Comparison["measures"][string]["basis"]>(["sittings", "paired_sittings", "exact"]);

/** Those measures whose one planned verdict is given here and was not given before. */
export function firstShown({ swap, comparison, measures }: Showing): string[] {
  return measures.filter((id) => {
    const result = comparison?.measures[id];
    return (
      result &&
      PLANNED.has(result.basis) &&
      !result.provisional &&
      result.verdict !== "untested" &&
      !swap?.shown.includes(id)
    );
  });
}

/** Tells the server which verdicts are on the screen: with what is added after that, they need more evidence. */
export function useShown(machineId: string, showings: Showing[]): void {
  const fresh = JSON.stringify(
    showings.flatMap((showing) => {
      const measures = firstShown(showing);
      return showing.swap && measures.length ? [[showing.swap.id, measures]] : [];
    }),
  );
  useEffect(() => {
    for (const [swap, measures] of JSON.parse(fresh) as [string, string[]][]) {
      postShown(machineId, swap, measures).catch((error: unknown) => {
        // It is said again when the screen is next shown anew.
        if (!(error instanceof Lost || error instanceof Refused)) throw error;
      });
    }
  }, [machineId, fresh]);
}

import { useEffect } from "react";

import {
  type Bench,
  type Comparison,
  Lost,
  postShown,
  Refused,
  type Swap,
  type Verdict,
} from "../../api/client";

/** Verdicts of some measures of a swap, as a screen shows them; `given` are those that were given before. */
export interface Showing {
  swap: string;
  given: string[];
  results: Record<string, Verdict>;
}

type Newest = NonNullable<NonNullable<Bench["line"]>["newest"]>;

/** The measures of a swap's comparison that are on the screen. */
export function showing(swap: Swap, comparison: Comparison | undefined, measures: string[]): Showing {
  const results = measures.flatMap((id) => {
    const result = comparison?.measures[id];
    return result ? [[id, result] as const] : [];
  });
  return { swap: swap.id, given: swap.shown, results: Object.fromEntries(results) };
}

/** What the home screen shows of a machine's newest swap: the measure that leads. */
export const leadShowing = ({ swap, shown, lead, result }: Newest): Showing => ({
  swap,
  given: shown,
  results: lead && result ? { [lead.id]: result } : {},
});

const PLANNED = new Set<Verdict["basis"]>(["sittings", "paired_sittings", "exact"]);

/** Those measures whose one planned verdict is given here and was not given before. */
export const firstShown = ({ given, results }: Showing): string[] =>
  Object.entries(results)
    .filter(
      ([id, result]) =>
        PLANNED.has(result.basis) &&
        !result.provisional &&
        result.verdict !== "untested" &&
        !given.includes(id),
    )
    .map(([id]) => id);

/** Tells the server which verdicts are on the screen: with what is added after that, they need more evidence. */
export function useShown(machineId: string, showings: Showing[]): void {
  const fresh = JSON.stringify(
    showings.flatMap((each) => {
      const measures = firstShown(each);
      return measures.length ? [[each.swap, measures]] : [];
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

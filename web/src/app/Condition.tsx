import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";

import { api, type Health } from "../api/client";

const WELL_MS = 15_000;
const ILL_MS = 1000;

export const healthQuery = api.queryOptions("get", "/api/health");

/**
 * What keeps the server from its work, in a line; nothing while all is well. `lost` is why it gave no answer: it is away
 * itself, or says that its database answers nobody.
 */
export function sayCondition(health: Health | undefined, lost: string | null): string | null {
  if (lost !== null) return lost;
  if (health?.database === "away") return "The database is away. Typed entries are kept; trying again.";
  if (health?.space === "full")
    return `The disk is full (${health.free_mb} MB are free). Reading goes on; nothing is saved until there is space again.`;
  if (health?.space === "scarce")
    return `Only ${health.free_mb} MB are free on the disk. Make space soon: below ${health.full_mb} MB nothing is saved any more.`;
  return null;
}

/** Whether nothing can be saved now. */
const isIll = (health: Health | undefined, isLost: boolean): boolean =>
  isLost || health?.database === "away" || health?.space === "full";

/** One line over every screen while the server can't do its work; what waited for it goes on by itself. */
export function Condition({ onReturn }: { onReturn: () => void }) {
  const client = useQueryClient();
  const { data, error } = useQuery({
    ...healthQuery,
    retry: false,
    refetchInterval: ({ state }) => (isIll(state.data, state.error !== null) ? ILL_MS : WELL_MS),
  });
  const ill = isIll(data, error !== null);
  const wasIll = useRef(false);
  useEffect(() => {
    if (wasIll.current && !ill) {
      void client.invalidateQueries();
      onReturn();
    }
    wasIll.current = ill;
  }, [ill, client, onReturn]);
  // Described is what a server answers; what is thrown is why there was no answer.
  const thrown: unknown = error;
  const line = sayCondition(data, thrown instanceof Error ? thrown.message : null);
  return (
    <aside aria-label="How the server is" className="print:hidden">
      <p role="alert" className="border-b-2 border-warn bg-note px-5 py-2 empty:hidden">
        {line}
      </p>
    </aside>
  );
}

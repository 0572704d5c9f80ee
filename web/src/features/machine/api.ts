import {
  type QueryClient,
  queryOptions,
  useMutation,
  useQueryClient,
  useSuspenseQuery,
} from "@tanstack/react-query";
import { useEffect } from "react";
import { useParams } from "react-router";

import {
  type Case,
  eventsAddress,
  listMachineNames,
  readCase,
  readHome,
  readRuns,
  type Run,
} from "../../api/client";

const JUDGING_MS = 700;

/** A page of the machines that were looked for; asked again while one of them is being judged. */
export const homeQuery = (day: string, find: string, page: number) =>
  queryOptions({
    queryKey: ["benches", day, find, page],
    queryFn: () => readHome({ day, find, page }),
    refetchInterval: ({ state }) =>
      state.data?.benches.some((bench) => bench.state === "being judged") ? JUDGING_MS : false,
  });

/** Every machine's name, to choose one. */
export const namesQuery = queryOptions({ queryKey: ["benches", "names"], queryFn: listMachineNames });

export const caseQuery = (id: string) =>
  queryOptions({ queryKey: ["machine", id, "case"], queryFn: () => readCase(id) });

/** A machine with the runs that a screen shows of it. */
export type Evidence = Case & { runs: Run[] };

/** The runs of the sittings or builds that are named; none where none is. */
export const runsQuery = (id: string, of: { build?: string[]; sitting?: string[] }) =>
  queryOptions({
    queryKey: ["machine", id, "runs", of],
    queryFn: () => (of.build?.length || of.sitting?.length ? readRuns(id, of) : []),
  });

export const useRuns = (id: string, of: { build?: string[]; sitting?: string[] }): Run[] =>
  useSuspenseQuery(runsQuery(id, of)).data;

const SOON_MS = 120;
const RETRY_MS = 3000;
const soon = new Map<string, ReturnType<typeof setTimeout>>();

/** Asks for a machine anew, once for all that changes within a moment: an answer and the news of it are one change. */
export function refreshSoon(client: QueryClient, id: string): void {
  clearTimeout(soon.get(id));
  const refresh = () => void client.invalidateQueries({ queryKey: ["machine", id] });
  soon.set(id, setTimeout(refresh, SOON_MS));
}

/** The machine that the address names; every station of one machine works on the same case. */
export function useCase(): Case {
  const { machineId = "" } = useParams();
  return useSuspenseQuery(caseQuery(machineId)).data;
}

/**
 * Follows the machine's changes, so that what another device or the agent records appears without a reload.
 * Only a page that is looked at holds its connection: a browser allows six to one server, over all tabs.
 */
export function useMachineEvents(id: string): void {
  const client = useQueryClient();
  useEffect(() => {
    let source: EventSource | null = null;
    let retry: ReturnType<typeof setTimeout>;
    const refresh = () => refreshSoon(client, id);
    const follow = () => {
      leave();
      if (document.visibilityState === "hidden") return;
      source = new EventSource(eventsAddress(id));
      source.addEventListener("changed", refresh);
      source.addEventListener("ready", refresh);
      // A browser connects anew by itself after a cut, but never again after a refusal, as by a server that starts.
      source.addEventListener("error", ({ target }) => {
        if (target === source && source?.readyState === EventSource.CLOSED)
          retry = setTimeout(follow, RETRY_MS);
      });
    };
    const leave = () => {
      clearTimeout(retry);
      source?.close();
      source = null;
    };
    follow();
    document.addEventListener("visibilitychange", follow);
    window.addEventListener("pagehide", leave);
    return () => {
      leave();
      document.removeEventListener("visibilitychange", follow);
      window.removeEventListener("pagehide", leave);
    };
  }, [client, id]);
}

/**
 * Saves something of a machine; the answer, the whole case, is what the screens show next.
 *
 * `onSaved` runs before they do. A callback given to `mutate` would not do: it is dropped with a form that the
 * fresh case takes off the screen, and its draft would stay behind.
 */
export function useSave<Input>(id: string, save: (input: Input) => Promise<Case>, onSaved: () => void) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: save,
    onSuccess: (fresh) => {
      onSaved();
      client.setQueryData(caseQuery(id).queryKey, fresh);
      // And once more from the server: what others saved meanwhile may have come before this answer.
      void client.invalidateQueries({ queryKey: ["machine", id] });
      void client.invalidateQueries({ queryKey: ["benches"] });
    },
  });
}

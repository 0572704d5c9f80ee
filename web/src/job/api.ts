import {
  type QueryClient,
  queryOptions,
  useMutation,
  useQueryClient,
  useSuspenseQuery,
} from "@tanstack/react-query";
import { useEffect } from "react";
import { useParams } from "react-router";

import { api, call, type Case, eventsAddress, Refused, type Run, type RunsSaved } from "../api/client";
import { renew } from "../api/renew";
import type { paths } from "../api/schema";
import { type Counts, Knowledge, type Reach } from "./news";

const JUDGING_MS = 700;

/** A page of the machines that were looked for; asked again while one of them is being judged. */
export const homeQuery = (day: string, find: string, page: number, show: HomeShow) =>
  api.queryOptions(
    "get",
    "/api/machines",
    { params: { query: { day, find, page, show } } },
    {
      refetchInterval: ({ state }) =>
        state.data?.benches.some((bench) => bench.state === "being judged") ? JUDGING_MS : false,
    },
  );

/** Which machines home shows. */
export type HomeShow = NonNullable<NonNullable<paths["/api/machines"]["get"]["parameters"]["query"]>["show"]>;

/** Every machine's name, to choose one. */
export const namesQuery = api.queryOptions("get", "/api/machine-names");

/** Asks anew for home and what else lists machines. */
export const refreshBenches = (client: QueryClient): Promise<void> =>
  renew(client, (key) => ["/api/machines", "/api/machine-names"].includes(String(key[1])));

export const caseQuery = (id: string) =>
  api.queryOptions("get", CASE, { params: { path: { machine_id: id } } });

/** A machine with the runs that a screen shows of it. */
export type MachineRecord = Case & { runs: Run[] };

const CASE = "/api/machines/{machine_id}";
const RUNS = "/api/machines/{machine_id}/runs";
const DOUBTS = "/api/machines/{machine_id}/sittings/{sitting_id}/doubts";
const LEFT: Record<Reach, string[]> = { all: [], "but runs": [RUNS, DOUBTS], "but frame": [CASE] };

/** Whether a question is about a machine: its address begins with the machine's, and names it. */
const isAbout = (id: string, key: readonly unknown[]): boolean => {
  const init = key[2] as { params?: { path?: { machine_id?: string } } } | undefined;
  return String(key[1]).startsWith(CASE) && init?.params?.path?.machine_id === id;
};

/** Which readings of an open sitting may have been typed wrong. */
export const doubtsQuery = (id: string, sitting: string) =>
  api.queryOptions("get", DOUBTS, { params: { path: { machine_id: id, sitting_id: sitting } } });

/** Which runs of a sitting have a picture of what they were read off; no other save changes it. */
export const picturesQuery = (id: string, sitting: string) =>
  queryOptions({
    queryKey: ["pictures", sitting],
    queryFn: () =>
      call("get", "/api/machines/{machine_id}/sittings/{sitting_id}/pictures", {
        machine_id: id,
        sitting_id: sitting,
      }),
  });

/** Which verdicts would change without a run, or without a sitting. */
export const whatIfQuery = (id: string, query: { run?: string; sitting?: string }) =>
  api.queryOptions("get", "/api/machines/{machine_id}/what-if", {
    params: { path: { machine_id: id }, query },
  });

/** The runs of the sittings or builds that are named; where none is, nothing is asked: the server would answer all. */
export const runsQuery = (id: string, of: { build?: string[]; sitting?: string[] }) => {
  const options = api.queryOptions("get", RUNS, { params: { path: { machine_id: id }, query: of } });
  const none: typeof options.queryFn = () => [];
  return of.build?.length || of.sitting?.length ? options : { ...options, queryFn: none };
};

export const useRuns = (id: string, of: { build?: string[]; sitting?: string[] }): Run[] =>
  useSuspenseQuery(runsQuery(id, of)).data;

/** How the run that lasts is doing; asked anew every two seconds while one does. */
export const liveQuery = (id: string) =>
  api.queryOptions(
    "get",
    "/api/machines/{machine_id}/live",
    { params: { path: { machine_id: id } } },
    { refetchInterval: 2000 },
  );

/** What earlier runs' sensors told at each minute, to stand beside what is typed of a run of this sitting. */
export const besideQuery = (id: string, sitting: string, workload: string) =>
  api.queryOptions("get", "/api/machines/{machine_id}/sittings/{sitting_id}/beside", {
    params: { path: { machine_id: id, sitting_id: sitting }, query: { workload } },
  });

/** More than any trace that is typed has. */
const EVERY_SAMPLE = 5000;

/** What was kept over time of a run, sample by sample; null where nothing was. */
export const traceQuery = (id: string, run: string) =>
  queryOptions({
    queryKey: ["get", `${CASE}/traces/{run_id}`, { params: { path: { machine_id: id, run_id: run } } }],
    queryFn: async () => {
      try {
        return await call(
          "get",
          "/api/machines/{machine_id}/traces/{run_id}",
          { machine_id: id, run_id: run },
          undefined,
          { points: EVERY_SAMPLE },
        );
      } catch (error) {
        if (error instanceof Refused && error.status === 404) return null;
        throw error;
      }
    },
  });

/** The shop's parts shelf: what lies there, then what was taken from it. */
export const shelfQuery = api.queryOptions("get", "/api/shelf");

/** Every report that was handed out, the newest first. */
export const reportsQuery = (id: string) =>
  api.queryOptions("get", "/api/machines/{machine_id}/reports", { params: { path: { machine_id: id } } });

const SOON_MS = 120;
const RETRY_MS = 3000;

interface Followed {
  knowledge: Knowledge;
  timer?: ReturnType<typeof setTimeout>;
}

const followed = new Map<string, Followed>();

const followedMachine = (id: string): Followed => {
  const known = followed.get(id) ?? { knowledge: new Knowledge(null) };
  followed.set(id, known);
  return known;
};

/** Asks for what is due, once for all that changes within a moment: an answer and the news of it are one change. */
function refreshSoon(client: QueryClient, id: string, learn: (knowledge: Knowledge) => void): void {
  const known = followedMachine(id);
  learn(known.knowledge);
  clearTimeout(known.timer);
  known.timer = setTimeout(() => {
    const reach = known.knowledge.due();
    if (!reach) return;
    void renew(client, (key) => isAbout(id, key) && !LEFT[reach].includes(String(key[1])));
  }, SOON_MS);
}

/** Takes runs that were saved into what is shown, and asks for what follows from them. */
export async function takeSavedRuns(
  client: QueryClient,
  id: string,
  sitting: string,
  { runs, doubts, evidence_revision }: RunsSaved,
): Promise<void> {
  const { queryKey } = runsQuery(id, { sitting: [sitting] });
  const { queryKey: asked } = doubtsQuery(id, sitting);
  const saved = new Set(runs.map((run) => run.id));
  // A reading that is under way would bring back what stood there before this save; it is begun anew below.
  const isCut = client.isFetching({ queryKey }) + client.isFetching({ queryKey: asked }) > 0;
  await Promise.all([client.cancelQueries({ queryKey }), client.cancelQueries({ queryKey: asked })]);
  // Of two saves the later may be answered first; what is asked of the readings is of the later.
  if (followedMachine(id).knowledge.isLatest(evidence_revision)) client.setQueryData(asked, doubts);
  client.setQueryData<Run[]>(queryKey, (old) => old && [...old.filter((run) => !saved.has(run.id)), ...runs]);
  refreshSoon(client, id, (knowledge) => {
    knowledge.savedRuns(evidence_revision);
    if (isCut) knowledge.missed();
  });
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
    const shown = client.getQueryData<Case>(caseQuery(id).queryKey);
    // What was read of it before the screen was last left may be older than its frame.
    const isFirst = !followed.has(id);
    followedMachine(id).knowledge = new Knowledge(isFirst ? (shown ?? null) : null);
    const refresh = ({ data }: MessageEvent<string>) =>
      refreshSoon(client, id, (knowledge) => knowledge.hear(JSON.parse(data) as Counts));
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
      client.setQueryData<Case>(caseQuery(id).queryKey, (old) =>
        old && old.revision > fresh.revision ? old : fresh,
      );
      refreshSoon(client, id, (knowledge) => knowledge.savedFrame(fresh));
      void refreshBenches(client);
    },
  });
}

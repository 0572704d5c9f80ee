import { QueryClient, QueryObserver } from "@tanstack/react-query";
import { expect, test, vi } from "vitest";

import type { Doubt, Run, RunsSaved } from "../api/client";
import { doubtsQuery, runsQuery, takeSavedRuns } from "./api";

const SITTING = "s";

const saved = (evidence_revision: number, run: string, asked: string[] = []): RunsSaved => ({
  runs: [{ id: run } as Run],
  doubts: asked.map((message) => ({ run, message }) as Doubt),
  evidence_revision,
});

function atTheSheet(machine: string) {
  const client = new QueryClient();
  const runs = runsQuery(machine, { sitting: [SITTING] }).queryKey;
  client.setQueryData<Run[]>(runs, []);
  return {
    client,
    runs,
    take: (answer: RunsSaved) => takeSavedRuns(client, machine, SITTING, answer),
    shown: () => client.getQueryData<Run[]>(runs)?.map(({ id }) => id),
    asked: () =>
      client.getQueryData<Doubt[]>(doubtsQuery(machine, SITTING).queryKey)?.map(({ message }) => message),
  };
}

test("what a later save asks stands also where the answer to an earlier one comes after it", async () => {
  const { take, shown, asked } = atTheSheet("two saves");
  await take(saved(2, "second", ["418 s?"]));
  await take(saved(1, "first"));
  expect(shown()).toEqual(["second", "first"]);
  expect(asked()).toEqual(["418 s?"]);
  await take(saved(3, "second"));
  expect(asked()).toEqual([]);
});

test("a reading that a save cuts off is begun anew, so that another device's run is not lost", async () => {
  const { client, runs, take, shown } = atTheSheet("two devices");
  const answers: (() => Promise<Run[]>)[] = [
    () => Promise.resolve([{ id: "mine" }] as Run[]),
    // Asked for on news of the other device, and not answered before the next save is.
    () => new Promise(() => undefined),
    () => Promise.resolve([{ id: "theirs" }, { id: "mine" }, { id: "next" }] as Run[]),
  ];
  const queryFn = vi.fn(
    () => answers[queryFn.mock.calls.length - 1]?.() ?? Promise.reject(new Error("asked again")),
  );
  const observer = new QueryObserver<Run[]>(client, { queryKey: runs, queryFn, staleTime: Infinity });
  observer.subscribe(() => undefined);
  // What the screen knew before its first save is not certain: all is asked for once.
  await take(saved(1, "mine"));
  await vi.waitFor(() => expect(queryFn).toHaveBeenCalledTimes(1));
  void observer.refetch();
  await take(saved(2, "next"));
  expect(shown()).toEqual(["mine", "next"]);
  await vi.waitFor(() => expect(shown()).toEqual(["theirs", "mine", "next"]));
  expect(queryFn).toHaveBeenCalledTimes(3);
});

import { QueryClient, QueryObserver } from "@tanstack/react-query";
import { expect, test } from "vitest";

import { renew } from "./renew";

/** A server whose answers wait until they are let go; each says how many changes it knew of when it was asked. */
function slowServer() {
  const waiting: (() => void)[] = [];
  return {
    changes: 0,
    asked: 0,
    ask(): Promise<number> {
      const known = this.changes;
      this.asked += 1;
      return new Promise((resolve) => waiting.push(() => resolve(known)));
    },
    async answer() {
      for (const each of waiting.splice(0)) each();
      await new Promise((resolve) => setTimeout(resolve));
    },
  };
}

function looking(server: ReturnType<typeof slowServer>, key: string[]) {
  const client = new QueryClient();
  const observer = new QueryObserver(client, { queryKey: key, queryFn: () => server.ask() });
  observer.subscribe(() => undefined);
  return { client, shown: () => observer.getCurrentResult().data };
}

test("news that come while a screen asks for the first time are not lost", async () => {
  const server = slowServer();
  const { client, shown } = looking(server, ["bill"]);
  server.changes = 1;
  const renewed = renew(client);
  await server.answer();
  expect(shown()).toBe(0);
  await server.answer();
  await renewed;
  expect(shown()).toBe(1);
});

test("what is known is asked for once more, and what is not meant is left alone", async () => {
  const server = slowServer();
  const { client, shown } = looking(server, ["bill"]);
  await server.answer();
  server.changes = 1;
  await renew(client, (key) => key[0] === "case");
  expect([shown(), server.asked]).toEqual([0, 1]);
  const renewed = renew(client, (key) => key[0] === "bill");
  await server.answer();
  await renewed;
  expect([shown(), server.asked]).toEqual([1, 2]);
});

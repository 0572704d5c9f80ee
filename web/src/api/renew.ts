import type { Query, QueryClient } from "@tanstack/react-query";

/**
 * Asks anew for what is on the screen, also for what is just being asked for the first time.
 *
 * The query library reuses a first question that is under way; its answer may be older than the news that made this
 * call, and would stay on the screen. So such a question is asked once more as soon as it is answered.
 */
export async function renew(
  client: QueryClient,
  isMeant: (key: readonly unknown[]) => boolean = () => true,
): Promise<void> {
  const predicate = ({ queryKey }: Query) => isMeant(queryKey);
  const firstAsked = client
    .getQueryCache()
    .findAll({ predicate })
    .filter(({ state }) => state.data === undefined && state.fetchStatus === "fetching");
  await Promise.all([
    client.invalidateQueries({ predicate }),
    ...firstAsked.map(async (query) => {
      // A question that failed has its own way to be asked again.
      await query.promise?.catch(() => undefined);
      await client.invalidateQueries({ predicate: (other) => other === query });
    }),
  ]);
}

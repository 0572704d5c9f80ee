import { api, type Heat, withTuples } from "../api/client";

/** Two builds' heat by minutes of load; null where no work was traced on both. */
export const heatQuery = (machineId: string, before: string, after: string, workload: string | null) =>
  api.queryOptions(
    "get",
    "/api/machines/{machine_id}/heat",
    { params: { path: { machine_id: machineId }, query: { before, after, ...(workload && { workload }) } } },
    { select: withTuples<Heat | null> },
  );

/** The window that is shaded at first: where the heat that is judged was read, else the last minute that all reached. */
export const firstWindow = ({ same_s: end, window }: Pick<Heat, "same_s" | "window">): [number, number] =>
  window ? [window[0], window[1]] : [Math.max(0, end - 60), end];

/** A window moved by so many seconds, kept within what every run reached. */
export function moved([from, to]: readonly [number, number], by: number, end: number): [number, number] {
  const step = Math.min(Math.max(by, -from), end - to);
  return [from + step, to + step];
}

import { api, type Reckoning, withTuples } from "../../api/client";

/** The bill of two builds on every setting of its switches. */
export const reckoningQuery = (machineId: string, before: string, after: string, years: number) =>
  api.queryOptions(
    "get",
    "/api/machines/{machine_id}/reckoning",
    { params: { path: { machine_id: machineId }, query: { before, after, years } } },
    { select: withTuples<Reckoning> },
  );

import { api, type Comparison, withTuples } from "../api/client";

/** Results are computed by the server from what is recorded; any change of the machine asks anew. */
export const comparisonQuery = (machineId: string, before: string, after: string) =>
  api.queryOptions(
    "get",
    "/api/machines/{machine_id}/comparison",
    { params: { path: { machine_id: machineId }, query: { before, after } } },
    { select: withTuples<Comparison> },
  );

export const comparisonsQuery = (machineId: string) =>
  api.queryOptions(
    "get",
    "/api/machines/{machine_id}/comparisons",
    { params: { path: { machine_id: machineId } } },
    { select: withTuples<Comparison[]> },
  );

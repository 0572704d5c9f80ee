import { queryOptions } from "@tanstack/react-query";

import { readComparison, readComparisons } from "../../api/client";

/** Results are computed by the server from what is recorded; any change of the machine asks anew. */
export const comparisonQuery = (machineId: string, before: string, after: string) =>
  queryOptions({
    queryKey: ["machine", machineId, "comparison", before, after],
    queryFn: () => readComparison(machineId, before, after),
  });

export const comparisonsQuery = (machineId: string) =>
  queryOptions({
    queryKey: ["machine", machineId, "comparisons"],
    queryFn: () => readComparisons(machineId),
  });

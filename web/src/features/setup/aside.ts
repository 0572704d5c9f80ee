import { call } from "../../api/client";

/** Sets a workload aside with the reason, or takes that back. */
export const putWorkloadAside = (machine: string, workload: string, reason: string | null) =>
  call(
    "put",
    "/api/machines/{machine_id}/workloads/{workload_id}/set-aside",
    { machine_id: machine, workload_id: workload },
    { reason },
  );

/** Sets one figure of a workload aside with the reason, or takes that back. */
export const putMeasureAside = (machine: string, workload: string, measure: string, reason: string | null) =>
  call(
    "put",
    "/api/machines/{machine_id}/workloads/{workload_id}/measures/{measure_id}/set-aside",
    { machine_id: machine, workload_id: workload, measure_id: measure },
    { reason },
  );

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

/** Sets a candidate aside with the reason, or takes that back. */
export const putCandidateAside = (machine: string, candidate: string, reason: string | null) =>
  call(
    "put",
    "/api/machines/{machine_id}/candidates/{candidate_id}/set-aside",
    { machine_id: machine, candidate_id: candidate },
    { reason },
  );

/** Sets a machine aside with the reason, or takes that back. */
export const putMachineAside = (machine_id: string, reason: string | null) =>
  call("put", "/api/machines/{machine_id}/set-aside", { machine_id }, { reason });

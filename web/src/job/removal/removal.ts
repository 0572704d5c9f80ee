import {
  call,
  type Case,
  type Measure,
  type Removed,
  type Run,
  type RunOfBlock,
  type WorkloadIn,
} from "../../api/client";
import { candidateSent } from "../machineBody";
import { WORDS_OF_RUNS } from "../rows";
import { offerUndo } from "../../lib/undo";

/** Removing something, with what brings it back as it was; each answers the machine without it. */

export async function removeCandidate(machine: string, id: string): Promise<Case> {
  const removed = await call("delete", "/api/machines/{machine_id}/candidates/{candidate_id}", {
    machine_id: machine,
    candidate_id: id,
  });
  const { candidate } = removed;
  return offered(removed, async () => {
    if (!candidate) return;
    await call(
      "put",
      "/api/machines/{machine_id}/candidates/{candidate_id}",
      { machine_id: machine, candidate_id: id },
      { ...candidateSent(candidate), version: null },
    );
  });
}

export async function removeSitting(machine: string, id: string): Promise<Case> {
  const removed = await call("delete", "/api/machines/{machine_id}/sittings/{sitting_id}", {
    machine_id: machine,
    sitting_id: id,
  });
  const { sitting } = removed;
  return offered(removed, async () => {
    if (!sitting) return;
    const { build, started_at, ambient_c, conditions, purpose, mount } = sitting;
    // What the agent read it says again when it joins; no screen may say it.
    const known = sitting.boot_by !== "read";
    const { boot, boot_by } = known ? sitting : { boot: null, boot_by: null };
    const body = { build, started_at, ambient_c, conditions, purpose, boot, boot_by, mount };
    await call(
      "put",
      "/api/machines/{machine_id}/sittings/{sitting_id}",
      { machine_id: machine, sitting_id: id },
      { ...body, version: null },
    );
  });
}

export async function removeRun(machine: string, workload: string, run: Run): Promise<Case> {
  const removed = await call("delete", "/api/machines/{machine_id}/runs/{run_id}", {
    machine_id: machine,
    run_id: run.id,
  });
  return offered(removed, () =>
    call(
      "post",
      "/api/machines/{machine_id}/runs",
      { machine_id: machine },
      { runs: [runAsItWas(workload, run)] },
    ),
  );
}

/** A run that was removed, as it is sent to stand there again: with everything that the server doesn't say itself. */
export function runAsItWas(workload: string, run: Run): RunOfBlock {
  const kept = without(run, ...WORDS_OF_RUNS);
  return { ...kept, workload, version: null };
}

export async function removeWorkload(machine: string, id: string): Promise<Case> {
  const removed = await call("delete", "/api/machines/{machine_id}/workloads/{workload_id}", {
    machine_id: machine,
    workload_id: id,
  });
  return offered(removed, () => sendWorkload(machine, removed, null));
}

export async function removeMeasure(machine: string, workload: string, measure: string): Promise<Case> {
  const removed = await call(
    "delete",
    "/api/machines/{machine_id}/workloads/{workload_id}/measures/{measure_id}",
    { machine_id: machine, workload_id: workload, measure_id: measure },
  );
  const version = removed.machine?.workloads.find(({ id }) => id === workload)?.version ?? null;
  return offered(removed, () => sendWorkload(machine, removed, version));
}

/** Sends a workload as it was, then the open plan, which had its measures. */
async function sendWorkload(machine: string, { workload, measures, plan }: Removed, version: number | null) {
  if (!workload || !plan) return;
  const { name, workload_version, parameters, loads, target, card, minutes_a_run } = workload;
  const body: WorkloadIn = {
    ...{ name, workload_version, parameters, loads, target, card, minutes_a_run, version },
    measures: measures.map(sent),
  };
  const { open_plan } = await call(
    "put",
    "/api/machines/{machine_id}/workloads/{workload_id}",
    { machine_id: machine, workload_id: workload.id },
    body,
  );
  await call(
    "put",
    "/api/machines/{machine_id}/plan",
    { machine_id: machine },
    { ...plan.plan, version: open_plan.version },
  );
}

const sent = (measure: Measure): WorkloadIn["measures"][number] =>
  without(measure, "workload", "unit_display", "difference_display", "set_aside");

/** What the server adds to what it was sent is not sent again. */
const without = <Thing extends object, Key extends keyof Thing>(thing: Thing, ...keys: Key[]) =>
  Object.fromEntries(Object.entries(thing).filter(([key]) => !keys.includes(key as Key))) as Omit<Thing, Key>;

function offered(removed: Removed, bringBack: () => Promise<unknown>): Case {
  offerUndo(removed.name, bringBack);
  if (!removed.machine) throw new Error("The server did not say what is left.");
  return removed.machine;
}

import type { Comparison, Measure, Run } from "../../api/client";
import type { MachineRecord } from "../../job/api";

/** Runs of a comparison that count for a measure and could be left out, with where they stand. */
export function countedRuns(job: MachineRecord, comparison: Comparison, measure: Measure): Run[] {
  const build = new Map(job.sittings.map((sitting) => [sitting.id, sitting.build]));
  const sides = [comparison.before, comparison.after];
  return job.runs.filter(
    (run) => run.counts_for.includes(measure.id) && sides.includes(build.get(run.sitting) ?? ""),
  );
}

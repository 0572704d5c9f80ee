import type { Build, Case, Measure, Run, Sitting, Workload } from "../../../api/client";
import type { DotColumn } from "../../../charts/SittingDots";
import { planFor, sittingsOf, swapOf } from "../../../job/model";
import { runsPlanned } from "../../../job/rows";

/** The two builds that a sitting is measured for. */
export function sidesOf(job: Case, sitting: Sitting): { before: string; after: string | null } {
  const swap = swapOf(job, sitting.build);
  return swap ? { before: swap.before, after: swap.after } : { before: sitting.build, after: null };
}

const MOST_COLUMNS = 12;

/** Whether temperatures stand above the room, as they are judged: they do where every sitting with a run knows its room. */
export const isAboveRoom = (job: Case, runs: Run[], measure: Measure): boolean => {
  const rooms = new Map(job.sittings.map(({ id, ambient_c }) => [id, ambient_c]));
  return (
    measure.unit === "Cel" && runs.every((run) => !run.readings[measure.id] || rooms.get(run.sitting) != null)
  );
};

/** The runs of a measure on both sides, sitting by sitting; of a long past the newest sittings. */
export function columnsOf(
  job: Case,
  runs: Run[],
  sitting: Sitting,
  workload: Workload,
  measure: Measure,
): DotColumn[] {
  const { before, after } = sidesOf(job, sitting);
  const planned = runsPlanned(planFor(job, sitting.build), workload);
  const aboveRoom = isAboveRoom(job, runs, measure);
  const sides: [DotColumn["side"], Build | undefined][] = [
    ["before", job.builds.find((build) => build.id === before)],
    ["after", job.builds.find((build) => build.id === after)],
  ];
  return sides.flatMap(([side, build]) => {
    if (!build) return [];
    const columns = sittingsOf(job, build.id).map((held, index): DotColumn => {
      const here = runs.filter(
        (run) => run.sitting === held.id && run.workload === workload.name && !run.warm_up,
      );
      const read = (wanted: boolean) =>
        here.flatMap((run) => {
          const reading = run.readings[measure.id];
          const isIn = run.counts_for.includes(measure.id);
          const room = aboveRoom ? (held.ambient_c ?? 0) : 0;
          return reading && isIn === wanted ? [(reading.low + reading.high) / 2 - room] : [];
        });
      const values = read(true);
      const left = held.id === sitting.id && held.closed_at === null ? planned - values.length : 0;
      return {
        label: `${build.letter} ${index + 1}`,
        side,
        values,
        out: read(false),
        left: Math.max(0, left),
      };
    });
    return columns
      .filter(({ values, out, left }) => values.length + out.length + left > 0)
      .slice(-MOST_COLUMNS);
  });
}

/** What does not matter, around the mean of the before-side, in the measure's unit. */
export function bandOf(
  columns: DotColumn[],
  measure: Measure,
  mattersFrom: number | undefined,
): [number, number] | null {
  const values = columns.filter(({ side }) => side === "before").flatMap(({ values }) => values);
  if (values.length === 0 || mattersFrom === undefined) return null;
  const mean = values.reduce((sum, value) => sum + value, 0) / values.length;
  if (measure.scale !== "ratio") return [mean - mattersFrom, mean + mattersFrom];
  return [mean / (1 + mattersFrom / 100), mean * (1 + mattersFrom / 100)];
}

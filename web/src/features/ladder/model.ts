import type { Case, Job } from "../../api/client";

export interface Column {
  key: string;
  build: string;
  letter: string;
  recheck: boolean;
}

/** A column for each build that has readings, and one more where it was measured again later. */
export function historyColumns(job: Case, view: Job): Column[] {
  const points = view.history.flatMap((line) => line.points);
  return job.builds.flatMap(({ id, letter }) =>
    [false, true]
      .filter((recheck) => points.some((point) => point.build === id && point.recheck === recheck))
      .map((recheck) => ({ key: `${id} ${String(recheck)}`, build: id, letter, recheck })),
  );
}

/** The line from one build to the next: straight in a lane, else a bend just below where it leaves. */
export function lanePath([x1, y1]: [number, number], [x2, y2]: [number, number], row: number): string {
  if (x1 === x2) return `M${x1} ${y1}V${y2}`;
  const bend = y1 + row / 2;
  return `M${x1} ${y1}C${x1} ${bend} ${x2} ${y1} ${x2} ${bend}V${y2}`;
}

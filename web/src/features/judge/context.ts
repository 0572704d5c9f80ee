import type { Comparison, Measure, Run } from "../../api/client";
import { formatFigure, formatNumber } from "../../lib/format";
import type { Evidence } from "../machine/api";

/** What stands beside a verdict: counts, what would settle it, runs left out late, ratings, ceilings, shares. */

type SideLine = ["before" | "after", string];

/** What is the same on both sides is said once. */
function bySide(lines: SideLine[]): string[] {
  const sides = new Map<string, string[]>();
  for (const [side, line] of lines) sides.set(line, [...(sides.get(line) ?? []), side]);
  return [...sides].map(
    ([line, of]) =>
      `${of.length > 1 ? "Before and after" : of[0] === "before" ? "Before" : "After"}: ${line}`,
  );
}

/** Lines that set a measure against ceilings, ratings and the rise of the hardware, and tell its share of the job. */
export function sayContext(comparison: Comparison, measure: Measure): string[] {
  const result = comparison.measures[measure.id];
  if (!result) return [];
  const percent = (share: number) => `${formatNumber(share, share < 10 ? 1 : 0)} %`;
  const ceilings = result.ceilings.map(({ side, part, usable, limited_by, share_percent }): SideLine => {
    const by = limited_by ? `, limited by ${limited_by}` : "";
    const doubt =
      share_percent < 100 ? "" : " Suspected: a cache answered, or the link is not the one that is noted.";
    return [
      side,
      `${percent(share_percent)} of the ${formatFigure(usable)} MB/s that ${part} can carry here${by}.${doubt}`,
    ];
  });
  const rated = result.rated.map(({ side, part, figure, rated, share_percent, reachable }): SideLine => {
    const untested = reachable ? "" : " The link could not carry that, so the rating was not tested here.";
    return [
      side,
      `${percent(share_percent)} of ${part}’s ${figure}, ${formatFigure(rated)} ${measure.unit_display}.${untested}`,
    ];
  });
  const realised = result.realised.map(({ figure, increase_percent, share_percent }) =>
    share_percent > 100
      ? `Speed rose by more than the ${figure} did, ${percent(increase_percent)}.`
      : `The ${figure} rose by ${percent(increase_percent)}; ${percent(share_percent)} of that came out as speed.`,
  );
  return [...bySide(ceilings), ...bySide(rated), ...realised, ...sayShares(comparison, measure)];
}

function sayShares(comparison: Comparison, measure: Measure): string[] {
  return comparison.shares
    .filter((share) => share.job === measure.id)
    .map(({ share, low, high, still_waits, most_left, note }) => {
      if (note === "more_than_the_part")
        return "The job gained more than the part’s own measure did: the part alone does not explain it.";
      if (share === null || still_waits === null)
        return "No gain on the part’s own measure or on this job, so its share of the job can’t be told.";
      const whole = (value: number) => formatNumber(100 * value, 0);
      const range = low !== null && high !== null ? ` (${whole(low)} to ${whole(high)} %)` : "";
      const left =
        most_left === null
          ? ""
          : `, so no faster part of this kind could make it more than ${formatNumber(most_left, 2)} times as fast`;
      return `About ${whole(share)} % of this job waited for the part${range}; ${whole(still_waits)} % still does${left}.`;
    });
}

/** Runs of a comparison that count for a measure and could be left out, with where they stand. */
export function countedRuns(job: Evidence, comparison: Comparison, measure: Measure): Run[] {
  const build = new Map(job.sittings.map((sitting) => [sitting.id, sitting.build]));
  const sides = [comparison.before, comparison.after];
  return job.runs.filter(
    (run) =>
      run.workload === measure.workload &&
      run.readings[measure.id] &&
      run.state === "complete" &&
      !run.warm_up &&
      run.excluded_late === null &&
      sides.includes(build.get(run.sitting) ?? ""),
  );
}

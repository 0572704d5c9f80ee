import type { Comparison, Measure, MeasureResult, Run } from "../../api/client";
import { decimalsFor, formatCount, formatFigure, formatNumber } from "../../lib/format";
import { verdictWord } from "../../ui/Verdict";
import type { Evidence } from "../machine/api";
import { sayMinutes } from "../machine/planWords";
import { sayChange } from "../machine/says";

/** What stands beside a verdict: counts, what would settle it, runs left out late, ratings, ceilings, shares. */

/** "14 % less of a rise above the room": the one percent that a temperature may have. */
export function sayRise(result: MeasureResult): string | null {
  const saved = result.rise_saved_percent;
  if (saved === null) return null;
  return `${formatNumber(Math.abs(saved), 1)} % ${saved >= 0 ? "less" : "more"} of a rise above the room`;
}

/** What the unchanged machine shows between two such sides, and where the change stands to it. */
export function sayFloor(result: MeasureResult, measure: Measure): string | null {
  const { noise_floor: floor, within_floor } = result;
  if (floor === null) return null;
  const size = measure.scale === "ratio" ? 100 * Math.expm1(floor) : floor;
  const said = `±${formatNumber(size, decimalsFor(size))} ${measure.difference_display}`.trim();
  return within_floor ? `${said}, not exceeded` : said;
}

type Way = NonNullable<MeasureResult["settling"]>["ways"][number];

const WAYS: Record<Way["name"], string> = {
  "second look": "The second look",
  "more sittings": "Going on",
  "measured over": "Measuring it over",
};

/** "The second look, 6 sittings a side, finds the gain hoped for with 84 of 100: 35 min of hands, 2 h unattended." */
function sayWay({
  name,
  goal,
  sittings_a_side,
  more_sittings,
  minutes,
  minutes_at_hand,
  chance,
}: Way): string {
  const end = goal === "gain" ? "finds the gain hoped for" : "shows that it is none";
  const waits = minutes === null ? 0 : minutes - minutes_at_hand;
  const unattended = waits >= 1 ? `, ${sayMinutes(waits)} unattended` : "";
  const more = formatCount(more_sittings, "more sitting");
  return `${WAYS[name]} to ${sittings_a_side} a side, ${more}, ${end} with ${formatNumber(100 * chance, 0)} of 100, if so it is: ${sayMinutes(minutes_at_hand)} of hands${unattended}`;
}

const SHORT_BLOCK =
  "Fewer than three sittings stand before the swap, so more after it can’t settle it: put the old part back for more, or measure it over";

/** What would settle it, and what that takes at the bench: the cheapest way to each end. */
export function saySettling(result: MeasureResult): string | null {
  const ways = result.settling?.ways ?? [];
  const cheapest = (goal: Way["goal"]) => ways.find((way) => way.goal === goal);
  const said = [cheapest("gain"), cheapest("no change")].flatMap((way) => (way ? [sayWay(way)] : []));
  if (result.settling?.short_block) said.unshift(SHORT_BLOCK);
  return said.length ? `${said.join(". ")}.` : null;
}

/** The same measure with the runs that were left out after they had been seen. */
export function sayLate(result: MeasureResult, measure: Measure): string | null {
  const late = result.with_late;
  if (!late) return null;
  const bare = { gain_low: null, gain_high: null, ci_low: null, ci_high: null };
  const counts = { passed_before: null, passed_after: null };
  const change = sayChange({ ...late, ...bare, ...counts } as MeasureResult, measure);
  return `Something was left out or changed after its reading had been seen. As it stood before: ${change}, ${verdictWord(late.verdict).toLowerCase()}; the verdict is the more cautious of both.`;
}

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

import type { Case, Comparison, Measure, MeasureResult } from "../../api/client";
import { PairDots } from "../../charts/PairDots";
import {
  formatCount,
  formatFigure,
  formatNumber,
  formatP,
  formatReading,
  formatSignedPercent,
} from "../../lib/format";
import { Note } from "../../ui/Note";
import { Verdict } from "../../ui/Verdict";
import { percentDecimals, sayChange, sayInterval, sayMargin } from "../machine/says";
import { dotsOf, listCompanions, sayGrade, sayRemark, sayRunPlace } from "./model";

interface Props {
  job: Case;
  comparison: Comparison;
  measure: Measure;
}

/** Everything behind one measure: the runs, the rule, the figures and what did not count. */
export function Detail({ job, comparison, measure }: Props) {
  const result = comparison.measures[measure.id];
  if (!result) return null;
  const remark = sayRemark(result, measure);
  return (
    <section aria-label={`Detail of ${measure.name}`} className="space-y-4">
      <div>
        <h2 className="eyebrow mb-1">{measure.name}</h2>
        <p className="text-3xl font-bold tracking-tight">
          {sayChange(result, measure)}
          {measure.kind === "time" && result.gain_percent !== null && " speed"}
        </p>
        {result.time_saved_percent !== null && <p className="text-soft">{sayTimeSaved(result)}</p>}
        <p className="mt-2">
          <Verdict
            verdict={result.verdict}
            provisional={result.provisional && result.verdict !== "untested"}
          />
        </p>
      </div>
      <PairPlot job={job} comparison={comparison} measure={measure} result={result} />
      {remark && <Note>{remark}</Note>}
      <Facts result={result} measure={measure} />
      {result.flags.filter(isNews).map((flag) => (
        <Note key={flag.code}>{flag.message}</Note>
      ))}
      <NotCounted job={job} result={result} />
      <HowJudged result={result} measure={measure} />
    </section>
  );
}

function sayTimeSaved(result: MeasureResult): string {
  const saved = result.time_saved_percent ?? 0;
  const size = formatNumber(Math.abs(saved), percentDecimals(result));
  return `the same job takes ${size} % ${saved >= 0 ? "less" : "more"} time`;
}

function PairPlot({ job, comparison, measure, result }: Props & { result: MeasureResult }) {
  const { pairs, loose } = dotsOf(job, comparison, measure);
  if (pairs.length + loose.length === 0) return null;
  const letter = (id: string) => job.builds.find((build) => build.id === id)?.letter ?? "?";
  const side = (name: "before" | "after", mean: number | null, id: string) => (
    <div className={name === "before" ? "text-right text-before" : "text-after"}>
      <span className="block text-sm">
        {name} · {letter(id)}
      </span>
      <b className="font-semibold">{mean === null ? "–" : formatReading(mean, measure.unit_display)}</b>
    </div>
  );
  return (
    <div className="grid grid-cols-[1fr_auto_1fr] items-center gap-2">
      {side("before", result.before_mean, comparison.before)}
      <PairDots
        pairs={pairs}
        loose={loose}
        width={92}
        height={170}
        radius={4.5}
        label={`${pairs.length} pairs of runs of ${measure.name}, ${loose.length} runs that do not count or have no partner`}
      />
      {side("after", result.after_mean, comparison.after)}
    </div>
  );
}

function Facts({ result, measure }: { result: MeasureResult; measure: Measure }) {
  const hoped = result.hoped_for;
  const reached = result.gain_percent ?? result.estimate;
  const facts: [string, string | null][] = [
    ["95 % interval", sayInterval(result, measure)],
    ["By chance alone", result.p === null ? null : formatP(result.p)],
    [
      "Among all tested",
      result.p_adjusted === null || result.p_adjusted === result.p ? null : formatP(result.p_adjusted),
    ],
    ["Evidence", sayGrade(result)],
    [
      "Would settle it",
      result.sittings_to_settle === null
        ? null
        : `${formatCount(result.sittings_to_settle, "sitting")} a side`,
    ],
    [
      "Rests on",
      `${result.units_before} + ${result.units_after} sittings, ${result.runs_before} + ${result.runs_after} runs`,
    ],
    ["Matters from", sayMargin(result, measure)],
    [
      "Hoped for",
      hoped === null || reached === null
        ? null
        : `${measure.scale === "ratio" ? formatSignedPercent(hoped, 0) : `${hoped} ${measure.unit_display}`}, ${reached >= hoped ? "reached" : "not reached"}`,
    ],
  ];
  return (
    <dl className="grid grid-cols-[auto_1fr] gap-x-4 gap-y-1.5">
      {facts.map(([name, fact]) =>
        fact === null ? null : (
          <div key={name} className="contents">
            <dt className="text-soft">{name}</dt>
            <dd className="text-right font-semibold">{fact}</dd>
          </div>
        ),
      )}
    </dl>
  );
}

/** Runs without a partner, a line for each reason. */
function NotCounted({ job, result }: { job: Case; result: MeasureResult }) {
  if (result.unpaired.length === 0) return null;
  const byReason = new Map<string, string[]>();
  for (const { run, reason } of result.unpaired) {
    byReason.set(reason, [...(byReason.get(reason) ?? []), sayRunPlace(job, run)]);
  }
  return (
    <div>
      <h3 className="eyebrow mb-1">Without a partner</h3>
      <ul className="space-y-1 text-soft">
        {[...byReason].map(([reason, places]) => (
          <li key={reason}>
            {places.join(", ")}: {reason}
          </li>
        ))}
      </ul>
    </div>
  );
}

const RULES: Record<NonNullable<MeasureResult["basis"]>, string> = {
  sittings:
    "Each sitting counts as one figure, the median of its runs; the two sides' figures are compared by Student's t, and by Welch's rule too where the counts differ.",
  paired_sittings:
    "Sittings were matched on purpose; the differences of the pairs are tested by Student's t.",
  one_sitting:
    "Too few sittings to see what a reboot moves: the interval allows for reboots that move readings by three times their scatter.",
  anytime: "A rule that stays valid however often one looks.",
  exact: "All ways to deal the sittings to the two sides are counted.",
};

function HowJudged({ result, measure }: { result: MeasureResult; measure: Measure }) {
  if (!result.basis) return null;
  const scale =
    measure.scale === "ratio" ? "on the scale of natural logarithms" : `in ${measure.unit_display}`;
  const figures: [string, number | null][] = [
    ["difference d", result.estimate],
    ["scatter S", result.sd],
    ["standard error", result.se],
    ["degrees of freedom", result.df],
    ["90 % interval, low", result.ci90_low],
    ["90 % interval, high", result.ci90_high],
    ["p that it is the same", result.p_equivalence],
    ...listCompanions(result),
  ];
  return (
    <details>
      <summary className="flex min-h-11 cursor-pointer items-center font-semibold">
        How this was judged
      </summary>
      <p className="mb-2 text-soft">
        {RULES[result.basis]} Figures {scale}, positive is better.
      </p>
      <dl className="grid grid-cols-[1fr_auto] gap-y-1">
        {figures.map(([name, value]) =>
          value === null ? null : (
            <div key={name} className="contents">
              <dt className="text-soft">{name}</dt>
              <dd>{Math.abs(value) < 1e-4 && value !== 0 ? value.toExponential(2) : formatFigure(value)}</dd>
            </div>
          ),
        )}
      </dl>
    </details>
  );
}

/** The head of the page names the bundle already, and that there are few sittings stands beside the interval. */
const isNews = (flag: MeasureResult["flags"][number]): boolean =>
  flag.code !== "several_changes" && flag.code !== "few_sittings";

import type { Measure, MeasureResult, Said } from "../../api/client";
import { formatExact, formatFigure } from "../../lib/format";
import { listCompanions } from "./model";

interface Props {
  result: MeasureResult;
  said: Said;
  measure: Measure;
}

/** What a customer never asks for: spread, rule, p and companions. */
export function ForTheNext({ result, said, measure }: Props) {
  if (!result.summary_before && !result.summary_after && !result.basis) return null;
  return (
    <details>
      <summary className="flex min-h-11 cursor-pointer items-center font-semibold">
        For the next technician: spread, rule, p, companions
      </summary>
      <div className="space-y-4">
        <EachSide result={result} said={said} measure={measure} />
        <HowJudged result={result} said={said} measure={measure} />
      </div>
    </details>
  );
}

/** Count, middle and spread of both sides; the single runs stand above. */
function EachSide({ result, said }: Props) {
  const { summary_before: before, summary_after: after } = result;
  if (!before && !after) return null;
  const { unit } = said;
  const row = (name: string, pick: (side: NonNullable<typeof before>) => number | null) => {
    const said = [before, after].map((side) => side && pick(side));
    return (
      <tr key={name}>
        <th scope="row" className="text-left font-normal text-soft">
          {name}
        </th>
        {said.map((value, index) => (
          <td key={index} className="text-right">
            {value === null ? "–" : formatFigure(value)}
          </td>
        ))}
      </tr>
    );
  };
  return (
    <section>
      <h3 className="eyebrow mb-1">Each side in figures{unit && `, ${unit}`}</h3>
      <table className="w-full">
        <thead>
          <tr>
            <td />
            <th className="text-right font-medium text-before">before</th>
            <th className="text-right font-medium text-after">after</th>
          </tr>
        </thead>
        <tbody>
          <tr>
            <th scope="row" className="text-left font-normal text-soft">
              runs
            </th>
            <td className="text-right">{before?.runs ?? 0}</td>
            <td className="text-right">{after?.runs ?? 0}</td>
          </tr>
          <tr>
            <th scope="row" className="text-left font-normal text-soft">
              mean of sittings, as judged
            </th>
            <td className="text-right">{said.before}</td>
            <td className="text-right">{said.after}</td>
          </tr>
          {row("mean of all runs", (side) => side.mean)}
          {row("median", (side) => side.median)}
          {row("standard deviation", (side) => side.sd)}
          {row("lowest", (side) => side.low)}
          {row("highest", (side) => side.high)}
        </tbody>
      </table>
    </section>
  );
}

/** The rule that decided and every figure behind the verdict, to seven digits. */
function HowJudged({ result, said, measure }: Props) {
  if (!result.basis) return null;
  const scale =
    measure.scale === "ratio" ? "on the scale of natural logarithms" : `in ${measure.difference_display}`;
  const figures: [string, number | null][] = [
    ["mean before", result.before_mean],
    ["mean after", result.after_mean],
    ["gain, %", result.gain_percent],
    ["difference d", result.estimate],
    ["scatter S", result.sd],
    ["standard error", result.se],
    ["degrees of freedom", result.df],
    [`${said.level} low`, result.ci_low],
    [`${said.level} high`, result.ci_high],
    ["90 % low", result.ci90_low],
    ["90 % high", result.ci90_high],
    ["p, by chance alone", result.p],
    ["p, among all tested", result.p_adjusted],
    ["p, the same", result.p_equivalence],
    ...listCompanions(result),
  ];
  return (
    <section>
      <h3 className="eyebrow mb-1">How this was judged</h3>
      <p className="mb-2 text-soft">
        {RULES[result.basis]} Means in {said.unit || "steps"}; differences and intervals {scale}, positive is
        better. Seven digits.
      </p>
      <dl className="grid grid-cols-[1fr_auto] gap-x-3 gap-y-1">
        {figures.map(([name, value]) =>
          value === null ? null : (
            <div key={name} className="contents">
              <dt className="text-soft">{name}</dt>
              <dd className="text-right whitespace-nowrap">{formatExact(value)}</dd>
            </div>
          ),
        )}
      </dl>
    </section>
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

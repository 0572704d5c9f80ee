import type { Case, Comparison, CostLine, Swap, VerdictWord } from "../../api/client";
import type { ValuePoint } from "../../charts/ValueChart";
import { decimalsFor, formatList, formatMoney, formatNumber, formatSignedPercent } from "../../lib/format";
import { sayChange } from "../machine/says";

const INCOME = new Set<CostLine["kind"]>(["resale", "reuse"]);
const SMALL_COST = 10;

export const isIncome = (line: CostLine): boolean => INCOME.has(line.kind);

/** The overall gain as a verdict, from its interval alone. */
export function overallVerdict(comparison: Comparison): VerdictWord {
  const { low, high } = comparison.overall;
  if (low === null || high === null) return "untested";
  if (low > 0) return "real_gain";
  return high < 0 ? "real_loss" : "not_settled";
}

export function sayOverall(comparison: Comparison): string {
  const { gain_percent, low, high } = comparison.overall;
  if (gain_percent === null) return "no work measured";
  const decimals = low === null || high === null ? 1 : Math.min(2, decimalsFor((high - low) / 2));
  return formatSignedPercent(gain_percent, decimals);
}

/** What the overall gain is made of: its claims with their weights, and how far apart they lie. */
export function sayMakeup(job: Case, swap: Swap, comparison: Comparison): string {
  const said = job.measures.flatMap((measure) => {
    const result = comparison.measures[measure.id];
    if (!result || !comparison.overall.measures.includes(measure.id)) return [];
    const weight = swap.plan.measures[measure.id]?.weight ?? 1;
    return [`${measure.name} ${sayChange(result, measure)} (weight ${weight})`];
  });
  return `Overall is the weighted geometric mean of ${formatList(said)}; heat and noise stay out of it.`;
}

const perTenDecimals = ({ bill }: Comparison): number =>
  bill.low === null || bill.high === null ? 2 : Math.min(3, decimalsFor((bill.high - bill.low) / 2));

/** Improvement per 10 units of currency, or the words that stand in its place. */
export function sayPerTen(comparison: Comparison): string {
  const { bill } = comparison;
  const decimals = perTenDecimals(comparison);
  switch (bill.note) {
    case "pays_for_itself":
      return "pays for itself";
    case "loss_that_pays":
      return "no ratio";
    case "not_settled_at_most":
      return bill.high === null ? "not settled" : `at most ${formatNumber(bill.high, decimals)} %`;
    case "untested":
    case "plan_incomplete":
    case "no_costs":
      return "–";
    case "at_least":
    case "no_interval":
    case null:
      return bill.gain_per_10 === null ? "–" : `${formatNumber(bill.gain_per_10, decimals)} %`;
  }
}

export function sayPerTenInterval(comparison: Comparison): string | null {
  const { bill } = comparison;
  const decimals = perTenDecimals(comparison);
  if (bill.low === null) return null;
  if (bill.high === null) return `at least ${formatNumber(bill.low, decimals)} %`;
  return `95 % interval ${formatNumber(bill.low, decimals)} to ${formatNumber(bill.high, decimals)} %`;
}

/** The first sentence of the bill. */
export function sayBill(swap: Swap, comparison: Comparison): string {
  const { bill } = comparison;
  const cost = formatMoney(bill.net_cost ?? "0", bill.currency);
  const gain = sayOverall(comparison);
  const name = swap.label;
  switch (bill.note) {
    case "no_costs":
      return `${name} brought ${gain} over the work measured. No cost is noted yet.`;
    case "untested":
      return `${name} cost ${cost} net. What it bought is not tested yet.`;
    case "plan_incomplete":
      return `${name} cost ${cost} net. The plan is not complete, so what it bought is not known yet.`;
    case "pays_for_itself":
      return `${name} brought ${gain} and pays for itself: ${cost} net.`;
    case "loss_that_pays":
      return `${name} brought ${gain} and left ${formatMoney((bill.net_cost ?? "0").replace("-", ""), bill.currency)} in hand.`;
    case "not_settled_at_most":
      return `${name} cost ${cost} net; its gain is not settled. It bought ${sayPerTen(comparison)} per 10 ${bill.currency}.`;
    case "no_interval":
    case "at_least":
    case null:
      return Number(bill.net_cost) < SMALL_COST
        ? `${name} bought ${gain} for ${cost}.`
        : `${name} bought ${gain} for ${cost} net: ${sayPerTen(comparison)} per 10 ${bill.currency}.`;
  }
}

/** How surely the swap bought more for its money than each other one; a sentence each. */
export function sayBetterValue(job: Case, comparison: Comparison): string[] {
  return comparison.better_value.map(({ before, after, probability, winner, note }) => {
    const other = job.swaps.find((swap) => swap.before === before && swap.after === after);
    const name = `“${other?.label ?? "another swap"}”`;
    if (note !== null || probability === null) return `Against ${name}: ${sayNotWeighed(note)}`;
    const sure = (p: number) =>
      p > 0.999 ? "more than 99.9 %" : `${formatNumber(100 * p, p > 0.99 ? 1 : 0)} %`;
    if (winner === "first") return `Better value than ${name}, ${sure(probability)} sure.`;
    if (winner === "second") return `Worse value than ${name}, ${sure(1 - probability)} sure.`;
    return `Against ${name} it is not settled which was better value: ${sure(probability)} for this one.`;
  });
}

function sayNotWeighed(note: Comparison["better_value"][number]["note"]): string {
  switch (note) {
    case "untested":
      return "the gain of one of them is not tested, so their values can’t be weighed.";
    case "plan_incomplete":
      return "the plan of one of them is not complete, so their values can’t be weighed yet.";
    case "no_costs":
      return "one of them has no cost noted, so their values can’t be weighed.";
    case "other_work":
      return "they were judged by different work, so their values can’t be weighed.";
    case "both_pay_for_themselves":
      return "both pay for themselves.";
    case "no_interval":
    case null:
      return "one of them may both lose and earn, so their values can’t be weighed.";
  }
}

/** Swaps with a known gain as points of the value chart. */
export function valuePoints(job: Case, comparisons: Comparison[]): ValuePoint[] {
  return job.swaps.flatMap((swap, index) => {
    const comparison = comparisons[index];
    const gain = comparison?.overall.gain_percent;
    if (!comparison || gain == null) return [];
    const { low, high } = comparison.overall;
    return [
      {
        id: swap.id,
        label: swap.label,
        cost: Number(swap.net_cost),
        gain,
        low,
        high,
        verdict: overallVerdict(comparison),
      },
    ];
  });
}

import type { Case, Comparison, CostLine, Measure, MeasureResult, Said, Swap } from "../../api/client";
import type { ValuePoint } from "../../charts/ValueChart";
import { decimalsFor, formatList, formatMoney, formatNumber } from "../../lib/format";
import { isWork } from "../../lib/work";
import { isToBeJudged, leadMeasure, sayNet } from "../machine/says";

const INCOME = new Set<CostLine["kind"]>(["resale", "reuse"]);
const SMALL_COST = 10;

export const isIncome = (line: CostLine): boolean => INCOME.has(line.kind);

/** The measure that a bill is about, with its result; every word of the bill goes with that verdict. */
export interface Lead {
  measure: Measure;
  result: MeasureResult;
  said: Said;
}

export function leadOf(job: Pick<Case, "measures">, comparison: Comparison): Lead | null {
  const measure = leadMeasure(comparison, job.measures);
  const result = measure && comparison.measures[measure.id];
  const said = measure && comparison.said.measures[measure.id];
  return measure && result && said ? { measure, result, said } : null;
}

/** What the overall gain is made of: its claims with their weights, and how far apart they lie. */
export function sayMakeup(job: Case, swap: Swap, comparison: Comparison): string {
  const said = job.measures.flatMap((measure) => {
    if (!comparison.overall.measures.includes(measure.id)) return [];
    const weight = swap.plan.measures[measure.id]?.weight ?? 0;
    return [`${measure.name} ${comparison.said.measures[measure.id]?.change ?? ""} (weight ${weight})`];
  });
  return `It is the weighted geometric mean of ${formatList(said)}; heat and noise stay out of it.`;
}

const perTenDecimals = ({ bill }: Comparison): number =>
  bill.low === null || bill.high === null ? 2 : Math.min(3, decimalsFor((bill.high - bill.low) / 2));

/** What is bought by the unit of money: "% speed", "% score", "K", "dB(A)". */
const unitOf = ({ measure }: Lead): string =>
  isWork(measure) ? `% ${measure.kind === "score" ? "score" : "speed"}` : measure.difference_display;

/** Improvement per 10 units of currency, or the words that stand in its place. */
export function sayPerTen(comparison: Comparison, lead: Lead | null): string {
  const { bill } = comparison;
  switch (bill.note) {
    case "pays_for_itself":
      return "pays for itself";
    case "cost_nothing":
      return "for nothing";
    case "no_change":
    case "loss":
    case "loss_that_pays":
      return "no gain to divide";
    case "not_settled":
    case "not_settled_at_most":
      return "not settled";
    case "no_costs":
      return "cost not given";
    case "untested":
    case "plan_incomplete":
    case "no_ratio":
      return "–";
    case "at_least":
    case "no_interval":
    case null:
      if (bill.gain_per_10 === null || !lead) return "–";
      return `${formatNumber(bill.gain_per_10, perTenDecimals(comparison))} ${unitOf(lead)}`;
  }
}

/** "95 % interval 2.56 to 3.03", or from where on; null where there is no ratio. */
export function sayPerTenInterval(comparison: Comparison): string | null {
  const { bill } = comparison;
  const decimals = perTenDecimals(comparison);
  if (bill.low === null) return null;
  if (bill.high === null) return `at least ${formatNumber(bill.low, decimals)}`;
  const level = comparison.said.measures[comparison.lead ?? ""]?.level ?? "95 %";
  return `${level} interval ${formatNumber(bill.low, decimals)} to ${formatNumber(bill.high, decimals)}`;
}

/** "Tile rendering 1.34× as fast (25 % less time)", "Soak 2.8 K cooler". */
function sayBought({ measure, result, said }: Lead): string {
  const saved = result.time_saved_percent;
  const time =
    saved === null
      ? ""
      : ` (${formatNumber(Math.abs(saved), Math.abs(saved) < 10 ? 1 : 0)} % ${saved >= 0 ? "less" : "more"} time)`;
  return `${measure.name} ${said.ratio}${time}`;
}

/** The first sentence of the bill: what was bought, whether that is real, and for how much. */
export function sayBill(job: Pick<Case, "measures">, swap: Swap, comparison: Comparison): string {
  const { bill } = comparison;
  const lead = leadOf(job, comparison);
  const cost =
    bill.net_cost === null
      ? `${swap.label}: cost not given.`
      : `${swap.label} cost ${sayNet(bill.net_cost, bill.currency)}.`;
  if (!lead) return `${cost} Nothing is measured yet.`;
  if (isToBeJudged(lead.result))
    return `${cost} ${lead.measure.name} is complete: judge it, then this says what it bought.`;
  const provisional = lead.result.provisional ? ", provisionally" : "";
  const { name } = lead.measure;
  switch (lead.result.verdict) {
    case "real_gain":
      return `${swap.label}: ${sayBought(lead)}, real${provisional}${sayPrice(comparison, lead)}`;
    case "real_loss":
      return `${cost} ${sayBought(lead)}, and the loss is real${provisional}.`;
    case "no_change":
      return `${cost} ${name} did not change by an amount that matters${provisional}: no gain to divide.`;
    case "not_settled":
      return bill.note === "plan_incomplete"
        ? `${cost} The plan is not complete, so what it bought is not known yet.`
        : `${cost} Whether it bought anything is not settled: ${sayBought(lead)} so far.`;
    case "untested":
      return bill.note === "plan_incomplete"
        ? `${cost} The plan is not complete, so what it bought is not known yet.`
        : `${cost} What it bought is not tested yet.`;
  }
}

/** The price of what is real, from the comma on: ", for 94.90 EUR net: 3.6 % speed per 10 EUR (3.1 to 4.0)." */
function sayPrice(comparison: Comparison, lead: Lead): string {
  const { bill } = comparison;
  if (bill.net_cost === null) return ". Cost not given.";
  const cost = formatMoney(bill.net_cost, bill.currency);
  if (bill.note === "pays_for_itself") return `, and it pays for itself: ${cost} net.`;
  if (bill.note === "cost_nothing") return `, for nothing.`;
  // So small a cost makes any ratio large: the plain pair says more.
  if (bill.gain_per_10 === null || Number(bill.net_cost) < SMALL_COST) return `, for ${cost} net.`;
  return `, for ${cost} net: ${sayPerTen(comparison, lead)} per 10 ${bill.currency}.`;
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
      return "the cost of one of them is not given, so their values can’t be weighed.";
    case "no_gain":
      return "one of them has no real gain in its headline, so there is no value to weigh.";
    case "other_work":
      return "they were judged by different work, so their values can’t be weighed.";
    case "both_pay_for_themselves":
      return "both pay for themselves.";
    case "no_interval":
    case null:
      return "one of them may both lose and earn, so their values can’t be weighed.";
  }
}

/** Swaps with a known cost and a headline of work as points of the value chart. */
export function valuePoints(job: Case, comparisons: Comparison[]): ValuePoint[] {
  return job.swaps.flatMap((swap, index) => {
    const comparison = comparisons[index];
    const lead = comparison && leadOf(job, comparison);
    const gain = lead && isWork(lead.measure) ? lead.result.gain_percent : null;
    if (!comparison || !lead || gain === null || swap.net_cost === null) return [];
    const { gain_low: low, gain_high: high, verdict } = lead.result;
    return [{ id: swap.id, label: swap.label, cost: Number(swap.net_cost), gain, low, high, verdict }];
  });
}

/** Which swaps the chart can't hold, and why: what is unknown is not drawn at nothing. */
export function sayNotDrawn(job: Case, comparisons: Comparison[]): string | null {
  const drawn = new Set(valuePoints(job, comparisons).map((point) => point.id));
  const said = job.swaps.flatMap((swap, index) => {
    if (drawn.has(swap.id)) return [];
    const comparison = comparisons[index];
    const lead = comparison && leadOf(job, comparison);
    if (swap.net_cost === null) return [`“${swap.label}”, cost not given`];
    if (lead && !isWork(lead.measure)) return [`“${swap.label}”, judged by ${lead.measure.name}`];
    return [`“${swap.label}”, not measured yet`];
  });
  return said.length ? `Not in the picture: ${said.join("; ")}.` : null;
}

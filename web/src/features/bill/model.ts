import type { Case, Comparison, CostLine, Measure, MeasureResult, Said, Swap } from "../../api/client";
import type { ValuePoint } from "../../charts/ValueChart";
import { formatList, formatNumber } from "../../lib/format";
import { isWork } from "../../lib/work";
import { leadMeasure } from "../machine/says";

const INCOME = new Set<CostLine["kind"]>(["resale", "reuse"]);

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

/** Every claim with its result, what got worse before all else. */
export function claimsOf(job: Pick<Case, "measures">, comparison: Comparison) {
  const claims = job.measures.flatMap((measure) => {
    const result = comparison.measures[measure.id];
    return result?.role === "claim" ? [{ measure, result }] : [];
  });
  const isLoss = ({ result }: (typeof claims)[number]) => result.verdict === "real_loss";
  return [...claims.filter(isLoss), ...claims.filter((claim) => !isLoss(claim))];
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

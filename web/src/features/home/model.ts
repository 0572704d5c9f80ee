import type { Bench, Comparison, Measure } from "../../api/client";
import { formatCount } from "../../lib/format";
import { nextStep } from "../machine/model";
import { leadMeasure, sayVerdict } from "../machine/says";

/** The first sentence of the home screen: how many machines, and which one waits for the technician. */
export function sayBenches(benches: Bench[]): string {
  const waiting = benches.filter((bench) => nextStep(bench.case).station === "measure");
  const first = waiting[0];
  const count = formatCount(benches.length, "machine");
  if (!first) return `${count}. None waits for a sitting.`;
  const who = waiting.length === 1 ? "One waits" : `${waiting.length} wait`;
  return `${count}. ${who} for you: ${first.case.machine.name}, ${nextStep(first.case).text}.`;
}

/** What is known of a machine's newest swap, in a sentence. */
export function sayNewest(bench: Bench): string {
  const swap = bench.case.swaps.at(-1);
  if (!swap || !bench.newest) return bench.case.machine.question || "No swap yet.";
  const lead = leadMeasure(bench.newest, bench.case.measures, swap.plan.headline ?? null);
  const said = lead && sayLead(bench.newest, lead);
  return `${swap.label}: ${said ?? "not measured yet"}.`;
}

function sayLead(comparison: Comparison, lead: Measure): string | undefined {
  const result = comparison.measures[lead.id];
  return result && sayVerdict(result, lead).replace(`${lead.name}: `, `${lead.name} `);
}

import type { Comparison, Measure } from "../../api/client";
import { formatCount } from "../../lib/format";
import type { ReadBench } from "../machine/api";
import { nextStep } from "../machine/model";
import { leadMeasure, sayBundle, sayVerdict } from "../machine/says";

/** The first sentence of the home screen: how many machines, and which one waits for the technician. */
export function sayBenches(benches: ReadBench[], today: string): string {
  const waiting = benches.filter((bench) =>
    ["measure", "swap"].includes(nextStep(bench.case, today).station),
  );
  // A machine that lies open comes before one that only wants another sitting.
  const first = waiting.find((bench) => bench.case.swaps.some((swap) => swap.state === "open")) ?? waiting[0];
  const count = formatCount(benches.length, "machine");
  if (!first) return `${count}. None waits for a sitting or a swap.`;
  const who = waiting.length === 1 ? "one waits" : `${waiting.length} wait`;
  const open = first.case.swaps.find((swap) => swap.state === "open");
  const what = open ? "its case is open" : nextStep(first.case, today).text;
  return `${count}, ${who} for you. First ${first.case.machine.name}: ${what}.`;
}

/** When the next machine is to be measured again. */
export function sayDue(benches: ReadBench[], today: string): string {
  const dates = benches
    .flatMap((bench) => bench.case.rechecks.filter((recheck) => !recheck.done))
    .map((recheck) => recheck.due_on)
    .sort();
  const next = dates[0];
  if (!next) return "No re-check is planned.";
  const days = Math.round((Date.parse(next) - Date.parse(today)) / 86_400_000);
  if (days <= 0) return "A re-check is due.";
  return `${formatCount(dates.length, "re-check")} planned, the next in ${formatCount(days, "day")}.`;
}

/** What is known of a machine's newest measured swap, in a sentence. */
export function sayNewest(bench: ReadBench): string {
  const swap = bench.case.swaps.at(-1);
  if (!swap || !bench.newest) return bench.case.machine.question || "No swap yet.";
  const lead = leadMeasure(bench.newest, bench.case.measures);
  const said = lead && sayLead(bench.newest, lead);
  const bundle = sayBundle(bench.newest);
  return `${swap.label}: ${said ?? "not measured yet"}.${bundle ? ` ${bundle}` : ""}`;
}

function sayLead(comparison: Comparison, lead: Measure): string | undefined {
  const result = comparison.measures[lead.id];
  if (!result || result.estimate === null) return undefined;
  return sayVerdict(result, lead).replace(`${lead.name}: `, `${lead.name} `);
}

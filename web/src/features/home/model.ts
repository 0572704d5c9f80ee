import { formatCount } from "../../lib/format";
import type { ReadBench } from "../machine/api";
import { nextStep, stateOfLine } from "../machine/model";
import { sayBundle, sayVerdict } from "../machine/says";

/** The first sentence of the home screen: how many machines, and which one waits for the technician. */
export function sayBenches(benches: ReadBench[], today: string): string {
  const nextOf = (bench: ReadBench) => nextStep(stateOfLine(bench.line, today));
  const waiting = benches.filter((bench) => ["measure", "swap"].includes(nextOf(bench).station));
  // A machine that lies open comes before one that only wants another sitting.
  const first = waiting.find((bench) => bench.line.swap?.state === "open") ?? waiting[0];
  const count = formatCount(benches.length, "machine");
  if (!first) return `${count}. None waits for a sitting or a swap.`;
  const who = waiting.length === 1 ? "one waits" : `${waiting.length} wait`;
  const what = first.line.swap?.state === "open" ? "its case is open" : nextOf(first).text;
  return `${count}, ${who} for you. First ${first.name}: ${what}.`;
}

/** When the next machine is to be measured again. */
export function sayDue(benches: ReadBench[], today: string): string {
  const dates = benches.flatMap((bench) => bench.line.rechecks.map((recheck) => recheck.due_on)).sort();
  const next = dates[0];
  if (!next) return "No re-check is planned.";
  const days = Math.round((Date.parse(next) - Date.parse(today)) / 86_400_000);
  if (days <= 0) return "A re-check is due.";
  return `${formatCount(dates.length, "re-check")} planned, the next in ${formatCount(days, "day")}.`;
}

/** What is known of a machine's newest measured swap, in a sentence. */
export function sayNewest({ line }: ReadBench): string {
  const { newest } = line;
  if (!newest) return line.question || "No swap yet.";
  const bundle = sayBundle(newest);
  return `${newest.label}: ${sayLead(newest) ?? "not measured yet"}.${bundle ? ` ${bundle}` : ""}`;
}

function sayLead({ lead, result }: NonNullable<ReadBench["line"]["newest"]>): string | undefined {
  if (!lead || !result || result.estimate === null) return undefined;
  return sayVerdict(result, lead).replace(`${lead.name}: `, `${lead.name} `);
}

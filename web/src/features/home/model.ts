import type { Bench, Home, Import } from "../../api/client";
import { formatCount } from "../../lib/format";
import type { HomeShow } from "../../job/api";
import { nextStep, stateOfLine } from "../../job/model";

/** What home says of a machine whose line could be read. */
export type Line = NonNullable<Bench["line"]>;

/** The first sentence of the home screen: how many machines, and which one waits for the technician. */
export function sayBenches({ total, waiting, first }: Home, today: string): string {
  const count = formatCount(total, "machine");
  if (!first?.line) return `${count}. None waits for a sitting or a swap.`;
  const who = waiting === 1 ? "one waits" : `${waiting} wait`;
  const isOpen = first.line.job_state === "open";
  const what = isOpen ? "its case is open" : nextStep(stateOfLine(first.line, today)).text;
  return `${count}, ${who} for you. First ${first.name}: ${what}.`;
}

/** How far a large run file is with being taken over. */
export function sayImport({ stage, done, total }: Import): string {
  if (!total) return "Reading the file…";
  const share = `${Math.floor((100 * done) / total)} % of ${total.toLocaleString("en")} runs`;
  return stage === "reading" ? `Read ${share}` : `Written ${share}`;
}

/** How many machines the search found. */
export function sayFound({ found, total }: Pick<Home, "found" | "total">, find: string): string {
  if (found > 0) return `Found ${found} of ${formatCount(total, "machine")}.`;
  return find
    ? "No machine here is called so, belongs to such an owner or has such a part."
    : "No machine is in this state.";
}

/** A choice of what home shows, with how many that are. */
export const sayShow = ({ total, waiting, due, resting }: Home, show: HomeShow): string =>
  ({
    all: `All · ${total}`,
    waiting: `Wait for me · ${waiting}`,
    due: `Re-check due · ${due}`,
    resting: `Resting · ${resting}`,
  })[show];

/** Which machines of those that were found stand on a page. */
export function sayPage({ found, benches, page_size }: Home, page: number): string {
  const before = (page - 1) * page_size;
  return `${before + 1} to ${before + benches.length} of ${formatCount(found, "machine")}`;
}

/** When the next machine is to be measured again. */
export function sayDue({ rechecks, next_due: next }: Home, today: string): string {
  if (!next) return "No re-check is planned.";
  const days = Math.round((Date.parse(next) - Date.parse(today)) / 86_400_000);
  if (days <= 0) return "A re-check is due.";
  return `${formatCount(rechecks, "re-check")} planned, the next in ${formatCount(days, "day")}.`;
}

/** What is known of a machine's newest measured swap, in a sentence. */
export function sayNewest({ newest, question }: Line): string {
  if (!newest) return question || "No swap yet.";
  return `${newest.label}: ${newest.known ?? "not measured yet"}.${newest.bundle ? ` ${newest.bundle}` : ""}`;
}

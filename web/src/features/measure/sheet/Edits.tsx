import type { Case, Run, Sitting } from "../../../api/client";
import { formatTime } from "../../../lib/format";
import { type DecimalMark, writeValue } from "../../../lib/number";

type Change = Sitting["changes"][number];
type Value = Change["old"];

interface Line {
  at: string;
  text: string;
}

/** What was changed of a sitting and its runs after readings had been written: who, when, from what to what, why. */
export function Edits({ job, sitting, runs }: { job: Case; sitting: Sitting; runs: Run[] }) {
  const mark = job.machine.decimal_mark;
  const lines = [
    ...sitting.changes.map((change) => ({
      at: change.at,
      text: sayChange(`The sitting’s ${nameOf(change.member)}`, change, "", mark),
    })),
    ...runs.flatMap((run) => run.changes.map((change) => lineOf(job, run, change))),
  ].sort((a, b) => a.at.localeCompare(b.at));
  if (lines.length === 0) return null;
  return (
    <details>
      <summary className="flex min-h-11 cursor-pointer items-center font-semibold">
        Changed after it was written: {lines.length}
      </summary>
      <ol className="space-y-1.5">
        {lines.map(({ at, text }, index) => (
          <li key={`${at} ${index}`} className="wrap-anywhere">
            <span className="block text-sm text-soft">{formatTime(at, job.machine.time_zone)}</span>
            {text}
          </li>
        ))}
      </ol>
    </details>
  );
}

function lineOf(job: Case, run: Run, change: Change): Line {
  const [kind, id] = change.member.split(/\.(.*)/);
  const measure = kind === "readings" ? job.measures.find((known) => known.id === id) : undefined;
  const what = `${run.workload}, run ${run.position}: ${measure ? measure.name : nameOf(change.member)}`;
  const text = sayChange(what, change, measure?.unit_display ?? "", job.machine.decimal_mark);
  return { at: change.at, text };
}

function sayChange(what: string, change: Change, unit: string, mark: DecimalMark): string {
  const [old, now] = [change.old, change.new].map((value) => sayValue(value, unit, mark));
  const by = change.by ? ` (${change.by})` : "";
  return `${what} was ${old}, now ${now}${by}${change.reason ? `: ${change.reason}` : "."}`;
}

function sayValue(value: Value, unit: string, mark: DecimalMark): string {
  if (value === null || value === undefined || value === "") return "nothing";
  if (typeof value === "object") {
    const { low, high } = value;
    return sayReading({ low: value.value ?? low ?? 0, high: value.value ?? high ?? 0 }, unit, mark);
  }
  return typeof value === "number" ? `${writeValue(value, mark)} ${unit}`.trimEnd() : `${value}`;
}

/** A reading as it was written, digit by digit; one that was read as a range with both its ends. */
function sayReading({ low, high }: { low: number; high: number }, unit: string, mark: DecimalMark): string {
  const [from, to] = [writeValue(low, mark), writeValue(high, mark)];
  return `${from === to ? from : `${from} to ${to}`} ${unit}`.trimEnd();
}

const nameOf = (member: string): string => member.replace(/^conditions\./, "").replaceAll("_", " ");

import type { Case, Run, Sitting } from "../../api/client";
import { formatTime } from "../../lib/format";
import { type DecimalMark, writeValue } from "../../lib/number";

type Was = Sitting["was"][number];

interface Line {
  at: string;
  text: string;
}

/** What was changed of a sitting and its runs after readings had been written: who, when, from what to what, why. */
export function Edits({ job, sitting, runs }: { job: Case; sitting: Sitting; runs: Run[] }) {
  const mark = job.machine.decimal_mark;
  const lines = [
    ...sitting.was.map((was) => ({
      at: was.at,
      text: sayWas(`The sitting’s ${nameOf(was.member)}`, was, "", "", mark),
    })),
    ...runs.flatMap((run) => run.was.map((was) => lineOf(job, run, was))),
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

function lineOf(job: Case, run: Run, was: Was): Line {
  const [kind, id] = was.member.split(/\.(.*)/);
  const measure = kind === "readings" ? job.measures.find((known) => known.id === id) : undefined;
  const now = measure ? run.readings[measure.id] : undefined;
  const unit = measure?.unit_display ?? "";
  const mark = job.machine.decimal_mark;
  const to = measure ? (now ? sayReading(now, unit, mark) : "nothing") : valueNow(run, was.member);
  const what = `${run.workload}, run ${run.position}: ${measure ? measure.name : nameOf(was.member)}`;
  return { at: was.at, text: sayWas(what, was, to, unit, mark) };
}

const valueNow = (run: Run, member: string): string => {
  const value = (run as unknown as Record<string, unknown>)[member];
  return value === null || value === undefined || value === ""
    ? "nothing"
    : JSON.stringify(value).replaceAll('"', "");
};

function sayWas(what: string, was: Was, to: string, unit: string, mark: DecimalMark): string {
  const old = sayOld(was.value, unit, mark);
  const now = to ? `, now ${to}` : "";
  const by = was.by ? ` (${was.by})` : "";
  return `${what} was ${old}${now}${by}${was.reason ? `: ${was.reason}` : "."}`;
}

function sayOld(value: Was["value"], unit: string, mark: DecimalMark): string {
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

import { useMutation } from "@tanstack/react-query";
import { useRef, useState } from "react";

import {
  type Case,
  type LogIn,
  Lost,
  putSensorLog,
  Refused,
  type SensorLog as Log,
} from "../../../api/client";
import { formatCount } from "../../../lib/format";
import { type DecimalMark, readNumber, sayUnread } from "../../../lib/number";
import { SENSED, SENSED_ROLES } from "../../../lib/sensors";
import { Button } from "../../../ui/Button";
import { ChoiceField, TextField } from "../../../ui/Field";
import { Note } from "../../../ui/Note";
import type { Place } from "./OverTime";

export type Column = Log["columns"][number];
type Role = NonNullable<Column["role"]>;

const ROLE_CHOICES: readonly (readonly [Role | "", string])[] = [
  ["", "leave it out"],
  ...SENSED_ROLES.flatMap((role) => {
    const { label } = SENSED[role];
    return label === null ? [] : [[role, label] as const];
  }),
];
const UNITS: Partial<Record<Role, readonly (readonly [string, string])[]>> = {
  temperature: [
    ["Cel", "°C"],
    ["[degF]", "°F"],
  ],
  clock: [
    ["MHz", "MHz"],
    ["GHz", "GHz"],
  ],
  power: [["W", "W"]],
  fan: [
    ["/min", "rpm"],
    ["%", "%"],
  ],
  load: [["%", "%"]],
  noise: [["dB[SPL]", "dB(A)"]],
  "held back": [["1", "count"]],
};
const PARTS = ["processor", "graphics", "memory", "drive", "board", "case"].map(
  (part) => [part, part] as const,
);
const MOST_SHOWN = 12;

const SEPARATORS: Record<string, string> = { ",": "commas", ";": "semicolons", "\t": "tabs", "|": "bars" };

interface Props {
  job: Case;
  run: string;
  place: Place;
  log: Log;
  /** What was said of columns before, by heading. */
  worded: Record<string, Column>;
  onSay: (column: Column) => void;
  onKept: () => void;
}

/** Says what each column of a log is and where the run lies in it, then takes it in. */
export function Columns(props: Props) {
  const { job, log, worded, onSay } = props;
  const mark = job.machine.decimal_mark;
  const columns = log.columns.map((column) => ({
    ...column,
    ...worded[column.heading],
    number: column.number,
  }));
  const taken = columns.filter(({ role }) => role !== null);
  const [place, setPlace] = useState<Within>({ begins: "", lasts: "" });
  const within = readWithin(place, mark);
  const { take, share, stop } = useTaking(props, taken);
  const [isAll, setAll] = useState(false);
  const shown = isAll ? columns : columns.slice(0, MOST_SHOWN);
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        if ("problems" in within) return;
        take.mutate(within);
      }}
      className="space-y-4"
    >
      <p>
        <b className="font-semibold">{formatCount(columns.length, "column")} beside the time.</b>{" "}
        <span className="text-soft">
          Read as: parted by {SEPARATORS[log.form.separator] ?? log.form.separator}, decimal mark “
          {log.form.decimal_mark}”, headings in row {log.form.heading_row + 1}. Say what each column is; it is
          remembered.
        </span>
      </p>
      <ul className="space-y-2">
        {shown.map((column) => (
          <ColumnLine key={column.number} column={column} rows={log.rows} onSay={onSay} />
        ))}
      </ul>
      {columns.length > shown.length && (
        <Button look="quiet" onClick={() => setAll(true)}>
          Show {columns.length - shown.length} more columns
        </Button>
      )}
      <WithinFields place={place} setPlace={setPlace} mark={mark} />
      {take.error && <WhyNot error={take.error} />}
      {share !== null && <HowFar share={share} />}
      <div className="flex flex-wrap gap-2">
        <Button look="main" type="submit" disabled={share !== null || taken.length === 0}>
          {taken.length === 0
            ? "Say first what a column is"
            : `Take in ${formatCount(taken.length, "column")}`}
        </Button>
        {share !== null && <Button onClick={stop}>Stop; nothing is kept</Button>}
      </div>
    </form>
  );
}

/** Where the run lies in the log, as it is typed. */
interface Within {
  begins: string;
  lasts: string;
}

type WithinS = Pick<LogIn, "begins_s" | "lasts_s">;

/** The same in seconds, or what can't be read of it. */
function readWithin({ begins, lasts }: Within, mark: DecimalMark): WithinS | { problems: Partial<Within> } {
  const beginsMin = begins.trim() ? readNumber(begins, mark) : 0;
  const lastsMin = lasts.trim() ? readNumber(lasts, mark) : undefined;
  if (beginsMin === null) return { problems: { begins: sayUnread(begins, mark) } };
  if (lastsMin === null) return { problems: { lasts: sayUnread(lasts, mark) } };
  return { begins_s: 60 * beginsMin, lasts_s: lastsMin === undefined ? null : 60 * lastsMin };
}

/** Takes the log in: how far it is, and how it is stopped. */
function useTaking({ job, run, place, log, onKept }: Props, taken: Column[]) {
  const [share, setShare] = useState<number | null>(null);
  const abort = useRef<AbortController | null>(null);
  const take = useMutation({
    mutationFn: async (within: WithinS) => {
      const { signal } = (abort.current = new AbortController());
      setShare(0);
      const columns = taken.map((column) => ({ ...column, role: column.role as Role }));
      const body = { ...place, log: log.id, form: log.form, columns, ...within };
      try {
        await putSensorLog(job.machine.id, run, body, signal, setShare);
      } catch (refusal) {
        if (signal.aborted) return false;
        throw refusal instanceof Refused || refusal instanceof Lost ? refusal : new Lost();
      }
      return true;
    },
    onSuccess: (isKept) => {
      if (isKept) onKept();
    },
    onSettled: () => setShare(null),
  });
  return { take, share, stop: () => abort.current?.abort() };
}

interface LineProps {
  column: Column;
  rows: string[][];
  onSay: (column: Column) => void;
}

/** One column: its first values, what it tells, of which part and in which unit. */
function ColumnLine({ column, rows, onSay }: LineProps) {
  const set = (change: Partial<Column>) => onSay({ ...column, ...change });
  return (
    <li className="grid items-center gap-2 sm:grid-cols-[1fr_10rem_8rem_6rem]">
      <span className="min-w-0 wrap-anywhere">
        {column.heading}{" "}
        <span className="text-sm text-soft">{rows.map((row) => row[column.number]).join(", ")}</span>
      </span>
      <ChoiceField
        label={`${column.heading} is`}
        hideLabel
        value={column.role ?? ""}
        choices={ROLE_CHOICES}
        onChange={(role) => set({ role: role || null, unit: role ? SENSED[role].unit : "1" })}
      />
      {column.role && (
        <>
          <ChoiceField
            label={`${column.heading} is on the`}
            hideLabel
            value={column.of}
            choices={PARTS}
            onChange={(of) => set({ of })}
          />
          <ChoiceField
            label={`${column.heading} is in`}
            hideLabel
            value={column.unit}
            choices={UNITS[column.role] ?? [[column.unit, column.unit] as const]}
            onChange={(unit) => set({ unit })}
          />
        </>
      )}
    </li>
  );
}

interface WithinProps {
  place: Within;
  setPlace: (place: Within) => void;
  mark: DecimalMark;
}

function WithinFields({ place, setPlace, mark }: WithinProps) {
  const read = readWithin(place, mark);
  const problems: Partial<Within> = "problems" in read ? read.problems : {};
  return (
    <div className="grid gap-3 sm:grid-cols-2">
      <TextField
        label="The run begins at minute … of the log"
        inputMode="decimal"
        placeholder="0: with its first row"
        value={place.begins}
        problem={problems.begins}
        onChange={(begins) => setPlace({ ...place, begins })}
      />
      <TextField
        label="and lasts so many minutes"
        inputMode="decimal"
        placeholder="to the end of the log"
        value={place.lasts}
        problem={problems.lasts}
        onChange={(lasts) => setPlace({ ...place, lasts })}
      />
    </div>
  );
}

function WhyNot({ error }: { error: Error }) {
  return (
    <Note alert>
      <b className="font-semibold">{error.message}</b>
      {error instanceof Refused && (
        <ul className="list-disc pl-5">
          {error.errors.slice(0, MOST_SHOWN).map(({ field, message }) => (
            <li key={field + message}>
              {field}: {message}
            </li>
          ))}
        </ul>
      )}
    </Note>
  );
}

function HowFar({ share }: { share: number }) {
  return (
    <p role="status">
      <progress className="mr-3 align-middle" max={1} value={share} aria-label="How far the log is read" />
      {share < 1 ? "Reading the log…" : "Keeping it…"}
    </p>
  );
}

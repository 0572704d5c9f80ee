import { useMutation } from "@tanstack/react-query";
import { type FormEvent, useRef, useState } from "react";

import {
  asKind,
  call,
  type Case,
  type LogIn,
  Lost,
  putSensorLog,
  Refused,
  type SensorLog as Log,
} from "../../../api/client";
import { formatCount } from "../../../lib/format";
import { readNumber, sayUnread } from "../../../lib/number";
import { SENSED, SENSED_ROLES } from "../../../lib/sensors";
import { Button } from "../../../ui/Button";
import { ChoiceField, TextField } from "../../../ui/Field";
import { Note } from "../../../ui/Note";
import type { Place } from "./OverTime";

type Column = Log["columns"][number];
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

interface Props {
  job: Case;
  run: string;
  place: Place;
  onClose: () => void;
  onKept: () => void;
}

/** A log that another program wrote: looked at first, its columns said, then taken in as the trace of this run. */
export function SensorLog({ job, run, place, onClose, onKept }: Props) {
  const input = useRef<HTMLInputElement>(null);
  const look = useMutation({
    mutationFn: (file: File) => call("post", "/api/sensor-logs", {}, asKind(file, "text/csv")),
  });
  // What was said of columns stays said where the same log is chosen anew, mended.
  const [said, setSaid] = useState<Record<string, Column>>({});
  return (
    <div className="space-y-4">
      <p className="text-soft">
        A table with a time and what sensors told, a row a moment, as any logging program saves it. Its
        separator, decimal mark and times are found out.
      </p>
      <input
        ref={input}
        type="file"
        accept=".csv,.txt,.tsv,text/csv,text/plain"
        aria-label="Sensor log"
        className="sr-only"
        tabIndex={-1}
        onChange={(event) => {
          const file = event.target.files?.[0];
          if (file) look.mutate(file);
          event.target.value = "";
        }}
      />
      <Button disabled={look.isPending} onClick={() => input.current?.click()}>
        {look.isPending ? "Looking at it…" : look.data ? "Choose another log" : "Choose the log"}
      </Button>
      {look.error && <Note alert>{look.error.message}</Note>}
      {look.data ? (
        <Columns
          key={look.data.id}
          job={job}
          run={run}
          place={place}
          log={look.data}
          said={said}
          onSay={(column) => setSaid({ ...said, [column.heading]: column })}
          onKept={onKept}
        />
      ) : (
        <div>
          <Button onClick={onClose}>Close</Button>
        </div>
      )}
    </div>
  );
}

interface ColumnsProps extends Omit<Props, "onClose"> {
  log: Log;
  said: Record<string, Column>;
  onSay: (column: Column) => void;
}

function Columns({ job, run, place, log, said, onSay, onKept }: ColumnsProps) {
  const mark = job.machine.decimal_mark;
  const columns = log.columns.map((column) => ({
    ...column,
    ...said[column.heading],
    number: column.number,
  }));
  const [begins, setBegins] = useState("");
  const [lasts, setLasts] = useState("");
  const [isAll, setAll] = useState(false);
  const [share, setShare] = useState<number | null>(null);
  const [error, setError] = useState<Error | null>(null);
  const abort = useRef<AbortController | null>(null);
  const taken = columns.filter(({ role }) => role !== null);
  const beginsMin = begins.trim() ? readNumber(begins, mark) : 0;
  const lastsMin = lasts.trim() ? readNumber(lasts, mark) : null;
  const isUnread = beginsMin === null || (lasts.trim() !== "" && lastsMin === null);
  const set = (number: number, change: Partial<Column>) => {
    const column = columns.find((one) => one.number === number);
    if (column) onSay({ ...column, ...change });
  };
  const onSubmit = async (event: FormEvent) => {
    event.preventDefault();
    if (isUnread) return;
    abort.current = new AbortController();
    setError(null);
    setShare(0);
    const body: LogIn = {
      ...place,
      log: log.id,
      form: log.form,
      columns: taken.map((column) => ({ ...column, role: column.role as Role })),
      begins_s: 60 * (beginsMin ?? 0),
      lasts_s: lastsMin === null ? null : 60 * lastsMin,
    };
    try {
      await putSensorLog(job.machine.id, run, body, abort.current.signal, setShare);
      onKept();
    } catch (refusal) {
      if (!abort.current.signal.aborted)
        setError(refusal instanceof Refused || refusal instanceof Lost ? refusal : new Lost());
    } finally {
      setShare(null);
    }
  };
  const shown = isAll ? columns : columns.slice(0, MOST_SHOWN);
  return (
    <form onSubmit={(event) => void onSubmit(event)} className="space-y-4">
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
          <li key={column.number} className="grid items-center gap-2 sm:grid-cols-[1fr_10rem_8rem_6rem]">
            <span className="min-w-0 wrap-anywhere">
              {column.heading}{" "}
              <span className="text-sm text-soft">
                {log.rows.map((row) => row[column.number]).join(", ")}
              </span>
            </span>
            <ChoiceField
              label={`${column.heading} is`}
              hideLabel
              value={column.role ?? ""}
              choices={ROLE_CHOICES}
              onChange={(role) =>
                set(column.number, {
                  role: role || null,
                  unit: role ? SENSED[role].unit : "1",
                })
              }
            />
            {column.role && (
              <>
                <ChoiceField
                  label={`${column.heading} is on the`}
                  hideLabel
                  value={column.of}
                  choices={PARTS}
                  onChange={(of) => set(column.number, { of })}
                />
                <ChoiceField
                  label={`${column.heading} is in`}
                  hideLabel
                  value={column.unit}
                  choices={UNITS[column.role] ?? [[column.unit, column.unit] as const]}
                  onChange={(unit) => set(column.number, { unit })}
                />
              </>
            )}
          </li>
        ))}
      </ul>
      {columns.length > shown.length && (
        <Button look="quiet" onClick={() => setAll(true)}>
          Show {columns.length - shown.length} more columns
        </Button>
      )}
      <div className="grid gap-3 sm:grid-cols-2">
        <TextField
          label="The run begins at minute … of the log"
          inputMode="decimal"
          placeholder="0: with its first row"
          value={begins}
          problem={beginsMin === null ? sayUnread(begins, mark) : undefined}
          onChange={setBegins}
        />
        <TextField
          label="and lasts so many minutes"
          inputMode="decimal"
          placeholder="to the end of the log"
          value={lasts}
          problem={lasts.trim() && lastsMin === null ? sayUnread(lasts, mark) : undefined}
          onChange={setLasts}
        />
      </div>
      {error && (
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
      )}
      {share !== null && (
        <p role="status">
          <progress
            className="mr-3 align-middle"
            max={1}
            value={share}
            aria-label="How far the log is read"
          />
          {share < 1 ? "Reading the log…" : "Keeping it…"}
        </p>
      )}
      <div className="flex flex-wrap gap-2">
        <Button look="main" type="submit" disabled={share !== null || taken.length === 0}>
          {taken.length === 0
            ? "Say first what a column is"
            : `Take in ${formatCount(taken.length, "column")}`}
        </Button>
        {share !== null && <Button onClick={() => abort.current?.abort()}>Stop; nothing is kept</Button>}
      </div>
    </form>
  );
}

const SEPARATORS: Record<string, string> = { ",": "commas", ";": "semicolons", "\t": "tabs", "|": "bars" };

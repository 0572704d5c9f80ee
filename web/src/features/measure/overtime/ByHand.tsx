import { useMutation, useSuspenseQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";

import { type Beside, call, Refused } from "../../../api/client";
import { useDraft } from "../../../lib/draft";
import { newId } from "../../../lib/ids";
import { writeValue } from "../../../lib/number";
import { SENSED, TYPED_ROLES } from "../../../lib/sensors";
import { beep } from "../../../lib/sound";
import { Button } from "../../../ui/Button";
import { ChoiceField, TextField } from "../../../ui/Field";
import { Note } from "../../../ui/Note";
import { besideQuery, traceQuery } from "../../../job/api";
import type { OverTimeProps, Place } from "./OverTime";
import {
  besideAt,
  cellKey,
  dueMinute,
  everyFive,
  freshOverTime,
  hottestFrom,
  type OverTime as Typed,
  readMinutes,
  readOverTime,
  restAndEnd,
  type Sensor,
  typedOf,
} from "./overTime";

const TICK_MS = 500;

type Props = OverTimeProps & { place: Place };

/** Readings at moments of a run, typed as it goes on. */
export function ByHand(props: Props) {
  const { job, workload, onClose } = props;
  const mark = job.machine.decimal_mark;
  const beside = useSuspenseQuery(besideQuery(job.machine.id, props.sitting.id, workload.id)).data;
  const { typed, change, minutes, save, problems } = useTyped(props, beside);
  const form = useRef<HTMLFormElement>(null);
  const { elapsed, due } = useClock(typed.began, minutes ?? [], (minute) => {
    beep();
    form.current?.querySelector<HTMLInputElement>(`[data-minute="${minute}"] input`)?.focus();
  });
  const stopAt = job.machine.limits.stop_c;
  const hot = typeof stopAt === "number" ? hottestFrom(typed, stopAt, mark) : null;
  const other = beside[0]?.build;
  return (
    <form
      ref={form}
      onSubmit={(event) => {
        event.preventDefault();
        if (minutes) save.mutate(minutes);
      }}
      className="space-y-4"
    >
      <Moments typed={typed} change={change} length={workload.minutes_a_run} isRead={minutes !== null} />
      <Begun typed={typed} due={due} elapsed={elapsed} onBegin={() => change({ began: Date.now() })} />
      {minutes && <Readings {...{ typed, change, minutes, due, beside, problems }} />}
      {other && (
        <p className="text-sm text-soft">
          Beneath each field: what build {other} read at that minute, the mean of its runs.
        </p>
      )}
      <Button
        look="quiet"
        onClick={() =>
          change({ sensors: [...typed.sensors, { id: newId(), name: "", role: "temperature" }] })
        }
      >
        + another sensor
      </Button>
      {hot && (
        <Note alert>
          {hot} read: runs of this machine are stopped at {writeValue(stopAt, mark)} °C. End the load, and
          mark the run “Safety stop”.
        </Note>
      )}
      {save.error && !(save.error instanceof Unreadable) && <Note alert>{sayError(save.error)}</Note>}
      <div className="flex flex-wrap gap-2">
        <Button look="main" type="submit" disabled={save.isPending || !minutes}>
          Keep these readings
        </Button>
        <Button onClick={onClose}>Close; what is typed stays</Button>
      </div>
    </form>
  );
}

/** What can't be sent as it is typed, cell by cell. */
class Unreadable extends Error {
  constructor(readonly problems: Record<string, string>) {
    super("Not every reading can be read.");
  }
}

/** What is typed of a run over time, and its save. */
function useTyped({ job, workload, measures, run, place, onKept }: Props, beside: Beside[]) {
  const mark = job.machine.decimal_mark;
  const kept = useSuspenseQuery(traceQuery(job.machine.id, run)).data;
  const [typed, setTyped, forget] = useDraft<Typed>(
    `over-time.${run}`,
    typedOf(kept, mark) ?? freshOverTime(workload, measures, beside),
  );
  const save = useMutation({
    mutationFn: async (minutes: number[]) => {
      const read = readOverTime(typed, minutes, mark);
      if ("problems" in read) throw new Unreadable(read.problems);
      if (read.channels.length === 0)
        throw new Error("Nothing is typed yet: write what a sensor told at one of the moments.");
      const started_at = typed.began ? new Date(typed.began).toISOString() : place.started_at;
      const trace = { ...place, started_at, channels: read.channels, marks: [], missing: {}, seen: {} };
      const ends = { machine_id: job.machine.id, run_id: run };
      await call("put", "/api/machines/{machine_id}/traces/{run_id}", ends, { ...trace, ended: true });
    },
    onSuccess: () => {
      forget();
      onKept();
    },
  });
  return {
    typed,
    change: (part: Partial<Typed>) => setTyped({ ...typed, ...part }),
    minutes: readMinutes(typed.minutes, mark),
    save,
    problems: save.error instanceof Unreadable ? save.error.problems : {},
  };
}

interface BegunProps {
  typed: Typed;
  due: number | null;
  elapsed: number;
  onBegin: () => void;
}

/** Starts the load's clock, and says what is due by it. */
function Begun({ typed, due, elapsed, onBegin }: BegunProps) {
  return (
    <div className="flex flex-wrap items-center gap-3">
      <Button onClick={onBegin}>{typed.began ? "The load begins anew now" : "The load begins now"}</Button>
      <p role="status" className="text-lg font-semibold">
        {sayDue(typed, due, elapsed)}
      </p>
    </div>
  );
}

interface MomentsProps {
  typed: Typed;
  change: (part: Partial<Typed>) => void;
  /** How long a run lasts, in minutes, where that is known. */
  length: number | null;
  isRead: boolean;
}

/** At which minutes of the load the sensors are read. */
function Moments({ typed, change, length, isRead }: MomentsProps) {
  return (
    <div className="flex flex-wrap items-end gap-3">
      <div className="w-80">
        <TextField
          label="Minutes of the load at which it is read, 0 at rest"
          value={typed.minutes}
          problem={isRead ? undefined : "Write minutes that rise, such as 0, 5, 10."}
          onChange={(minutes) => change({ minutes })}
        />
      </div>
      <Button onClick={() => change({ minutes: everyFive(length) })}>Every 5 minutes</Button>
      <Button onClick={() => change({ minutes: restAndEnd(length) })}>At rest and after the load</Button>
    </div>
  );
}

interface ReadingsProps {
  typed: Typed;
  change: (part: Partial<Typed>) => void;
  minutes: number[];
  /** The minute that has come by the load's clock. */
  due: number | null;
  beside: Beside[];
  problems: Record<string, string>;
}

/** A row a moment, a column a sensor. */
function Readings(props: ReadingsProps) {
  const { typed, change, minutes, due } = props;
  const edit = (id: string, part: Partial<Sensor>) =>
    change({ sensors: typed.sensors.map((one) => (one.id === id ? { ...one, ...part } : one)) });
  return (
    <div className="overflow-x-auto" role="region" aria-label="Readings by moment" tabIndex={0}>
      <table className="border-separate border-spacing-x-1.5 border-spacing-y-1">
        <thead>
          <tr className="text-left align-top text-soft">
            <th className="sticky left-0 bg-card font-normal">Moment</th>
            {typed.sensors.map((one) => (
              <th key={one.id} scope="col" className="max-w-48 min-w-24 space-y-1 font-normal">
                <TextField
                  label="Name of a sensor"
                  hideLabel
                  value={one.name}
                  onChange={(name) => edit(one.id, { name })}
                />
                <ChoiceField
                  label={`What ${one.name || "it"} tells`}
                  hideLabel
                  value={one.role}
                  choices={ROLE_CHOICES}
                  onChange={(role) => edit(one.id, { role })}
                />
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {minutes.map((minute, place) => (
            <tr key={minute} data-minute={minute} className="align-top">
              <th
                scope="row"
                className={`sticky left-0 bg-card pt-2 pr-2 text-left whitespace-nowrap ${minute === due ? "font-bold text-ink" : "font-normal text-soft"}`}
              >
                {minute === 0 ? "at rest" : `minute ${minute}`}
              </th>
              {typed.sensors.map((sensor) => (
                <td key={sensor.id} className="min-w-24">
                  <Reading {...props} {...{ sensor, minute }} isLast={place === minutes.length - 1} />
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

type ReadingProps = ReadingsProps & { sensor: Sensor; minute: number; isLast: boolean };

/** What a sensor told at a minute, and beneath it what the other side's did. */
function Reading({ typed, change, beside, problems, sensor, minute, isLast }: ReadingProps) {
  const key = cellKey(sensor.id, minute);
  const there = besideAt(beside, sensor, minute, isLast);
  return (
    <>
      <TextField
        label={`${sensor.name} ${minute === 0 ? "at rest" : `at minute ${minute}`}`}
        hideLabel
        inputMode="decimal"
        value={typed.cells[key] ?? ""}
        problem={problems[key]}
        onChange={(text) => change({ cells: { ...typed.cells, [key]: text } })}
      />
      {there && (
        <span className="text-sm text-soft">
          {beside[0]?.build} {there}
        </span>
      )}
    </>
  );
}

const ROLE_CHOICES = TYPED_ROLES.map((role) => [role, SENSED[role].typed?.label ?? role] as const);

const sayError = (error: Error): string =>
  error instanceof Refused && error.errors.length > 0
    ? error.errors.map(({ field, message }) => `${field}: ${message}`).join(" ")
    : error.message;

/** What is asked at this minute: "Minute 5: Core, Fan?". */
function sayDue(typed: Typed, due: number | null, elapsed: number): string {
  if (!typed.began) return "";
  const asked = typed.sensors.filter(({ id, name }) => name && !typed.cells[cellKey(id, due ?? -1)]?.trim());
  if (due === null || asked.length === 0) return `minute ${Math.floor(elapsed / 60_000) + 1} of the load`;
  return `${due === 0 ? "At rest" : `Minute ${due}`}: ${asked.map(({ name }) => name).join(", ")}?`;
}

/** The load's clock; calls once for each moment that comes due while it is looked at. */
function useClock(began: number, minutes: number[], onDue: (minute: number) => void) {
  const [now, setNow] = useState(() => Date.now());
  useEffect(() => {
    if (!began) return;
    const timer = setInterval(() => setNow(Date.now()), TICK_MS);
    return () => clearInterval(timer);
  }, [began]);
  const elapsed = Math.max(0, now - began);
  const due = began ? dueMinute(minutes, elapsed) : null;
  const told = useRef(due);
  useEffect(() => {
    if (due !== null && due !== told.current) onDue(due);
    told.current = due;
  }, [due, onDue]);
  return { elapsed, due };
}

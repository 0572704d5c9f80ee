import { useSuspenseQuery } from "@tanstack/react-query";
import { type FormEvent, Suspense, useEffect, useRef, useState } from "react";

import {
  call,
  type Case,
  type Measure,
  Refused,
  type Sitting,
  type TraceIn,
  type Workload,
} from "../../../api/client";
import { useDraft } from "../../../lib/draft";
import { newId } from "../../../lib/ids";
import { beep } from "../../../lib/sound";
import { writeValue } from "../../../lib/number";
import { SENSED, TYPED_ROLES } from "../../../lib/sensors";
import { Button } from "../../../ui/Button";
import { Dialog } from "../../../ui/Dialog";
import { ChoiceField, TextField } from "../../../ui/Field";
import { Note, Waiting } from "../../../ui/Note";
import { besideQuery, traceQuery } from "../../../job/api";
import { type Row, rowName } from "../../../job/rows";
import {
  hottestFrom,
  besideAt,
  cellKey,
  dueMinute,
  everyFive,
  freshOverTime,
  type OverTime as Typed,
  readMinutes,
  readOverTime,
  restAndEnd,
  typedOf,
} from "./overTime";
import { SensorLog } from "./SensorLog";

const TICK_MS = 500;
const WAYS = [
  ["typed", "read by hand, at moments of the run"],
  ["log", "a sensor log of another program (CSV)"],
] as const;

export type Place = Pick<TraceIn, "sitting" | "workload" | "position" | "warm_up" | "started_at">;

interface Props {
  job: Case;
  sitting: Sitting;
  workload: Workload;
  measures: Measure[];
  row: Row;
  /** The run's id, also of one that is not recorded yet. */
  run: string;
  onClose: () => void;
  /** The trace is kept: the run gets what is read off it. */
  onKept: () => void;
}

/** What sensors told during one run: typed as it goes on, or from a log that another program wrote. */
export function OverTime(props: Props) {
  const [way, setWay] = useState<(typeof WAYS)[number][0]>("typed");
  const { sitting, workload, row, onClose } = props;
  const place: Place = {
    sitting: sitting.id,
    workload: workload.id,
    position: row.warmUp ?? row.position,
    warm_up: row.warmUp !== null,
    started_at: row.run?.started_at ?? new Date().toISOString(),
  };
  return (
    <Dialog
      title={`${workload.name}, ${rowName(row).toLowerCase()}: over time`}
      open
      isWide
      onClose={onClose}
    >
      <div className="space-y-4">
        <div className="sm:w-96">
          <ChoiceField label="Readings come from" value={way} choices={WAYS} onChange={setWay} />
        </div>
        <Suspense fallback={<Waiting error={null} />}>
          {way === "typed" ? <ByHand {...props} place={place} /> : <SensorLog {...props} place={place} />}
        </Suspense>
      </div>
    </Dialog>
  );
}

function ByHand({ job, sitting, workload, measures, run, place, onClose, onKept }: Props & { place: Place }) {
  const mark = job.machine.decimal_mark;
  const beside = useSuspenseQuery(besideQuery(job.machine.id, sitting.id, workload.id)).data;
  const kept = useSuspenseQuery(traceQuery(job.machine.id, run)).data;
  const [typed, setTyped, forget] = useDraft<Typed>(
    `over-time.${run}`,
    typedOf(kept, mark) ?? freshOverTime(workload, measures, beside),
  );
  const [problems, setProblems] = useState<Record<string, string>>({});
  const [error, setError] = useState<Error | null>(null);
  const [isSaving, setSaving] = useState(false);
  const minutes = readMinutes(typed.minutes, mark);
  const form = useRef<HTMLFormElement>(null);
  const { elapsed, due } = useClock(typed.began, minutes ?? [], (minute) => {
    beep();
    form.current?.querySelector<HTMLInputElement>(`[data-minute="${minute}"] input`)?.focus();
  });
  const stopAt = job.machine.limits.stop_c;
  const hot = typeof stopAt === "number" ? hottestFrom(typed, stopAt, mark) : null;
  const change = (part: Partial<Typed>) => setTyped({ ...typed, ...part });
  const sensor = (id: string, part: Partial<Typed["sensors"][number]>) =>
    change({ sensors: typed.sensors.map((one) => (one.id === id ? { ...one, ...part } : one)) });
  const onSubmit = async (event: FormEvent) => {
    event.preventDefault();
    if (!minutes) return;
    const read = readOverTime(typed, minutes, mark);
    setProblems("problems" in read ? read.problems : {});
    if ("problems" in read) return;
    if (read.channels.length === 0) {
      setError(new Error("Nothing is typed yet: write what a sensor told at one of the moments."));
      return;
    }
    setSaving(true);
    setError(null);
    try {
      const started_at = typed.began ? new Date(typed.began).toISOString() : place.started_at;
      await call(
        "put",
        "/api/machines/{machine_id}/traces/{run_id}",
        { machine_id: job.machine.id, run_id: run },
        {
          ...place,
          started_at,
          channels: read.channels,
          marks: [],
          missing: {},
          seen: {},
          ended: true,
        },
      );
      forget();
      onKept();
    } catch (refusal) {
      setError(refusal as Error);
    } finally {
      setSaving(false);
    }
  };
  const other = beside[0]?.build;
  return (
    <form ref={form} onSubmit={(event) => void onSubmit(event)} className="space-y-4">
      <div className="flex flex-wrap items-end gap-3">
        <div className="w-80">
          <TextField
            label="Minutes of the load at which it is read, 0 at rest"
            value={typed.minutes}
            problem={minutes ? undefined : "Write minutes that rise, such as 0, 5, 10."}
            onChange={(text) => change({ minutes: text })}
          />
        </div>
        <Button onClick={() => change({ minutes: everyFive(workload.minutes_a_run) })}>
          Every 5 minutes
        </Button>
        <Button onClick={() => change({ minutes: restAndEnd(workload.minutes_a_run) })}>
          At rest and after the load
        </Button>
      </div>
      <div className="flex flex-wrap items-center gap-3">
        <Button onClick={() => change({ began: Date.now() })}>
          {typed.began ? "The load begins anew now" : "The load begins now"}
        </Button>
        <p role="status" className="text-lg font-semibold">
          {sayDue(typed, due, elapsed)}
        </p>
      </div>
      {minutes && (
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
                      onChange={(name) => sensor(one.id, { name })}
                    />
                    <ChoiceField
                      label={`What ${one.name || "it"} tells`}
                      hideLabel
                      value={one.role}
                      choices={ROLE_CHOICES}
                      onChange={(role) => sensor(one.id, { role })}
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
                  {typed.sensors.map((one) => {
                    const key = cellKey(one.id, minute);
                    const there = besideAt(beside, one, minute, place === minutes.length - 1);
                    return (
                      <td key={one.id} className="min-w-24">
                        <TextField
                          label={`${one.name} ${minute === 0 ? "at rest" : `at minute ${minute}`}`}
                          hideLabel
                          inputMode="decimal"
                          value={typed.cells[key] ?? ""}
                          problem={problems[key]}
                          onChange={(text) => change({ cells: { ...typed.cells, [key]: text } })}
                        />
                        {there && (
                          <span className="text-sm text-soft">
                            {other} {there}
                          </span>
                        )}
                      </td>
                    );
                  })}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
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
      {error && <Note alert>{error instanceof Refused ? sayRefused(error) : error.message}</Note>}
      <div className="flex flex-wrap gap-2">
        <Button look="main" type="submit" disabled={isSaving || !minutes}>
          Keep these readings
        </Button>
        <Button onClick={onClose}>Close; what is typed stays</Button>
      </div>
    </form>
  );
}

const ROLE_CHOICES = TYPED_ROLES.map((role) => [role, SENSED[role].typed?.label ?? role] as const);

const sayRefused = (refusal: Refused): string =>
  refusal.errors.length > 0
    ? refusal.errors.map(({ field, message }) => `${field}: ${message}`).join(" ")
    : refusal.message;

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

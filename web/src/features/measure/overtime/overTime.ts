import type { Beside, DrawnTrace, HeatRole, Measure, TraceIn, Workload } from "../../../api/client";
import { newId } from "../../../lib/ids";
import { roleOfKind, SENSED, TYPED_ROLES } from "../../../lib/sensors";
import { type DecimalMark, readNumber, sayUnread, writeNumber } from "../../../lib/number";

/** A sensor that is read by hand. */
export interface Sensor {
  id: string;
  name: string;
  role: HeatRole;
}

/** Readings at moments of a run: what is typed by sensor and minute, and when the load began by the clock, in ms. */
export interface OverTime {
  minutes: string;
  sensors: Sensor[];
  cells: Record<string, string>;
  began: number;
}

export const cellKey = (sensor: string, minute: number): string => `${sensor} ${minute}`;

const nameOf = (role: HeatRole): string => SENSED[role].typed?.name ?? "";

/** Whether something that a run of it is read for changes while it lasts. */
export const isSensed = (workload: Workload, measures: readonly Measure[]): boolean =>
  measures.some(({ kind, trace_figure }) => trace_figure !== null || roleOfKind(kind) !== undefined) ||
  workload.loads.some((part) => part === "cooler" || part === "thermal paste");

/** What is asked where nothing was typed yet: the sensors that earlier runs had, else one of each kind that is measured. */
export function freshOverTime(workload: Workload, measures: readonly Measure[], beside: Beside[]): OverTime {
  const told = beside.flatMap(({ role, sensor }) =>
    TYPED_ROLES.filter((typed) => typed === role).map((typed) => ({ role: typed, name: sensor })),
  );
  // Two logs may tell of one sensor.
  const known = [...new Map(told.map((one) => [`${one.role} ${one.name}`, one])).values()];
  const roles = new Set<HeatRole>(["temperature"]);
  measures.forEach(({ kind }) => {
    const role = roleOfKind(kind);
    if (role) roles.add(role);
  });
  const asked = known.length > 0 ? known : [...roles].map((role) => ({ role, name: nameOf(role) }));
  return {
    minutes: everyFive(workload.minutes_a_run),
    sensors: asked.map((sensor) => ({ id: newId(), ...sensor })),
    cells: {},
    began: 0,
  };
}

type KeptTrace = Pick<DrawnTrace, "channels"> & { trace: Pick<DrawnTrace["trace"], "source"> };

/** What was typed of a run before, to be mended; null where nothing was typed of it. */
export function typedOf(trace: KeptTrace | null, mark: DecimalMark): OverTime | null {
  if (trace?.trace.source !== "typed") return null;
  const minutes = new Set<number>();
  const cells: Record<string, string> = {};
  const sensors = trace.channels.flatMap((channel) => {
    const role = TYPED_ROLES.find((known) => known === channel.role);
    if (!role) return [];
    const id = newId();
    channel.at.forEach((second, place) => {
      const [minute, value] = [second / 60, channel.highs[place]];
      if (value === null || value === undefined) return;
      minutes.add(minute);
      cells[cellKey(id, minute)] = writeNumber(value, mark);
    });
    return [{ id, role, name: channel.sensor }];
  });
  if (sensors.length === 0) return null;
  const written = [...minutes].sort((a, b) => a - b).map((minute) => writeNumber(minute, mark));
  return { minutes: written.join(mark === "," ? "; " : ", "), sensors, cells, began: 0 };
}

/** At rest, then every five minutes to the end of the run. */
export function everyFive(length: number | null): string {
  const end = Math.min(60, length ?? 20);
  const marks = Array.from({ length: Math.floor(end / 5) + 1 }, (_, step) => step * 5);
  return marks.join(", ");
}

/** At rest, and when the load has done its work. */
export const restAndEnd = (length: number | null): string => `0, ${Math.max(1, Math.floor(length ?? 20))}`;

/** The moments that were typed, in minutes since the load began; null where they are none, or do not rise. */
export function readMinutes(text: string, mark: DecimalMark): number[] | null {
  const parts = text.split(mark === "," ? /[;\s]\s*/ : /[,;\s]\s*/).filter(Boolean);
  const minutes = parts.map((part) => readNumber(part.replace(/,$/, ""), mark));
  if (minutes.length === 0 || minutes.some((minute) => minute === null || minute < 0)) return null;
  const known = minutes as number[];
  return known.every((minute, place) => place === 0 || minute > (known[place - 1] ?? 0)) ? known : null;
}

/** The minute that is due by a clock: the last that has come; null before the first. */
export const dueMinute = (minutes: readonly number[], elapsedMs: number): number | null =>
  minutes.filter((minute) => minute * 60_000 <= elapsedMs).at(-1) ?? null;

/** What the other side's runs told of a sensor at a minute: at their start, their end, or in between. */
export function besideAt(beside: readonly Beside[], sensor: Sensor, minute: number, isLast: boolean): string {
  const alike = beside.filter(({ role }) => role === sensor.role);
  const known =
    alike.find((one) => one.sensor === sensor.name) ?? (alike.length === 1 ? alike[0] : undefined);
  if (!known) return "";
  if (minute === 0) return known.first ?? "";
  return known.minutes[minute - 1] ?? (isLast ? known.last : null) ?? "";
}

/** The channels as they are sent, or by cell what can't be read. */
export function readOverTime(
  { sensors, cells }: OverTime,
  minutes: readonly number[],
  mark: DecimalMark,
): { channels: NonNullable<TraceIn["channels"]> } | { problems: Record<string, string> } {
  const problems: Record<string, string> = {};
  const channels = sensors.flatMap((sensor) => {
    const read = minutes.flatMap((minute) => {
      const key = cellKey(sensor.id, minute);
      const text = (cells[key] ?? "").trim();
      if (!text) return [];
      const value = readNumber(text, mark);
      if (value === null) problems[key] = sayUnread(text, mark);
      return [[minute * 60, value ?? 0] as const];
    });
    if (read.length === 0) return [];
    const { unit, typed: offered } = SENSED[sensor.role];
    const of = offered?.of ?? "processor";
    return [
      {
        ...{
          role: sensor.role,
          of,
          unit,
          sensor: sensor.name.trim() || nameOf(sensor.role),
          first: 0,
          stands_in: false,
        },
        at: read.map(([second]) => second),
        values: read.map(([, value]) => value),
      },
    ];
  });
  return Object.keys(problems).length > 0 ? { problems } : { channels };
}

/** The first temperature typed that reaches so many °C, as it was typed: "Core 99"; null where none does. */
export function hottestFrom(typed: OverTime, stopAt: number, mark: DecimalMark): string | null {
  for (const { id, name, role } of typed.sensors) {
    const cells = Object.entries(typed.cells).filter(([key]) => key.startsWith(`${id} `));
    const found = cells.find(([, text]) => (readNumber(text, mark) ?? -Infinity) >= stopAt);
    if (role === "temperature" && found) return `${name} ${found[1].trim()} °C`;
  }
  return null;
}

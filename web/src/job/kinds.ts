import type { Measure } from "../api/client";

interface Kind extends Pick<Measure, "unit" | "scale" | "kind" | "better"> {
  label: string;
  /** What else has to be said of it: its steps, how many things it tries, what divides it, what is needed. */
  asks?: "levels" | "of" | "per size" | "per power" | "needs";
}

const ratio = { scale: "ratio" } as const;
const difference = { scale: "difference" } as const;

/** What a technician may measure, in words; the rest of the measure follows from the choice. */
export const MEASURE_KINDS = {
  time: { label: "a time, s", unit: "s", ...ratio, kind: "time", better: "lower" },
  rate: { label: "a rate, MB/s", unit: "MBy/s", ...ratio, kind: "rate", better: "higher" },
  frames: { label: "frames per second", unit: "{frame}/s", ...ratio, kind: "rate", better: "higher" },
  score: { label: "a score, points", unit: "1", ...ratio, kind: "score", better: "higher" },
  rise: { label: "heat above ambient, K", unit: "K", ...difference, kind: "heat", better: "lower" },
  heat: { label: "a temperature, °C", unit: "Cel", ...difference, kind: "heat", better: "lower" },
  noise: { label: "noise, dB(A)", unit: "dB[SPL]", scale: "level", kind: "noise", better: "lower" },
  resistance: {
    label: "thermal resistance, K per W",
    ...{ unit: "K/W", scale: "ratio", kind: "other", better: "lower" },
  },
  power: { label: "power, W", unit: "W", ...ratio, kind: "power", better: "lower" },
  clock: { label: "a clock, MHz", unit: "MHz", ...ratio, kind: "clock", better: "higher" },
  // A fan that stands still is a true zero, so its speeds are compared by their difference.
  fan: { label: "fan speed, rpm", unit: "/min", ...difference, kind: "fan", better: "lower" },
  felt: {
    label: "felt, in described steps",
    ...{ unit: "1", scale: "ordinal", kind: "felt", better: "higher", asks: "levels" },
  },
  works: {
    label: "works or not",
    unit: "1",
    scale: "outcome",
    kind: "other",
    better: "higher",
  },
  requirement: {
    label: "a requirement met or not",
    ...{ unit: "1", scale: "outcome", kind: "other", better: "higher", asks: "needs" },
  },
  set: {
    label: "how many of a set work",
    ...{ unit: "1", scale: "outcome", kind: "other", better: "higher", asks: "of" },
  },
  setting: {
    label: "the highest setting that holds",
    ...{ unit: "1", scale: "ordinal", kind: "other", better: "higher", asks: "levels" },
  },
  used: {
    label: "an amount used or set aside, GB",
    unit: "GBy",
    ...difference,
    kind: "amount",
    better: "lower",
  },
  free: { label: "an amount left free, GB", unit: "GBy", ...difference, kind: "amount", better: "higher" },
  load: { label: "a gauge in %, less is better", unit: "%", ...difference, kind: "gauge", better: "lower" },
  health: {
    label: "a gauge in %, more is better",
    unit: "%",
    ...difference,
    kind: "gauge",
    better: "higher",
  },
  rank: { label: "a rank, 1 is best", unit: "1", ...difference, kind: "rank", better: "lower" },
  percentile: { label: "a percentile", unit: "1", ...difference, kind: "rank", better: "higher" },
  size: {
    label: "another figure, by a size of the task",
    ...{ unit: "s", scale: "ratio", kind: "time", better: "lower", asks: "per size" },
  },
  efficiency: {
    label: "work per watt",
    ...{ unit: "MBy/s", scale: "ratio", kind: "other", better: "higher", asks: "per power" },
  },
} as const satisfies Record<string, Kind>;

export type MeasureKind = keyof typeof MEASURE_KINDS;

export const KIND_NAMES = Object.keys(MEASURE_KINDS) as MeasureKind[];

/** What else has to be said of a kind. */
export const asksOf = (kind: MeasureKind): Kind["asks"] => (MEASURE_KINDS[kind] as Kind).asks;

/** The kind that a recorded measure is of; the nearest where its unit is another one. */
export function kindOf(measure: Measure): MeasureKind {
  if (measure.needs !== null) return "requirement";
  if (measure.derived_from) return measure.per_measure ? "efficiency" : "size";
  if (measure.scale === "outcome") return measure.of === null ? "works" : "set";
  const alike = KIND_NAMES.filter((name) => {
    const { kind, scale, better } = MEASURE_KINDS[name];
    return !isDerived(name) && kind === measure.kind && scale === measure.scale && better === measure.better;
  });
  return alike.find((name) => MEASURE_KINDS[name].unit === measure.unit) ?? alike[0] ?? "score";
}

/** Whether it is made from another figure, never read by itself. */
export const isDerived = (name: MeasureKind): boolean =>
  ["per size", "per power", "needs"].includes(asksOf(name) ?? "");

/** Whether a measure is read by somebody; others are made from those that are. */
export const isRead = (measure: Measure, all: readonly Measure[]): boolean =>
  !measure.derived_from && !(measure.combined_by && all.some((part) => part.part_of === measure.id));

/** What is to be written into its field, where that is no plain figure: "1 works, 0 does not". */
export function sayField(measure: Measure): string {
  if (measure.scale === "outcome")
    return measure.of === null ? "1 works, 0 does not" : `how many of ${measure.of} work`;
  return measure.levels.map((level, index) => `${index + 1} ${level}`).join(" · ");
}

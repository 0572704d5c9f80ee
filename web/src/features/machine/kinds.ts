import type { Measure } from "../../api/client";

/** What a technician may measure, in words; the rest of the measure follows from the choice. */
export const MEASURE_KINDS = {
  time: { label: "a time, s", unit: "s", scale: "ratio", kind: "time", better: "lower" },
  rate: { label: "a rate, MB/s", unit: "MBy/s", scale: "ratio", kind: "rate", better: "higher" },
  frames: { label: "frames per second", unit: "{frame}/s", scale: "ratio", kind: "rate", better: "higher" },
  score: { label: "a score, points", unit: "1", scale: "ratio", kind: "score", better: "higher" },
  rise: { label: "heat above ambient, K", unit: "K", scale: "difference", kind: "heat", better: "lower" },
  heat: { label: "a temperature, °C", unit: "Cel", scale: "difference", kind: "heat", better: "lower" },
  noise: { label: "noise, dB(A)", unit: "dB[SPL]", scale: "level", kind: "noise", better: "lower" },
  power: { label: "power, W", unit: "W", scale: "ratio", kind: "power", better: "lower" },
} as const satisfies Record<string, Pick<Measure, "unit" | "scale" | "kind" | "better"> & { label: string }>;

export type MeasureKind = keyof typeof MEASURE_KINDS;

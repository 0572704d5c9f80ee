import type { HeatRole, Measure } from "../api/client";

/**
 * What a sensor can tell: how a column of a log is called that does (null: none is asked for), what it is called where
 * it is typed by hand (null: it is not), and its panel among the curves of a load (null: it is not drawn).
 */
interface Sensed {
  label: string | null;
  unit: string;
  kind: Measure["kind"] | null;
  typed: { label: string; name: string; of: "processor" | "board" } | null;
  panel: { name: string; height: number; decimals: number } | null;
}

export const SENSED: Record<HeatRole, Sensed> = {
  temperature: {
    label: "temperature",
    unit: "Cel",
    kind: "heat",
    typed: { label: "heat, °C", name: "Core", of: "processor" },
    panel: { name: "", height: 270, decimals: 1 },
  },
  clock: {
    label: "clock",
    unit: "MHz",
    kind: "clock",
    typed: { label: "clock, MHz", name: "Clock", of: "processor" },
    panel: { name: "clock", height: 58, decimals: 0 },
  },
  fan: {
    label: "fan",
    unit: "/min",
    kind: "fan",
    typed: { label: "fan, rpm", name: "Fan", of: "board" },
    panel: { name: "fan", height: 58, decimals: 0 },
  },
  power: {
    label: "power",
    unit: "W",
    kind: "power",
    typed: { label: "power, W", name: "Power", of: "processor" },
    panel: { name: "power", height: 58, decimals: 1 },
  },
  noise: {
    label: "noise",
    unit: "dB[SPL]",
    kind: "noise",
    typed: { label: "dB(A)", name: "Noise", of: "board" },
    panel: { name: "sound", height: 58, decimals: 1 },
  },
  load: { label: "load", unit: "%", kind: null, typed: null, panel: null },
  "held back": { label: "times held back", unit: "1", kind: null, typed: null, panel: null },
  "frame time": { label: null, unit: "ms", kind: null, typed: null, panel: null },
};

/** Every role, in the order in which they are offered and drawn. */
export const SENSED_ROLES = Object.keys(SENSED) as HeatRole[];
export const TYPED_ROLES = SENSED_ROLES.filter((role) => SENSED[role].typed !== null);

/** The role that measures of a kind are read off; undefined where no sensor tells them. */
export const roleOfKind = (kind: Measure["kind"]): HeatRole | undefined =>
  SENSED_ROLES.find((role) => SENSED[role].kind === kind);

import type { BeginningIn, MeasureIn, Vocabulary } from "../../api/client";
import { formatCount } from "../../lib/format";
import { newId } from "../../lib/ids";
import { type DecimalMark, readNumber, writeValue } from "../../lib/number";
import { MEASURE_KINDS, type MeasureKind } from "../../job/kinds";

export type Change = BeginningIn["change"];

/** What can be changed, in trade words, with what goes along with it. */
export const CHANGES: readonly { value: Change; name: string; hint: string }[] = [
  { value: "processor", name: "Processor", hint: "paste comes with it" },
  { value: "memory", name: "Memory", hint: "more, or faster" },
  { value: "drive", name: "Drive", hint: "clone first, or fresh" },
  { value: "thermal paste", name: "Thermal paste", hint: "mounted twice, to be sure" },
  { value: "cooler", name: "Cooler", hint: "heat and noise together" },
  { value: "cleaning", name: "Cleaning", hint: "dust only, before paste" },
  { value: "settings", name: "A setting", hint: "can be flipped back" },
  { value: "several", name: "Several at once", hint: "one bundle, or in steps" },
];

/** What a job yields where it is begun; other kinds can be chosen in Set up. */
export const FIGURES = {
  time: "seconds",
  rate: "MB/s",
  frames: "frames/s",
  score: "points",
  heat: "°C",
  noise: "dB(A)",
} as const satisfies Partial<Record<MeasureKind, string>>;

export type FigureName = keyof typeof FIGURES;

/** What a job is for: the first decides; others are looked at, or should not move. */
export type Purpose = "claim" | "watch" | "control";

export interface TimedDraft {
  workload: string;
  measure: string;
  name: string;
  figure: FigureName;
  purpose: Purpose;
}

export const emptyTimed = (purpose: Purpose = "watch", figure: FigureName = "time"): TimedDraft => ({
  workload: newId(),
  measure: newId(),
  name: "",
  figure,
  purpose,
});

const HOT: readonly Change[] = ["thermal paste", "cooler", "cleaning"];

/** The figure that a change shows in first: heat for what cools, a time for the rest. */
export const firstFigure = (change: Change): FigureName => (HOT.includes(change) ? "heat" : "time");

export interface StartDraft {
  machine: string;
  build: string;
  change: Change;
  name: string;
  hurts: string;
  currency: string;
  mark: DecimalMark;
  timed: TimedDraft[];
  sittings: string;
  runs: string;
  matters: string;
  hoped: string;
}

export const emptyStart = (): StartDraft => ({
  machine: newId(),
  build: newId(),
  change: "processor",
  name: "",
  hurts: "",
  currency: "EUR",
  mark: ".",
  timed: [emptyTimed("claim")],
  sittings: "3",
  runs: "5",
  matters: "",
  hoped: "",
});

export type Problems = Record<string, string>;

/** The beginning as it is sent, or what is wrong with each field. */
export function readStart(
  draft: StartDraft,
  quick: boolean,
  timeZone: string,
): { body: BeginningIn } | { problems: Problems } {
  const problems: Problems = {};
  const named = draft.timed.filter(({ name }) => name.trim());
  if (!draft.name.trim()) problems["name"] = "Name the machine, so that it is found again.";
  if (named.length === 0) problems["timed.0.name"] = "Name the task that is to be timed.";
  const count = (key: "sittings" | "runs") => {
    const value = readNumber(draft[key], draft.mark);
    if (value === null || !Number.isInteger(value) || value < 1)
      problems[key] = "Write a whole number, 1 or more.";
    return value ?? 1;
  };
  const optional = (key: "matters" | "hoped") => {
    if (!draft[key].trim()) return null;
    const value = readNumber(draft[key], draft.mark);
    if (value === null || value <= 0)
      problems[key] = `Write a number above zero; the decimal mark here is “${draft.mark}”.`;
    return value;
  };
  const body: BeginningIn = {
    machine: {
      name: draft.name,
      owner: "",
      question: draft.hurts,
      settles: "",
      asked_by: "",
      use: "",
      limits: {},
      currency: draft.currency.trim().toUpperCase(),
      labour_rate: null,
      decimal_mark: draft.mark,
      time_zone: timeZone,
      version: null,
    },
    build: draft.build,
    build_label: "As received",
    change: draft.change,
    timed: named.map(({ workload, measure, name, figure, purpose }) => {
      const { unit, scale, kind, better } = MEASURE_KINDS[figure];
      return {
        workload,
        measure: { id: measure, name, unit, scale, kind, better } as MeasureIn,
        role: purpose,
      };
    }),
    quick,
    sittings_a_side: count("sittings"),
    runs_a_sitting: count("runs"),
    matters_from: optional("matters"),
    hoped_for: optional("hoped"),
  };
  return Object.keys(problems).length ? { problems } : { body };
}

const FLIPPED: readonly Change[] = ["settings"];

/** "Three sittings a side, five runs of each task, a restart between." */
export function sayAmount({ sittings, runs, change }: StartDraft): [string, string] {
  const order = FLIPPED.includes(change)
    ? "the sides taking turns, a restart between"
    : "a restart between, all of the old part first";
  return [
    `${formatCount(Number(sittings) || 1, "sitting")} a side`,
    `${formatCount(Number(runs) || 1, "run")} of each task, ${order}.`,
  ];
}

const MARGIN_UNITS: Partial<Record<FigureName, string>> = { heat: "K", noise: "dB" };

/** From what change on it counts: what was written, else what is usual for the figure (by scale and kind). */
export function sayMargin(draft: StartDraft, margins: Vocabulary["margins"]): string {
  const { scale, kind } = MEASURE_KINDS[draft.timed[0]?.figure ?? "time"];
  const usual = writeValue(margins[`${scale} ${kind}`] ?? null, draft.mark);
  return `${draft.matters.trim() || usual} ${marginUnit(draft)}`;
}

export const marginUnit = (draft: StartDraft): string =>
  MARGIN_UNITS[draft.timed[0]?.figure ?? "time"] ?? "%";

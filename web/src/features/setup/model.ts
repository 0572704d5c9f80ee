import type {
  Build,
  Candidate,
  CandidateIn,
  Figure,
  Measure,
  Part,
  PartRole,
  Vocabulary,
  Workload,
  WorkloadIn,
} from "../../api/client";
import { newId } from "../../lib/ids";
import { readMoney, writeMoney } from "../../lib/money";
import { type DecimalMark, readNumber, writeValue } from "../../lib/number";
import { readFigures, writeFigures } from "../../job/figures";
import { asksOf, isDerived, kindOf, MEASURE_KINDS, type MeasureKind } from "../../job/kinds";
import { partsOf } from "../../job/parts";
import { readParameters, writeParameters } from "./parameters";

/** `part` is the place of the measure that this one is a part of, in the list of measures. */
export interface MeasureDraft {
  id: string;
  name: string;
  kind: MeasureKind;
  partOf: string;
  combined: "" | "highest" | "mean" | "sum" | "lowest";
  ratedAs: string;
  /** The described steps of a scale, one a line, the worst first. */
  levels: string;
  /** How many things a run of a set tries. */
  of: string;
  /** What a derived one is made from, by id, and what it is divided by: a measure's id or a size of the task. */
  base: string;
  per: string;
  /** What is needed of the figure that it is made from, in its unit. */
  needs: string;
  /** What of a run's trace becomes its reading, and of which part or sensor; empty: none, the processor's. */
  traceFigure: "" | TraceFigure;
  traceOf: string;
  /** How several sensors of it are brought together, and the minute of the load where it is read at one. */
  traceBy: "hottest" | "mean";
  traceMinute: string;
}

export type TraceFigure = NonNullable<Measure["trace_figure"]>;

export interface WorkloadDraft {
  id: string;
  version: number | null;
  name: string;
  workloadVersion: string;
  loads: PartRole[];
  target: string;
  card: string;
  held: string;
  minutes: string;
  measures: MeasureDraft[];
}

export const emptyMeasure = (): MeasureDraft => ({
  id: newId(),
  name: "",
  kind: "time",
  partOf: "",
  combined: "",
  ratedAs: "",
  levels: "",
  of: "",
  base: "",
  per: "",
  needs: "",
  traceFigure: "",
  traceOf: "",
  traceBy: "hottest",
  traceMinute: "",
});

export const emptyWorkload = (): WorkloadDraft => ({
  id: newId(),
  version: null,
  name: "",
  workloadVersion: "1",
  loads: [],
  target: "",
  card: "",
  held: "",
  minutes: "",
  measures: [emptyMeasure()],
});

/** A recorded workload as it is edited. */
export function workloadDraft(workload: Workload, measures: Measure[], mark: DecimalMark): WorkloadDraft {
  return {
    id: workload.id,
    version: workload.version,
    name: workload.name,
    workloadVersion: workload.workload_version,
    loads: workload.loads,
    target: workload.target ?? "",
    card: workload.card,
    held: writeParameters(workload.parameters, mark),
    minutes: writeValue(workload.minutes_a_run, mark),
    measures: measures.map((measure) => ({
      id: measure.id,
      name: measure.name,
      kind: kindOf(measure),
      partOf: measure.part_of ?? "",
      combined: measure.combined_by ?? "",
      ratedAs: measure.rated_as ?? "",
      levels: measure.levels.join("\n"),
      of: writeValue(measure.of, mark),
      base: measure.derived_from ?? "",
      per: measure.per_measure ?? measure.per_parameter ?? "",
      needs: writeValue(measure.needs, mark),
      traceFigure: measure.trace_figure ?? "",
      traceOf: measure.trace_of ?? "",
      traceBy: measure.trace_by ?? "hottest",
      traceMinute: writeValue(measure.trace_minute, mark),
    })),
  };
}

/**
 * A workload as it is sent; a measure without a name of its own takes the workload's. Recorded measures keep their
 * unit, and recorded parameters stay exactly as they are while their text does.
 */
export function workloadBody(
  draft: WorkloadDraft,
  recorded: Measure[],
  parameters: Workload["parameters"],
  mark: DecimalMark,
): WorkloadIn {
  const isUntouched = draft.held === writeParameters(parameters, mark);
  const known = new Map(recorded.map((measure) => [measure.id, measure]));
  return {
    name: draft.name,
    workload_version: draft.workloadVersion.trim() || "1",
    parameters: isUntouched ? parameters : readParameters(draft.held, mark),
    loads: draft.loads,
    target: draft.target.trim() || null,
    card: draft.card.trim(),
    minutes_a_run: readNumber(draft.minutes, mark),
    version: draft.version,
    measures: draft.measures.map((measure) => measureBody(measure, draft, known.get(measure.id), mark)),
  };
}

/** A measure as it is sent: what its kind asks for as typed, the rest as it was recorded. */
function measureBody(
  measure: MeasureDraft,
  draft: WorkloadDraft,
  before: Measure | undefined,
  mark: DecimalMark,
): WorkloadIn["measures"][number] {
  // A recorded measure keeps its very unit unless another kind was chosen for it.
  const kept = before && kindOf(before) === measure.kind ? before : undefined;
  const { unit, scale, kind, better } = kept ?? kindBody(measure, draft);
  return {
    id: measure.id,
    name: measure.name.trim() || draft.name,
    ...{ unit, scale, kind, better, step: kept?.step ?? null },
    part_of: measure.partOf || null,
    combined_by: measure.combined || null,
    rated_as: measure.ratedAs || null,
    ...askedBody(measure, kept, mark),
    ...traceRule(measure, mark),
  };
}

type AskedBody = Pick<Measure, "levels" | "of" | "derived_from" | "per_measure" | "per_parameter" | "needs">;

/** What the kind of a measure asks for. */
function askedBody(measure: MeasureDraft, kept: Measure | undefined, mark: DecimalMark): AskedBody {
  const asks = asksOf(measure.kind);
  const per = measure.per || null;
  return {
    levels: asks === "levels" ? linesOf(measure.levels) : (kept?.levels ?? []),
    of: asks === "of" ? readNumber(measure.of, mark) : (kept?.of ?? null),
    derived_from: isDerived(measure.kind) ? measure.base || null : null,
    per_measure: asks === "per power" ? per : null,
    per_parameter: asks === "per size" ? per : null,
    needs: asks === "needs" ? readNumber(measure.needs, mark) : null,
  };
}

/** What of a run's trace a figure of this kind can be. */
export const traceFigures = (kind: MeasureKind): readonly TraceFigure[] =>
  kind === "rise" || kind === "heat"
    ? [
        "settled",
        "last minute",
        "at minute",
        "equilibrium",
        "highest",
        ...(kind === "rise" ? DIFFERENCE : []),
      ]
    : TRACED.has(kind)
      ? ["settled", "last minute", "at minute", "highest"]
      : (OF_KIND[kind] ?? []);

const DIFFERENCE = ["last less first"] as const;
const OF_KIND: Partial<Record<MeasureKind, readonly TraceFigure[]>> = {
  time: ["within 1 K", "recovery"],
  resistance: ["resistance"],
  load: ["held back"],
};

const TRACED = new Set<MeasureKind>(["noise", "power", "clock", "fan"]);

/** The rule by which it is read off a trace, where one fits its kind. */
function traceRule(
  measure: MeasureDraft,
  mark: DecimalMark,
): Pick<Measure, "trace_figure" | "trace_of" | "trace_by" | "trace_minute"> {
  const figure = measure.traceFigure;
  return figure && traceFigures(measure.kind).includes(figure)
    ? {
        trace_figure: figure,
        trace_of: measure.traceOf.trim() || null,
        trace_by: measure.traceBy === "mean" ? "mean" : null,
        trace_minute: figure === "at minute" ? readNumber(measure.traceMinute, mark) : null,
      }
    : { trace_figure: null, trace_of: null, trace_by: null, trace_minute: null };
}

/** What a kind decides; a figure by a size of the task stays what it is made from. */
function kindBody(
  measure: MeasureDraft,
  draft: WorkloadDraft,
): Pick<Measure, "unit" | "scale" | "kind" | "better"> {
  const own = MEASURE_KINDS[measure.kind];
  const base = draft.measures.find((other) => other.id === measure.base);
  if (asksOf(measure.kind) !== "per size" || !base) return own;
  const { unit, scale, kind, better } = MEASURE_KINDS[base.kind];
  return { unit, scale, kind, better };
}

const linesOf = (text: string): string[] =>
  text
    .split("\n")
    .map((line) => line.trim())
    .filter(Boolean);

/** What is missing of a measure before it can be saved: the field, and what to write there. */
export function measureProblem(
  measure: MeasureDraft,
  mark: DecimalMark,
): { field: "levels" | "of" | "base" | "per" | "needs"; text: string } | undefined {
  const asks = asksOf(measure.kind);
  const count = readNumber(measure.of, mark);
  if (asks === "levels" && linesOf(measure.levels).length < 2)
    return { field: "levels", text: "Describe two steps or more, one a line, the worst first." };
  if (asks === "of" && (count === null || !Number.isInteger(count) || count < 1))
    return { field: "of", text: "Write how many there are, like 9." };
  if (isDerived(measure.kind) && !measure.base)
    return { field: "base", text: "Choose the figure that it is made from." };
  if (asks === "needs" && readNumber(measure.needs, mark) === null)
    return { field: "needs", text: `Write a number like 0${mark}5.` };
  if (asks?.startsWith("per") && !measure.per) return { field: "per", text: "Choose what it is divided by." };
  return undefined;
}

/** What a derived measure can be made from: figures of the same workload that are read. */
export const bases = (draft: WorkloadDraft, measure: MeasureDraft): MeasureDraft[] =>
  draft.measures.filter(
    ({ id, kind }) =>
      id !== measure.id &&
      !isDerived(kind) &&
      // Only what has a true zero can be divided; anything but an outcome can be held against a need.
      (asksOf(measure.kind) === "needs"
        ? MEASURE_KINDS[kind].scale !== "outcome"
        : MEASURE_KINDS[kind].scale === "ratio"),
  );

/** How a need is asked for: "needs at least, GB". */
export function sayNeed(draft: WorkloadDraft, measure: MeasureDraft): string {
  const base = draft.measures.find(({ id }) => id === measure.base);
  const own = base && MEASURE_KINDS[base.kind];
  const unit = /, (\S+)$/.exec(own?.label ?? "")?.[1];
  return `needs at ${own?.better === "lower" ? "most" : "least"}${unit ? `, ${unit}` : ""}`;
}

/** What it can be divided by: figures for power, or numbers that are held the same in every run. */
export function divisors(
  draft: WorkloadDraft,
  measure: MeasureDraft,
  mark: DecimalMark,
): readonly (readonly [string, string])[] {
  if (asksOf(measure.kind) === "per power")
    return draft.measures
      .filter(({ kind, id }) => kind === "power" && id !== measure.id)
      .map(({ id, name }) => [id, name || draft.name || "power"] as const);
  return Object.entries(readParameters(draft.held, mark)).flatMap(([name, value]) =>
    typeof value === "number" && value > 0 ? [[name, `${name} (${writeValue(value, mark)})`] as const] : [],
  );
}

const RATED_UNITS: Partial<Record<MeasureKind, string>> = { rate: "MB/s", power: "W", clock: "GHz" };

/** Rated figures of the parts that a workload loads, as far as a kind of measure can be set against them. */
export function ratedChoices(
  loads: PartRole[],
  kind: MeasureKind,
  parts: Vocabulary["parts"],
): readonly (readonly [string, string])[] {
  const figures: Figure[] = loads.flatMap((role) => parts[role] ?? []);
  const fitting = figures.filter((figure) => figure.unit === RATED_UNITS[kind]);
  return [...new Map(fitting.map((figure) => [figure.key, figure.label] as const))];
}

export interface CandidateDraft {
  id: string;
  version: number | null;
  role: PartRole;
  label: string;
  figures: string;
  price: string;
  priceLow: string;
  priceHigh: string;
  basis: Candidate["basis"];
  gain: string;
  gainLow: string;
  gainHigh: string;
  from: string;
  prerequisites: string;
  fitAnswer: "" | NonNullable<Candidate["fit_answer"]>;
  fitSource: string;
  swap: string;
  worked: string;
  alternative: Candidate["alternative"];
  ticked: string[];
}

/** What becomes of something that is bought, in its order. */
const DELIVERY = ["ordered", "delivered"];

/** What can be ticked of a candidate: what it needs first, each by itself, and its delivery. */
export const ticksOf = ({ prerequisites }: Pick<Candidate, "prerequisites">): string[] => [
  ...prerequisites
    .split(/[,;\n]/)
    .map((each) => each.trim())
    .filter(Boolean),
  ...DELIVERY,
];

export const emptyCandidate = (): CandidateDraft => ({
  id: newId(),
  version: null,
  role: "processor",
  label: "",
  figures: "",
  price: "",
  priceLow: "",
  priceHigh: "",
  basis: "new",
  gain: "",
  gainLow: "",
  gainHigh: "",
  from: "",
  prerequisites: "",
  fitAnswer: "",
  fitSource: "",
  swap: "",
  worked: "",
  alternative: "part",
  ticked: [],
});

export const candidateDraft = (
  candidate: Candidate,
  vocabulary: Vocabulary,
  mark: DecimalMark,
): CandidateDraft => ({
  id: candidate.id,
  version: candidate.version,
  role: candidate.role,
  label: candidate.label,
  figures: writeFigures(candidate.rated, vocabulary.parts[candidate.role] ?? [], mark),
  price: writeMoney(candidate.price, mark),
  priceLow: writeMoney(candidate.price_low, mark),
  priceHigh: writeMoney(candidate.price_high, mark),
  basis: candidate.basis,
  gain: writeValue(candidate.expected_gain, mark),
  gainLow: writeValue(candidate.gain_low, mark),
  gainHigh: writeValue(candidate.gain_high, mark),
  from: candidate.expected_from,
  prerequisites: candidate.prerequisites,
  fitAnswer: candidate.fit_answer ?? "",
  fitSource: candidate.fit_source,
  swap: candidate.swap ?? "",
  worked: candidate.worked,
  alternative: candidate.alternative,
  ticked: candidate.ticked,
});

/** A candidate as it is sent, or what is wrong with the gain that is expected of it. */
/** The parts of a build with the candidate fitted: in place of the only part of its kind, else beside them. */
export function partsWith(
  build: Build | undefined,
  draft: CandidateDraft,
  vocabulary: Vocabulary,
  mark: DecimalMark,
): Part[] {
  const alike = build?.parts.filter(({ role }) => role === draft.role) ?? [];
  const kept = build?.parts.filter((part) => alike.length !== 1 || part !== alike[0]) ?? [];
  return [...kept, ...partsOf([draft], vocabulary, mark)];
}

export function candidateBody(
  draft: CandidateDraft,
  vocabulary: Vocabulary,
  mark: DecimalMark,
): { body: CandidateIn } | { problem: string } {
  const read = (text: string) => readNumber(text.replace("%", ""), mark);
  const [gain, low, high] = [read(draft.gain), read(draft.gainLow), read(draft.gainHigh)];
  const isUnread = (text: string) => text.replace("%", "").trim() !== "" && read(text) === null;
  if ([draft.gain, draft.gainLow, draft.gainHigh].some(isUnread))
    return { problem: "Write a number, in percent." };
  const money = (text: string) => (text.trim() ? readMoney(text, mark) : null);
  const body: CandidateIn = {
    role: draft.role,
    label: draft.label,
    rated: readFigures(draft.figures, vocabulary.parts[draft.role] ?? [], mark),
    price: money(draft.price),
    price_low: money(draft.priceLow),
    price_high: money(draft.priceHigh),
    gain_low: low,
    gain_high: high,
    basis: draft.basis,
    prerequisites: draft.prerequisites,
    expected_gain: gain,
    expected_from: draft.from,
    fit_answer: draft.fitAnswer || null,
    fit_source: draft.fitSource,
    swap: draft.swap || null,
    worked: draft.worked,
    alternative: draft.alternative,
    ticked: draft.ticked,
    version: draft.version,
  };
  return { body };
}

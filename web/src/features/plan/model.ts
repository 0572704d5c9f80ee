import type { Case, Plan, PlanIn, Swap, Template, TemplateIn, Vocabulary } from "../../api/client";
import { type DecimalMark, readNumber, writeNumber, writeValue } from "../../lib/number";
import { valuesByKey } from "../../job/parts";

/** What stands in the plan besides its measures, as typed text, so that a half-typed figure is kept as it stands. */
export interface PlanFields {
  sittings: string;
  /** Sittings a side of a second look; empty for one look. */
  second: string;
  runs: string;
  warmUps: string;
  rest: string;
  soak: string;
  headline: string | null;
  change: NonNullable<Plan["change"]> | "";
  order: Plan["order"];
  design: Plan["design"];
  pairBy: Plan["pair_by"];
  /** The build that the whole is judged against too; none where only the step is. */
  wholeFrom: string | null;
}

export interface MeasureEntry {
  role: "claim" | "control" | "watch";
  matters: string;
  hoped: string;
  weight: string;
  statistic: string;
}

export interface PlanDraft extends PlanFields {
  /** Runs a sitting of the jobs that are repeated more or less often than the others, by workload. */
  repeats: Record<string, string>;
  conditions: Record<string, string>;
  measures: Record<string, MeasureEntry>;
}

export const CHANGES = [
  ["", "not said"],
  ["processor", "processor"],
  ["memory", "memory"],
  ["drive", "drive"],
  ["thermal paste", "thermal paste"],
  ["cooler", "cooler"],
  ["graphics", "graphics"],
  ["cleaning", "cleaning"],
  ["settings", "a setting"],
  ["several", "several at once"],
  ["other", "something else"],
] as const satisfies readonly (readonly [PlanFields["change"], string])[];

export const ORDERS = [
  ["before_then_after", "before, then after"],
  ["alternating", "A B A B: back and forth"],
  ["abba", "A B B A: drift cancels"],
  ["swap_back", "before, after, one with the old part"],
] as const satisfies readonly (readonly [PlanFields["order"], string])[];

export const DESIGNS = [
  ["side_by_side", "side by side: sittings stand for themselves"],
  ["paired", "paired: sittings were matched on purpose"],
] as const satisfies readonly (readonly [PlanFields["design"], string])[];

export const PAIRINGS = [
  ["order", "by order"],
  ["ambient", "by room temperature"],
  ["label", "by the input they share"],
  ["none", "not at all"],
] as const satisfies readonly (readonly [PlanFields["pairBy"], string])[];

export const STATISTICS = [
  ["", "as it comes"],
  ["mean", "mean"],
  ["highest", "highest"],
  ["lowest", "lowest"],
  ["settled", "settled"],
  ["momentary", "momentary"],
] as const;

export function planDraft(plan: Plan, mark: DecimalMark): PlanDraft {
  return {
    sittings: String(plan.sittings_a_side ?? ""),
    second: String(plan.at_most ?? ""),
    runs: String(plan.runs_a_sitting ?? ""),
    warmUps: String(plan.warm_ups),
    rest: writeNumber(plan.rest_min, mark),
    soak: writeNumber(plan.soak_min, mark),
    headline: plan.headline ?? null,
    change: plan.change ?? "",
    order: plan.order,
    design: plan.design,
    pairBy: plan.pair_by,
    wholeFrom: plan.judge_whole ?? null,
    repeats: Object.fromEntries(Object.entries(plan.runs).map(([name, count]) => [name, String(count)])),
    conditions: Object.fromEntries(
      Object.entries(plan.conditions).map(([key, value]) => [key, writeValue(value, mark)]),
    ),
    measures: Object.fromEntries(
      Object.entries(plan.measures).map(([id, planned]) => [
        id,
        {
          role: planned.role,
          matters: writeNumber(planned.matters_from, mark),
          hoped: writeValue(planned.hoped_for, mark),
          weight: writeValue(planned.weight, mark),
          statistic: planned.statistic ?? "",
        },
      ]),
    ),
  };
}

/** What was touched and not yet saved: laid over the plan, so that whatever else changed meanwhile stays. */
export interface PlanEdits {
  fields: Partial<PlanFields>;
  repeats: Record<string, string>;
  conditions: Record<string, string>;
  measures: Record<string, Partial<MeasureEntry>>;
}

export const NO_EDITS: PlanEdits = { fields: {}, repeats: {}, conditions: {}, measures: {} };

export function applyEdits(plan: PlanDraft, edits: PlanEdits): PlanDraft {
  const measures = Object.fromEntries(
    Object.entries(plan.measures).map(([id, entry]) => [id, { ...entry, ...edits.measures[id] }]),
  );
  const repeats = { ...plan.repeats, ...edits.repeats };
  return {
    ...plan,
    ...edits.fields,
    repeats,
    conditions: { ...plan.conditions, ...edits.conditions },
    measures,
  };
}

export type Problems = Record<string, string>;
export type PlanBody = Omit<PlanIn, "version">;

/** The plan as it is sent, or what is wrong with each field. */
export function readPlan(
  draft: PlanDraft,
  base: Plan,
  vocabulary: Vocabulary,
  mark: DecimalMark,
): { body: PlanBody } | { problems: Problems } {
  const problems: Problems = {};
  const whole = (key: string, text: string, least: number) => {
    const value = readNumber(text, mark) ?? NaN;
    if (!Number.isInteger(value) || value < least) problems[key] = `Write a whole number, ${least} or more.`;
    return value;
  };
  const figure = (key: string, text: string, least: number) => {
    const value = readNumber(text, mark) ?? NaN;
    if (!(value >= least)) {
      const what = least > 0 ? "Write a number above zero" : "Write a number, zero or more";
      problems[key] = `${what}; the decimal mark here is “${mark}”.`;
    }
    return value;
  };
  const measures = Object.fromEntries(
    Object.entries(draft.measures).map(([id, entry]) => [
      id,
      {
        role: entry.role,
        matters_from: figure(`${id}.matters`, entry.matters, 1e-9),
        hoped_for: entry.hoped.trim() ? figure(`${id}.hoped`, entry.hoped, 1e-9) : null,
        weight: entry.weight.trim() ? figure(`${id}.weight`, entry.weight, 0) : null,
        statistic: (entry.statistic || null) as Plan["measures"][string]["statistic"],
      },
    ]),
  );
  const body: PlanBody = {
    ...base,
    sittings_a_side: whole("sittings", draft.sittings, 1),
    at_most: draft.second.trim() ? whole("second", draft.second, 3) : null,
    runs_a_sitting: whole("runs", draft.runs, 1),
    runs: Object.fromEntries(
      Object.entries(draft.repeats)
        .filter(([, count]) => count.trim())
        .map(([name, count]) => [name, whole(`repeats.${name}`, count, 1)]),
    ),
    warm_ups: whole("warmUps", draft.warmUps, 0),
    rest_min: figure("rest", draft.rest, 0),
    soak_min: figure("soak", draft.soak, 0),
    headline: draft.headline,
    change: draft.change || null,
    order: draft.order,
    design: draft.design,
    pair_by: draft.pairBy,
    judge_whole: draft.wholeFrom,
    conditions: valuesByKey(draft.conditions, vocabulary.conditions, mark),
    measures,
  };
  return Object.keys(problems).length ? { problems } : { body };
}

/** What the whole would be judged from: the machine's first build, from its second stage on, or the job's own. */
export function wholeFrom({ builds }: Pick<Case, "builds">, swap: Swap): string | null {
  const first = builds[0]?.id ?? null;
  return swap.plan.judge_whole ?? (first === swap.before ? null : first);
}

/** What a second look brings and costs, in words that hold for any noise; nothing where none is planned. */
export function saySecondLook(first: number, second: string): string {
  const most = Number(second);
  if (!second.trim() || !Number.isInteger(most)) return "";
  return `Looked at twice: after ${first} a side, and, where that leaves a measure open, after ${most}. Each look is at 97 %, which together is 95 %.`;
}

/** What so many sittings can show, in words that hold for any noise. */
export function sayCount(sittings: number): string {
  if (!Number.isInteger(sittings) || sittings < 1) return "";
  if (sittings === 1)
    return "One sitting a side gives a provisional verdict at best: a reboot alone can move readings.";
  if (sittings === 2) return "Two sittings a side are valid but weak; three see changes half as large.";
  return `${sittings} sittings a side: reboot between them, so that chance can be told from gain.`;
}

const ORDER_WORDS = new Map<string, string>(ORDERS);

/** What a plan would become, beside what it is: only what differs. */
export function planChanges(
  old: Plan,
  now: Plan,
  nameOf: (measure: string) => string,
  conditionName: (key: string) => string,
): [what: string, from: string, to: string][] {
  const lines = (plan: Plan): [string, string][] => [
    ["Change", plan.change ?? "not said"],
    ["Sittings a side", String(plan.sittings_a_side ?? "not said")],
    ["Second look at", String(plan.at_most ?? "none")],
    ["Runs a sitting", String(plan.runs_a_sitting ?? "not said")],
    ["Warm-up runs", String(plan.warm_ups)],
    ["Rest, min", String(plan.rest_min)],
    ["Soak, min", String(plan.soak_min)],
    ["Order", ORDER_WORDS.get(plan.order) ?? plan.order],
    ...Object.entries({ ...old.conditions, ...now.conditions }).map(([key]): [string, string] => [
      conditionName(key),
      String(plan.conditions[key] ?? "not held"),
    ]),
    ...Object.keys({ ...old.measures, ...now.measures }).map((id): [string, string] => [
      nameOf(id),
      plan.measures[id]?.role ?? "not planned",
    ]),
  ];
  const after = lines(now);
  return lines(old).flatMap(([what, from], index) => {
    const to = after[index]?.[1] ?? from;
    return from === to ? [] : [[what, from, to] as [string, string, string]];
  });
}

/** A template's checklist as text, a step a line under each stage, and back. */
export type StepTexts = Record<Template["steps"][number][0], string>;

export function stepTexts(steps: Template["steps"]): StepTexts {
  const of = (stage: keyof StepTexts) =>
    steps
      .filter(([known]) => known === stage)
      .map(([, text]) => text)
      .join("\n");
  return {
    "before opening": of("before opening"),
    "case open": of("case open"),
    "first start": of("first start"),
  };
}

export const stepsOf = (texts: StepTexts): Template["steps"] =>
  (Object.keys(texts) as (keyof StepTexts)[]).flatMap((stage) =>
    texts[stage]
      .split("\n")
      .filter((line) => line.trim())
      .map((line): Template["steps"][number] => [stage, line.trim()]),
  );

/** A plan kept as a template under a name, with a checklist. */
export function templateBody(
  name: string,
  plan: Plan,
  advice: string,
  steps: Template["steps"],
  base: Template | undefined,
  version: number | null,
): TemplateIn {
  return {
    name,
    change: plan.change ?? "other",
    advice,
    sittings_a_side: plan.sittings_a_side ?? 3,
    runs_a_sitting: plan.runs_a_sitting ?? 5,
    warm_ups: plan.warm_ups,
    rest_min: plan.rest_min,
    soak_min: plan.soak_min,
    order: plan.order,
    conditions: plan.conditions,
    steps,
    costs: base?.costs ?? ["part", "shipping", "labour"],
    recheck_months: base?.recheck_months ?? null,
    version,
  };
}

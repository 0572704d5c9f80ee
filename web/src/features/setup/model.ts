import type { Measure, Part, PartRole, PlanIn, Plan, WorkloadIn } from "../../api/client";
import { newId } from "../../lib/ids";

export interface PartDraft {
  id: string;
  role: PartRole;
  label: string;
  noted: string;
}

export interface SettingDraft {
  name: string;
  value: string;
}

export const USUAL_ROLES: readonly PartRole[] = ["processor", "cooler", "thermal paste", "memory", "drive"];

export const usualParts = (): PartDraft[] =>
  USUAL_ROLES.map((role) => ({ id: newId(), role, label: "", noted: "" }));

/** Parts worth saving: those with a label; what is unknown stays unknown. */
export const partsOf = (drafts: PartDraft[]): Part[] =>
  drafts
    .filter((part) => part.label.trim())
    .map(({ id, role, label, noted }) => {
      const rated: Part["rated"] = noted.trim() ? { noted: noted.trim() } : {};
      return { id, role, label, rated };
    });

/** Settings as entered; whole numbers become numbers, so that the bench agent can read its `threads`. */
export const settingsOf = (drafts: SettingDraft[]): Record<string, string | number> =>
  Object.fromEntries(
    drafts
      .filter((setting) => setting.name.trim() && setting.value.trim())
      .map((setting) => [setting.name.trim(), numberOrText(setting.value.trim())]),
  );

const numberOrText = (text: string): string | number => (/^\d{1,9}$/.test(text) ? Number(text) : text);

/** What a technician may measure, in words; the rest of the measure follows from the choice. */
export const MEASURE_KINDS = {
  time: { label: "a time, s", unit: "s", scale: "ratio", kind: "time", better: "lower" },
  rate: { label: "a rate, MB/s", unit: "MBy/s", scale: "ratio", kind: "rate", better: "higher" },
  frames: { label: "frames per second", unit: "{frame}/s", scale: "ratio", kind: "rate", better: "higher" },
  score: { label: "a score, points", unit: "1", scale: "ratio", kind: "score", better: "higher" },
  rise: { label: "heat above ambient, K", unit: "K", scale: "difference", kind: "heat", better: "lower" },
  noise: { label: "noise, dB(A)", unit: "dB[SPL]", scale: "level", kind: "noise", better: "lower" },
  power: { label: "power, W", unit: "W", scale: "ratio", kind: "power", better: "lower" },
} as const satisfies Record<string, Pick<Measure, "unit" | "scale" | "kind" | "better"> & { label: string }>;

export type MeasureKind = keyof typeof MEASURE_KINDS;

export interface WorkloadDraft {
  name: string;
  measures: { id: string; name: string; kind: MeasureKind }[];
}

export const emptyWorkload = (): WorkloadDraft => ({
  name: "",
  measures: [{ id: newId(), name: "", kind: "time" }],
});

/** A workload as it is sent; a measure without a name of its own takes the workload's. */
export function workloadBody(draft: WorkloadDraft): WorkloadIn {
  return {
    name: draft.name,
    measures: draft.measures.map((measure) => {
      const { unit, scale, kind, better } = MEASURE_KINDS[measure.kind];
      return { id: measure.id, name: measure.name || draft.name, unit, scale, kind, better };
    }),
  } as WorkloadIn;
}

/** The plan with its numbers as typed text, so that a half-typed figure is kept as it stands. */
export interface PlanDraft {
  sittings: string;
  runs: string;
  headline: string | null;
  measures: Record<
    string,
    { role: "claim" | "control" | "watch"; matters: string; hoped: string; weight: string }
  >;
}

export function planDraft(plan: Plan): PlanDraft {
  return {
    sittings: String(plan.sittings_a_side ?? ""),
    runs: String(plan.runs_a_sitting ?? ""),
    headline: plan.headline ?? null,
    measures: Object.fromEntries(
      Object.entries(plan.measures ?? {}).map(([id, planned]) => [
        id,
        {
          role: planned.role ?? "claim",
          matters: String(planned.matters_from),
          hoped: planned.hoped_for == null ? "" : String(planned.hoped_for),
          weight: String(planned.weight ?? 1),
        },
      ]),
    ),
  };
}

/** What was touched and not yet saved: laid over the plan, so that whatever else changed meanwhile stays. */
export interface PlanEdits {
  sittings?: string;
  runs?: string;
  headline?: string;
  measures: Record<string, Partial<PlanDraft["measures"][string]>>;
}

export function applyEdits(plan: PlanDraft, edits: PlanEdits): PlanDraft {
  const measures = Object.fromEntries(
    Object.entries(plan.measures).map(([id, entry]) => [id, { ...entry, ...edits.measures[id] }]),
  );
  return {
    sittings: edits.sittings ?? plan.sittings,
    runs: edits.runs ?? plan.runs,
    headline: edits.headline ?? plan.headline,
    measures,
  };
}

export type Problems = Record<string, string>;

/** The plan as it is sent, or what is wrong with each field. */
export function readPlan(
  draft: PlanDraft,
  base: Plan,
): { body: Omit<PlanIn, "version"> } | { problems: Problems } {
  const problems: Problems = {};
  const whole = (key: string, text: string) => {
    const value = Number(text);
    if (!/^\d+$/.test(text.trim()) || value < 1) problems[key] = "Write a whole number, 1 or more.";
    return value;
  };
  const figure = (key: string, text: string, above: number) => {
    const value = Number(text.trim().replace(",", "."));
    if (!text.trim() || !Number.isFinite(value) || value < above)
      problems[key] = "Write a number above zero.";
    return value;
  };
  const measures = Object.fromEntries(
    Object.entries(draft.measures).map(([id, entry]) => [
      id,
      {
        role: entry.role,
        matters_from: figure(`${id}.matters`, entry.matters, 1e-9),
        hoped_for: entry.hoped.trim() ? figure(`${id}.hoped`, entry.hoped, 1e-9) : null,
        weight: figure(`${id}.weight`, entry.weight, 0),
      },
    ]),
  );
  const sittings_a_side = whole("sittings", draft.sittings);
  const runs_a_sitting = whole("runs", draft.runs);
  if (Object.keys(problems).length) return { problems };
  return { body: { ...base, sittings_a_side, runs_a_sitting, headline: draft.headline, measures } };
}

import type { Figure, Measure, Run } from "../../../api/client";
import { type DecimalMark, readNumber, writeValue } from "../../../lib/number";
import { type Marks, marksOf, type Noted } from "../../../job/rows";

/** The same as texts, for the fields of its dialog; `conditions` by the keys of the vocabulary. */
export interface NotesDraft {
  label: string;
  heldBack: "" | NonNullable<Run["held_back"]>;
  length: string;
  soak: string;
  conditions: Record<string, string>;
  note: string;
  marks: Record<string, Marks>;
}

const PER_MINUTE = 60;

export function notesDraft(
  run: Run | undefined,
  noted: Noted,
  measures: Measure[],
  marks: Record<string, Marks>,
  mark: DecimalMark,
): NotesDraft {
  const now = { ...run, ...noted };
  const minutes = (seconds: number | null | undefined) =>
    writeValue(seconds == null ? null : seconds / PER_MINUTE, mark);
  return {
    label: now.pair_label ?? "",
    heldBack: now.held_back ?? "",
    length: minutes(now.duration_s),
    soak: minutes(now.soak_s),
    conditions: Object.fromEntries(
      Object.entries(now.conditions ?? {}).map(([key, value]) => [key, writeValue(value, mark)]),
    ),
    note: now.note ?? "",
    marks: Object.fromEntries(
      measures.map(({ id }) => [id, marks[id] ?? marksOf(run?.readings[id])] as const),
    ),
  };
}

/** The notes as they are sent, or what is wrong, by field. */
export function readNotes(
  draft: NotesDraft,
  figures: readonly Figure[],
  mark: DecimalMark,
): { noted: Noted } | { problems: Record<string, string> } {
  const problems: Record<string, string> = {};
  const number = (field: string, text: string): number | null => {
    const value = text.trim() ? readNumber(text, mark) : null;
    if (text.trim() && value === null) problems[field] = `Write a number like 2${mark}5.`;
    return value;
  };
  const seconds = (field: "length" | "soak") => {
    const minutes = number(field, draft[field]);
    if (minutes !== null && minutes < 0) problems[field] = "Write minutes, 0 or more.";
    return minutes === null ? null : minutes * PER_MINUTE;
  };
  const conditions = figures.flatMap(({ key, kind }) => {
    const text = draft.conditions[key]?.trim() ?? "";
    if (!text) return [];
    const value = kind === "text" ? text : number(key, text);
    return value === null ? [] : [[key, value] as const];
  });
  const noted: Noted = {
    pair_label: draft.label.trim() || null,
    held_back: draft.heldBack || null,
    duration_s: seconds("length"),
    soak_s: seconds("soak"),
    conditions: Object.fromEntries(conditions),
    note: draft.note.trim(),
  };
  return Object.keys(problems).length ? { problems } : { noted };
}

/** What stands beside a run in one line: "set 3 · held back by heat, clock held 3.4 GHz · the fan rattled". */
export function sayNotes(run: Run | undefined, figures: readonly Figure[], mark: DecimalMark): string {
  if (!run) return "";
  const told = [...new Set(Object.values(run.readings).map(({ source }) => source))].filter(Boolean);
  const step = run.conditions["nuisance_step"];
  const conditions = figures.flatMap(({ key, label, unit }) => {
    const value = run.conditions[key];
    if (value == null || key === "nuisance_step") return [];
    const worded = `${label} ${writeValue(value, mark)}${unit && ` ${unit}`}`;
    return [key === "nuisance" && step != null ? `${worded} (${writeValue(step, mark)} of 4)` : worded];
  });
  return [
    run.pair_label ?? "",
    run.held_back ? `held back by ${run.held_back === "other" ? "something" : run.held_back}` : "",
    ...told.map((source) => `${source}, kept out of the test`),
    ...conditions,
    run.note,
  ]
    .filter(Boolean)
    .join(" · ");
}

/** The label that a run most likely has: that of the same run in another sitting of its workload. */
export const usualLabel = (
  runs: Run[],
  workload: string,
  sitting: string,
  position: number,
): string | undefined =>
  runs.find(
    (run) =>
      run.workload === workload && run.sitting !== sitting && run.position === position && run.pair_label,
  )?.pair_label ?? undefined;

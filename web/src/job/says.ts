import type {
  BenchNote,
  Case,
  Comparison,
  WhatIf,
  Measure,
  MeasureResult,
  Swap,
  Vocabulary,
} from "../api/client";
import { verdictWord } from "../ui/Verdict";

/** The measure that the first sentence speaks of. */
export const leadMeasure = (comparison: Comparison, measures: Measure[]): Measure | undefined =>
  measures.find((measure) => measure.id === comparison.lead);

/** What was seen of the parts that went in, as far as it bears on the verdict: remarks, and what was not looked at. */
export function sayRecognition(swap: Swap): string[] {
  if (swap.state !== "closed") return [];
  const remarks = swap.recognitions
    .filter((line) => line.result === "pass with remark")
    .map((line) => `${line.what}: ${line.seen} instead of ${line.expected}; ${line.remark}.`);
  const unseen = swap.recognitions.filter((line) => line.result === null).map((line) => line.what);
  if (unseen.length === 0) return remarks;
  const why = swap.recognition_skipped
    ? `, because: ${swap.recognition_skipped}`
    : ", and no reason was given";
  return [...remarks, `Not looked at: ${unseen.join("; ")}${why}.`];
}

/** What a note tells of, where it is no note of the teardown: "Dust found, 3 of 4: fins half closed". */
export function sayKind(note: Pick<BenchNote, "kind" | "step">, scales: Vocabulary["found_steps"]): string {
  const name = note.kind.charAt(0).toUpperCase() + note.kind.slice(1);
  const scale = scales[note.kind];
  if (note.step == null || !scale) return `${name}:`;
  return `${name}, ${note.step} of ${scale.length}: ${scale[note.step - 1] ?? ""}.`;
}

/** Whether a verdict is due that nobody was given yet: it is said on Judge first, and nowhere else before that. */
export const isToBeJudged = (result: Pick<MeasureResult, "can_be_shown" | "shown">): boolean =>
  result.can_be_shown && !result.shown;

/** "Tile rendering, B → C: real gain becomes not settled." What leaving something out would do, before it is done. */
export function sayWhatIf(job: Pick<Case, "builds" | "measures">, changes: WhatIf[]): string {
  if (changes.length === 0) return "No verdict would change.";
  const letter = (id: string) => job.builds.find((build) => build.id === id)?.letter ?? "?";
  const sentences = changes.map(({ before, after, measure, now, then }) => {
    const name = job.measures.find((other) => other.id === measure)?.name ?? "A measure";
    const words = `${verdictWord(now)} becomes ${verdictWord(then)}`.toLowerCase();
    return `${name}, ${letter(before)} → ${letter(after)}: ${words}.`;
  });
  return `This would change ${sentences.length === 1 ? "a verdict" : `${sentences.length} verdicts`}. ${sentences.join(" ")}`;
}

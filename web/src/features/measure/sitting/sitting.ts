import type { Case, Figure, Sitting, Vocabulary } from "../../../api/client";
import { type DecimalMark, writeValue } from "../../../lib/number";
import { figureName } from "../../../job/figures";

export type Restarted = "yes" | "no" | "";

/** The sitting before this one, whatever it was held on; of a new one the newest. */
export function previousSitting(job: Case, sitting: Sitting | null): Sitting | undefined {
  const earlier = job.sittings.filter((other) => !sitting || other.started_at < sitting.started_at);
  return earlier.reduce<Sitting | undefined>(
    (last, other) => (last && last.started_at > other.started_at ? last : other),
    undefined,
  );
}

/** The start of the machine as it was answered; sittings that share one are one unit. */
export function bootOf(
  form: { id: string; restarted: Restarted },
  sitting: Sitting | null,
  last: Sitting | undefined,
): Pick<Sitting, "boot" | "boot_by"> {
  if (sitting?.boot_by === "read") return { boot: sitting.boot, boot_by: sitting.boot_by };
  if (form.restarted === "yes" || !last) return { boot: `start ${form.id}`, boot_by: "answered" };
  const same = form.restarted === "no" ? last.boot : null;
  return { boot: same, boot_by: same === null ? null : "answered" };
}

/** The sittings of a build before this one, and the mount that the newest of them stood on. */
export function mountBefore(
  job: Case,
  build: string,
  sitting: Sitting | null,
): { mounts: number; last: number | null } {
  const earlier = job.sittings.filter(
    (other) => other.build === build && (!sitting || other.started_at < sitting.started_at),
  );
  const mounts = earlier.map((other) => other.mount ?? 1);
  return { mounts: new Set(mounts).size, last: mounts.at(-1) ?? null };
}

/** The number of a sitting's mount: the one before it, or the next one; a build's first sitting has one of its own. */
export function mountOf(job: Case, build: string, isRemounted: boolean, sitting: Sitting | null): number {
  const { last } = mountBefore(job, build, sitting);
  const highest = Math.max(0, ...job.sittings.map((other) => other.mount ?? 1));
  return last !== null && !isRemounted ? last : highest + 1;
}

/** What was answered of a sitting's start; of a new one nothing yet. */
export function bootAnswer(sitting: Sitting | null): Restarted | "usual" {
  if (!sitting) return "usual";
  if (sitting.boot === null) return "";
  return sitting.boot === `start ${sitting.id}` ? "yes" : "no";
}

/** Conditions of a sitting: the plan's range for the room is held against what was read, and is none of them. */
export const conditionFigures = (vocabulary: Vocabulary): Figure[] =>
  vocabulary.conditions.filter((figure) => !figure.key.startsWith("ambient_"));

export const readConditions = (
  conditions: Sitting["conditions"],
  mark: DecimalMark,
): Record<string, string> =>
  Object.fromEntries(
    Object.entries(conditions)
      .filter(([key]) => !key.startsWith("ambient_"))
      .map(([key, value]) => [key, writeValue(value, mark)]),
  );

export const sentence = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);

/** Conditions as label and value. */
export const listConditions = (
  sitting: Sitting,
  vocabulary: Vocabulary,
  mark: DecimalMark,
): [string, string][] =>
  Object.entries(readConditions(sitting.conditions, mark)).map(([key, value]) => [
    sentence(figureName(key, vocabulary.conditions)),
    value,
  ]);

import type { Build, Figure, Part, PartRole, Vocabulary } from "../api/client";
import { newId } from "../lib/ids";
import { type DecimalMark, writeValue } from "../lib/number";
import { type Rated, readFigures, readValue, writeFigures } from "./figures";

/** A part as it is typed: its figures as text, so that a half-typed one is kept as it stands. */
export interface PartDraft {
  id: string;
  role: PartRole;
  label: string;
  figures: string;
}

export interface SettingDraft {
  name: string;
  value: string;
}

export const USUAL_ROLES: readonly PartRole[] = ["processor", "cooler", "thermal paste", "memory", "drive"];

export const usualParts = (): PartDraft[] =>
  USUAL_ROLES.map((role) => ({ id: newId(), role, label: "", figures: "" }));

/** A part's name among others: identical ones are told apart by number. */
export function partName(part: Part, parts: readonly Part[]): string {
  const alike = parts.filter(({ role, label }) => role === part.role && label === part.label);
  return alike.length < 2
    ? part.label
    : `${part.label} · ${alike.findIndex(({ id }) => id === part.id) + 1} of ${alike.length}`;
}

export const partDrafts = (build: Build, vocabulary: Vocabulary, mark: DecimalMark): PartDraft[] =>
  build.parts.map(({ id, role, label, rated }) => ({
    id,
    role,
    label,
    figures: writeFigures(rated, vocabulary.parts[role] ?? [], mark),
  }));

/** Parts worth saving: those with a label; what is unknown stays unknown. */
export const partsOf = (drafts: PartDraft[], vocabulary: Vocabulary, mark: DecimalMark): Part[] =>
  drafts
    .filter((part) => part.label.trim())
    .map(({ id, role, label, figures }) => ({
      id,
      role,
      label: label.trim(),
      rated: readFigures(figures, vocabulary.parts[role] ?? [], mark),
    }));

export const settingDrafts = (settings: Rated, mark: DecimalMark): SettingDraft[] =>
  Object.entries(settings).map(([name, value]) => ({ name, value: writeValue(value, mark) }));

/** Values that are typed by key, as they are saved. */
export const valuesByKey = (
  typed: Record<string, string>,
  figures: Figure[],
  mark: DecimalMark,
): Record<string, string | number> =>
  valuesOf(
    Object.entries(typed).map(([name, value]) => ({ name, value })),
    figures,
    mark,
  );

/** Values by key as they are saved; empty ones are unknown. */
export function valuesOf(
  drafts: SettingDraft[],
  figures: Figure[],
  mark: DecimalMark,
): Record<string, string | number> {
  const known = new Map(figures.map((figure) => [figure.key, figure]));
  return Object.fromEntries(
    drafts.flatMap(({ name, value }) => {
      const read = readValue(value, known.get(name.trim()), mark);
      return name.trim() && read !== null ? [[name.trim(), read]] : [];
    }),
  );
}

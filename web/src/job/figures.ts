import type { Figure, Part, PartRole, Vocabulary } from "../api/client";
import { formatDay } from "../lib/format";
import {
  type DecimalMark,
  NUMBER_IN_TEXT,
  readNumber,
  sayUnread,
  writeNumber,
  writeValue,
} from "../lib/number";

/** Rated figures as a technician types them: "6 cores, 3.9 GHz boost, 65 W". */

export type Rated = Part["rated"];

const NUMBER_FIRST = new RegExp(`^(${NUMBER_IN_TEXT}) ?(\\D.*)$`);
const NUMBER_LAST = new RegExp(`^(\\D+?) ?(${NUMBER_IN_TEXT})$`);
const SPAN_OF_CLOCKS = new RegExp(`^(${NUMBER_IN_TEXT}) ?(?:to|–|-) ?(${NUMBER_IN_TEXT}) ?GHz$`, "i");

/** Pieces of a line: a comma between two digits belongs to their number. */
export const splitPieces = (text: string): string[] =>
  text
    .split(/[;·\n]|,(?!\d)|(?<!\d),/)
    .map((piece) => piece.trim().replace(/\s+/g, " "))
    .filter(Boolean);

/** One figure in the words in which it is read back. */
export function writeFigure(figure: Figure, value: Rated[string], mark: DecimalMark): string {
  const word = figure.words[0] ?? figure.unit;
  if (figure.kind === "count" || figure.kind === "number") return `${writeValue(value, mark)} ${word}`.trim();
  return `${word} ${writeValue(value, mark)}`;
}

/** All figures of a part as text that `readFigures` reads back to the same; what is free stands last. */
export function writeFigures(rated: Rated, figures: Figure[], mark: DecimalMark): string {
  const known = figures.filter((figure) => rated[figure.key] != null);
  const keys = new Set(known.map((figure) => figure.key));
  const free = Object.entries(rated).filter(([key, value]) => !keys.has(key) && value != null);
  return [
    ...known.map((figure) => writeFigure(figure, rated[figure.key] ?? "", mark)),
    ...free.map(([key, value]) =>
      key === "noted" ? String(value) : `${key.replaceAll("_", " ")} ${writeValue(value, mark)}`,
    ),
  ].join(", ");
}

/**
 * Read typed figures by the words of their role; what no word fits is kept as noted. A figure whose number can't be read
 * stands there as it was typed: it is asked back, and the server refuses it.
 */
export function readFigures(text: string, figures: Figure[], mark: DecimalMark): Rated {
  const rated: Rated = {};
  const noted: string[] = [];
  for (const words of splitPieces(text)) {
    const span = SPAN_OF_CLOCKS.exec(words);
    const [base, boost] = [readNumber(span?.[1] ?? "", mark), readNumber(span?.[2] ?? "", mark)];
    if (base !== null && boost !== null && figures.some((figure) => figure.key === "base_ghz")) {
      rated["base_ghz"] = base;
      rated["boost_ghz"] = boost;
      continue;
    }
    const found = readPiece(words, figures, mark);
    if (found) rated[found[0]] = found[1];
    else noted.push(words);
  }
  return noted.length ? { ...rated, noted: noted.join(", ") } : rated;
}

/** Why a figure can't be read; nothing where all can. */
export function sayUnreadFigure(rated: Rated, figures: Figure[], mark: DecimalMark): string | undefined {
  const found = figures.filter(isNumeric).find(({ key }) => typeof rated[key] === "string");
  return found && sayUnread(String(rated[found.key]), mark);
}

/** Asks of a figure that no PC has whether it is typed right; nothing where all are possible. */
export function sayImpossible(rated: Rated, figures: Figure[], mark: DecimalMark): string | undefined {
  for (const { key, unit, possible } of figures) {
    const value = rated[key];
    if (!possible || typeof value !== "number") continue;
    if (value <= possible.low || value >= possible.high)
      return `${writeNumber(value, mark)} ${unit}? ${possible.beyond}. Is it typed right?`;
  }
  return undefined;
}

/** A figure that names another part, what may be chosen for it, and what is typed there now. */
export interface Place {
  figure: Figure;
  chosen: string;
  choices: string[];
}

/** What may be named for a figure, by its key: the roles, and whether one alone is worth a question. */
const PLACES: Record<string, { roles: readonly PartRole[]; least: number }> = {
  seat: { roles: ["adapter"], least: 1 },
  carries: { roles: ["drive", "graphics"], least: 1 },
  // What heats is the processor, where nothing else is said.
  belongs_to: { roles: ["processor", "graphics"], least: 2 },
};
export const OWN_SEAT = "the machine’s own slot";

/** Which other parts are to be chosen from in the figures of one; a name that is typed already can always be mended. */
export function placesOf(
  rated: Rated,
  figures: Figure[],
  others: readonly { role: PartRole; label: string }[],
): Place[] {
  return figures.flatMap((figure): Place[] => {
    const place = figure.kind === "part" ? PLACES[figure.key] : undefined;
    if (!place) return [];
    const named = rated[figure.key];
    const chosen = named == null ? "" : String(named);
    const labels = others.filter(({ role }) => place.roles.includes(role)).map(({ label }) => label.trim());
    const choices = [...new Set(labels.filter(Boolean))];
    if (choices.length < place.least && !chosen) return [];
    return [{ figure, chosen, choices: figure.key === "seat" ? [OWN_SEAT, ...choices] : choices }];
  });
}

/** The text of a part's figures with another part chosen for one of them; an empty name takes it out. */
export function writePlace(
  text: string,
  figures: Figure[],
  { figure }: Place,
  name: string,
  mark: DecimalMark,
): string {
  const kept = splitPieces(text).filter((piece) => readPiece(piece, figures, mark)?.[0] !== figure.key);
  return [...kept, ...(name ? [writeFigure(figure, name, mark)] : [])].join(", ");
}

function readPiece(words: string, figures: Figure[], mark: DecimalMark): [string, string | number] | null {
  const numeric = NUMBER_FIRST.exec(words) ?? swapped(NUMBER_LAST.exec(words));
  if (numeric) {
    const [, typed = "", word = ""] = numeric;
    const number = readNumber(typed, mark);
    const figure = figures.find((f) => isNumeric(f) && hasWord(f, word.trim()));
    if (figure) return [figure.key, number ?? typed];
  }
  const texts = figures.filter((figure) => !isNumeric(figure));
  for (const figure of texts) {
    const word = figure.words.find((w) => words.toLowerCase().startsWith(`${w.toLowerCase()} `));
    if (word) return [figure.key, words.slice(word.length + 1).trim()];
  }
  return null;
}

const swapped = (match: RegExpExecArray | null): string[] | null =>
  match && [match[0], match[2] ?? "", match[1] ?? ""];

const isNumeric = (figure: Figure): boolean => figure.kind === "count" || figure.kind === "number";

const hasWord = (figure: Figure, word: string): boolean =>
  figure.words.some((known) => known.toLowerCase() === word.toLowerCase());

/** A typed value of a figure: a number where the figure is one, else the text; null where it is empty. */
export function readValue(
  text: string,
  figure: Figure | undefined,
  mark: DecimalMark,
): string | number | null {
  const plain = text.trim();
  if (!plain) return null;
  const numeric = figure ? isNumeric(figure) : /^\d{1,9}$/.test(plain);
  return (numeric ? readNumber(plain, mark) : null) ?? plain;
}

/** Rated figures as a line of text: "4 cores · 3.2 GHz base". */
export function describeRated(
  part: { role: PartRole; rated: Rated },
  vocabulary: Vocabulary,
  mark: DecimalMark,
): string {
  const figures = vocabulary.parts[part.role] ?? [];
  const dates = figures.filter((figure) => figure.kind === "date" && part.rated[figure.key] != null);
  const recorded = Object.fromEntries(
    dates.map((figure) => [figure.key, formatDay(String(part.rated[figure.key]))]),
  );
  return writeFigures({ ...part.rated, ...recorded }, figures, mark).replaceAll(", ", " · ");
}

/** The name of a setting, limit or condition: "power limit, W". */
export function figureName(key: string, figures: Figure[]): string {
  const figure = figures.find((known) => known.key === key);
  if (!figure) return key.replaceAll("_", " ");
  return figure.unit ? `${figure.label}, ${figure.unit}` : figure.label;
}

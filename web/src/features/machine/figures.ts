import type { Figure, Part, PartRole, Vocabulary } from "../../api/client";
import { formatDay } from "../../lib/format";

/** Rated figures as a technician types them: "6 cores, 3.9 GHz boost, 65 W". */

export type Rated = Part["rated"];

const NUMBER = /^[+-]?\d+(?:[.,]\d+)?$/;

/** One figure in the words in which it is read back. */
export function writeFigure(figure: Figure, value: Rated[string]): string {
  const word = figure.words[0] ?? figure.unit;
  if (figure.kind === "count" || figure.kind === "number") return `${String(value)} ${word}`.trim();
  return `${word} ${String(value)}`;
}

/** All figures of a part as text that `readFigures` reads back to the same; what is free stands last. */
export function writeFigures(rated: Rated, figures: Figure[]): string {
  const known = figures.filter((figure) => rated[figure.key] != null);
  const keys = new Set(known.map((figure) => figure.key));
  const free = Object.entries(rated).filter(([key, value]) => !keys.has(key) && value != null);
  return [
    ...known.map((figure) => writeFigure(figure, rated[figure.key] ?? "")),
    ...free.map(([key, value]) =>
      key === "noted" ? String(value) : `${key.replaceAll("_", " ")} ${String(value)}`,
    ),
  ].join(", ");
}

/** Read typed figures by the words of their role; what no word fits is kept as noted. */
export function readFigures(text: string, figures: Figure[]): Rated {
  const rated: Rated = {};
  const noted: string[] = [];
  for (const piece of text.split(/[;·\n]|,(?!\d)/)) {
    const words = piece.trim().replace(/\s+/g, " ");
    if (!words) continue;
    const range = /^(\d+(?:[.,]\d+)?) ?(?:to|–|-) ?(\d+(?:[.,]\d+)?) ?GHz$/i.exec(words);
    if (range && figures.some((figure) => figure.key === "base_ghz")) {
      rated["base_ghz"] = toNumber(range[1] ?? "");
      rated["boost_ghz"] = toNumber(range[2] ?? "");
      continue;
    }
    const found = readPiece(words, figures);
    if (found) rated[found[0]] = found[1];
    else noted.push(words);
  }
  return noted.length ? { ...rated, noted: noted.join(", ") } : rated;
}

function readPiece(words: string, figures: Figure[]): [string, string | number] | null {
  const numeric =
    /^([+-]?\d+(?:[.,]\d+)?) ?(\D.*)$/.exec(words) ?? swapped(/^(\D+?) ?([+-]?\d+(?:[.,]\d+)?)$/.exec(words));
  if (numeric) {
    const [, number = "", word = ""] = numeric;
    const figure = figures.find((f) => isNumeric(f) && hasWord(f, word.trim()));
    if (figure && (figure.kind === "number" || /^\d+$/.test(number))) return [figure.key, toNumber(number)];
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

const toNumber = (text: string): number => Number(text.replace(",", "."));

/** A typed value of a figure: a number where the figure is one, else the text; null where it is empty. */
export function readValue(text: string, figure: Figure | undefined): string | number | null {
  const plain = text.trim();
  if (!plain) return null;
  const numeric = figure ? isNumeric(figure) : /^\d{1,9}$/.test(plain);
  return numeric && NUMBER.test(plain) ? toNumber(plain) : plain;
}

/** Rated figures as a line of text: "4 cores · 3.2 GHz base". */
export function describeRated(part: { role: PartRole; rated: Rated }, vocabulary: Vocabulary): string {
  const figures = vocabulary.parts[part.role] ?? [];
  const dates = figures.filter((figure) => figure.kind === "date" && part.rated[figure.key] != null);
  const said = Object.fromEntries(
    dates.map((figure) => [figure.key, formatDay(String(part.rated[figure.key]))]),
  );
  return writeFigures({ ...part.rated, ...said }, figures).replaceAll(", ", " · ");
}

/** The name of a setting, limit or condition: "power limit, W". */
export function figureName(key: string, figures: Figure[]): string {
  const figure = figures.find((known) => known.key === key);
  if (!figure) return key.replaceAll("_", " ");
  return figure.unit ? `${figure.label}, ${figure.unit}` : figure.label;
}

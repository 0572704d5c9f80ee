import { readdirSync, readFileSync } from "node:fs";
import { join, relative } from "node:path";

import { expect, it } from "vitest";

const SOURCES = join(import.meta.dirname, "..");

/** Where a number may be rounded, and why: none of it is a figure of a result. */
const MAY_ROUND: Record<string, string> = {
  "lib/format.ts": "the ticks of an axis",
  "lib/number.ts": "a number as it would be typed again",
  "lib/paste.ts": "the size of what was pasted",
  "lib/picture.ts": "points of a photo",
  "job/planWords.ts": "minutes of work that is still to be done",
  "features/home/model.ts": "how far an import is, and days until a date",
  "features/swap/costs.ts": "a line that is offered to be typed",
  "features/measure/sitting/live.ts": "a level as it is read off a drawn curve",
  "charts/heat.ts": "coordinates of a path",
  "job/HeatOverlay.tsx": "the second that a cursor stands at",
  "features/measure/sitting/timing.ts": "seconds of a timer, as they are noted",
};
/** Where a verdict may be worded: its label, what the word means, the legend that is made of both. */
const MAY_WORD = new Set(["ui/Verdict.tsx", "lib/terms.ts"]);

const ROUNDS = /\.toFixed\(|\.toPrecision\(|Math\.round\(|NumberFormat|toLocaleString/;
const WORDS = /real gain|real loss|not settled|times as fast|\bhotter\b|\blouder\b|\bquieter\b|less time/i;
const COMMENT = /\/\*[\s\S]*?\*\/|^\s*\/\/.*$/gm;
const LEGEND = "hollow: not settled";
const HINT = "Drawback: louder";

function sources(folder: string): string[] {
  return readdirSync(folder, { withFileTypes: true }).flatMap((entry) => {
    const path = join(folder, entry.name);
    if (entry.isDirectory()) return sources(path);
    return /\.tsx?$/.test(entry.name) && !/\.test\.ts$|schema\.d\.ts$/.test(entry.name) ? [path] : [];
  });
}

const code = sources(SOURCES).map(
  (path) => [relative(SOURCES, path), readFileSync(path, "utf8").replace(COMMENT, "")] as const,
);

it("rounds no figure of a result: they come written from the server", () => {
  const rounding = code
    .filter(([path, text]) => ROUNDS.test(text) && !(path in MAY_ROUND))
    .map(([path]) => path);
  expect(rounding).toEqual([]);
});

it("words no verdict but by its label: sentences about results come from the server", () => {
  const wording = code
    .filter(([path, text]) => WORDS.test(text.replace(LEGEND, "").replace(HINT, "")) && !MAY_WORD.has(path))
    .map(([path]) => path);
  expect(wording).toEqual([]);
});

it("names no exception that is none any more", () => {
  const known = new Map(code);
  expect(Object.keys(MAY_ROUND).filter((path) => !ROUNDS.test(known.get(path) ?? ""))).toEqual([]);
});

import type { Workload } from "../../api/client";

/** What a workload holds the same in every run, as it is typed: "40 photos, queue depth = 32, preset = fine". */

type Parameters = Workload["parameters"];

const NUMBER = /^[+-]?\d+(?:[.,]\d+)?$/;
const COUNT = /^([+-]?\d+(?:[.,]\d+)?)\s+(\S.*)$/;

/** All of them as text that `readParameters` reads back. */
export const writeParameters = (parameters: Parameters): string =>
  Object.entries(parameters)
    .map(([name, value]) => `${name} = ${String(value)}`)
    .join(", ");

/** A name with its number or word, or a number and what it counts; a bare word is held as "yes". */
export function readParameters(text: string): Parameters {
  const read: Parameters = {};
  for (const piece of text.split(/[;\n]|,(?!\d)/)) {
    const words = piece.trim().replace(/\s+/g, " ");
    if (!words) continue;
    const [name = "", ...rest] = words.split(/ ?[=:] ?/);
    const count = COUNT.exec(words);
    if (name && rest.length) read[name] = toValue(rest.join(" "));
    else if (count) read[count[2] ?? ""] = toValue(count[1] ?? "");
    else read[words] = "yes";
  }
  return read;
}

const toValue = (word: string): number | string =>
  NUMBER.test(word) ? Number(word.replace(",", ".")) : word;

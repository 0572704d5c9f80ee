import type { Workload } from "../../api/client";
import { type DecimalMark, NUMBER_IN_TEXT, readNumber, sayUnread, writeValue } from "../../lib/number";
import { splitPieces } from "../../job/figures";

/** What a workload holds the same in every run, as it is typed: "40 photos, queue depth = 8, preset = fine". */

type Parameters = Workload["parameters"];

const COUNT = new RegExp(`^(${NUMBER_IN_TEXT}) (\\S.*)$`);

/** All of them as text that `readParameters` reads back. */
export const writeParameters = (parameters: Parameters, mark: DecimalMark): string =>
  Object.entries(parameters)
    .map(([name, value]) => `${name} = ${writeValue(value, mark)}`)
    .join(", ");

/** A name with its number or word, or a number and what it counts; a bare word is held as "yes". */
export function readParameters(text: string, mark: DecimalMark): Parameters {
  const read: Parameters = {};
  for (const words of splitPieces(text)) {
    const [name = "", ...rest] = words.split(/ ?[=:] ?/);
    const count = COUNT.exec(words);
    if (name && rest.length) read[name] = toValue(rest.join(" "), mark);
    else if (count) read[count[2] ?? ""] = readNumber(count[1] ?? "", mark) ?? count[1] ?? "";
    else read[words] = "yes";
  }
  return read;
}

/** Why a count can't be read; nothing where all can. */
export function sayUnreadCount(text: string, mark: DecimalMark): string | undefined {
  const unread = splitPieces(text)
    .map((words) => COUNT.exec(words)?.[1])
    .find((count) => count !== undefined && readNumber(count, mark) === null);
  return unread && sayUnread(unread, mark);
}

/** A number, unless it is rather a name: a release 3.10 is not 3.1. */
function toValue(word: string, mark: DecimalMark): number | string {
  const isName = /^0\d/.test(word) || (word.split(mark)[1] ?? "").endsWith("0");
  return (isName ? null : readNumber(word, mark)) ?? word;
}

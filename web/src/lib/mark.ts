import { createContext } from "react";

import { type DecimalMark, readDigits } from "./number";

/** The decimal mark by which numbers are typed here: that of the machine whose screen it is. */
export const Mark = createContext<DecimalMark>(".");

/** How a number with parted thousands was read, to stand beside its field; nothing where it reads as it is written. */
export function sayRead(typed: string, mark: DecimalMark): string | undefined {
  const read = readDigits(typed, mark)?.replace(".", mark);
  return read === undefined || read === typed.trim() ? undefined : `read: ${read}`;
}

/** Letters that are written from right to left, and what stands between two of them. */
const TURNED = "\\u0590-\\u08ff\\ufb1d-\\ufdff\\ufe70-\\ufefc\\u{10800}-\\u{10fff}\\u{1e800}-\\u{1efff}";
const RUN = new RegExp(`[${TURNED}](?:[^\\n]*[${TURNED}])?`, "gu");
const ANY = new RegExp(`[${TURNED}]`, "u");
const ISOLATE = "\u2068";
const END = "\u2069";

/**
 * A text whose letters from right to left turn nothing beside them: "1.015×" reads forwards behind any name.
 *
 * One that is isolated already stays as it is. The marks are the ones that Unicode has for it; they are put in for showing alone, and never recorded.
 */
export const isolated = (text: string): string =>
  ANY.test(text) && !text.includes(ISOLATE) ? text.replace(RUN, (run) => `${ISOLATE}${run}${END}`) : text;

/** The same text without the marks, for whatever takes it along. */
export const unmarked = (text: string): string => text.replaceAll(ISOLATE, "").replaceAll(END, "");

/** How a machine's figures are typed and written. */
export type DecimalMark = "." | ",";

/** The marks, to choose one. */
export const DECIMAL_MARKS = [
  [".", "point 1.5"],
  [",", "comma 1,5"],
] as const;

const SPACES = " '’\\u00a0\\u202f";
const GROUPED = {
  ".": new RegExp(`^-?(?:\\d+|\\d{1,3}(?:[${SPACES},]\\d{3})+)(?:\\.\\d+)?$`),
  ",": new RegExp(`^-?(?:\\d+|\\d{1,3}(?:[${SPACES}.]\\d{3})+)(?:,\\d+)?$`),
};
const PARTERS = { ".": new RegExp(`[${SPACES},]`, "g"), ",": new RegExp(`[${SPACES}.]`, "g") };

/** A number as it may stand in a line of words, before it is known to be one: "1,000", "3.2". */
export const NUMBER_IN_TEXT = `[+-]?\\d+(?:[${SPACES}.,]\\d+)*`;

/**
 * A typed number with the machine's decimal mark as plain digits with a point, or null where it is none. Thousands may
 * be parted by a space, an apostrophe or the other mark, as the server reads them.
 */
export function readDigits(text: string, mark: DecimalMark): string | null {
  const plain = text.trim().replace("−", "-").replace(/^\+/, "");
  return GROUPED[mark].test(plain) ? plain.replace(PARTERS[mark], "").replace(",", ".") : null;
}

/** A typed number, or null where it is none. */
export function readNumber(text: string, mark: DecimalMark): number | null {
  const digits = readDigits(text, mark);
  return digits === null ? null : Number(digits);
}

/** What to do about a number that can't be read: asked back, never guessed. */
export const sayUnread = (typed: string, mark: DecimalMark): string =>
  `“${typed}” is no number here: the decimal mark is “${mark}”, and thousands are parted in threes.`;

/** Never as a power of ten: what is written has to read back. */
const PLAIN = new Intl.NumberFormat("en", { useGrouping: false, maximumSignificantDigits: 10 });

/** A recorded number as it would be typed: at most ten significant digits, with the machine's decimal mark. */
export function writeNumber(value: number, mark: DecimalMark): string {
  return PLAIN.format(value).replace(".", mark);
}

/** A recorded value, be it a number or a word, as it would be typed. */
export const writeValue = (value: string | number | boolean | null | undefined, mark: DecimalMark): string =>
  typeof value === "number" ? writeNumber(value, mark) : String(value ?? "");

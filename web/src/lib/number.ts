/** A typed number with the machine's decimal mark, or null where it is none. */
export function readNumber(text: string, mark: "." | ","): number | null {
  const plain = text.trim().replace("−", "-");
  const pattern = mark === "." ? /^-?\d+(\.\d+)?$/ : /^-?\d+(,\d+)?$/;
  return pattern.test(plain) ? Number(plain.replace(",", ".")) : null;
}

/** Never as a power of ten: what is written has to read back. */
const PLAIN = new Intl.NumberFormat("en", { useGrouping: false, maximumSignificantDigits: 10 });

/** A recorded number as it would be typed: at most ten significant digits, with the machine's decimal mark. */
export function writeNumber(value: number, mark: "." | ","): string {
  return PLAIN.format(value).replace(".", mark);
}

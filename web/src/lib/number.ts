/** A typed number with the machine's decimal mark, or null where it is none. */
export function readNumber(text: string, mark: "." | ","): number | null {
  const plain = text.trim().replace("−", "-");
  const pattern = mark === "." ? /^-?\d+(\.\d+)?$/ : /^-?\d+(,\d+)?$/;
  return pattern.test(plain) ? Number(plain.replace(",", ".")) : null;
}

/** A recorded number as it would be typed: at most ten significant digits, with the machine's decimal mark. */
export function writeNumber(value: number, mark: "." | ","): string {
  return String(Number(value.toPrecision(10))).replace(".", mark);
}

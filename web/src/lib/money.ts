import { type DecimalMark, readDigits } from "./number";

/** Money as it is sent: a decimal point, no thousands. What is no amount stays as typed, for the server to name. */
export const readMoney = (text: string, mark: DecimalMark): string => readDigits(text, mark) ?? text.trim();

/** A recorded amount as it would be typed; money never passes through a float. */
export const writeMoney = (amount: string | null | undefined, mark: DecimalMark): string =>
  (amount ?? "").replace(".", mark);

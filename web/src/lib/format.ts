/** Ticks of an axis, counts, days and rows of words; figures of results come written from the server. */

/** Signs of a language's number that are written otherwise here: as the server writes them. */
const SIGNS: Record<string, string> = { minusSign: "−", group: "\u202f" };

/** A number with so many decimals, thousands parted and a true minus sign. */
export function formatNumber(value: number, decimals: number): string {
  const digits = { minimumFractionDigits: decimals, maximumFractionDigits: decimals };
  const format = new Intl.NumberFormat("en", { ...digits, useGrouping: "min2", signDisplay: "negative" });
  const parts = format.formatToParts(value);
  return parts.map(({ type, value: text }) => SIGNS[type] ?? text).join("");
}

/** "3 runs", "1 run". */
export function formatCount(count: number, noun: string): string {
  return `${count} ${noun}${count === 1 ? "" : "s"}`;
}

/** A day and time in the machine's own zone. */
export function formatTime(instant: string, zone: string): string {
  const options = { day: "numeric", month: "short", hour: "2-digit", minute: "2-digit" } as const;
  return new Intl.DateTimeFormat("en-GB", { ...options, timeZone: zone }).format(new Date(instant));
}

/** The day of an instant in a time zone: "5 May 2026". */
export function formatDayOf(instant: string, zone: string): string {
  const options = { day: "numeric", month: "short", year: "numeric", timeZone: zone } as const;
  return new Intl.DateTimeFormat("en-GB", options).format(new Date(instant));
}

/** A day, month or year as it was noted: "5 May 2026", "May 2026", "2026"; what is none as it was typed. */
export function formatDay(noted: string): string {
  const [year = "", month, day] = noted.split("-");
  if (!month) return year;
  const options = { month: "short", year: "numeric", timeZone: "UTC" } as const;
  const format = new Intl.DateTimeFormat("en-GB", day ? { ...options, day: "numeric" } : options);
  const date = new Date(`${year}-${month}-${day ?? "01"}T00:00:00Z`);
  return isNaN(date.getTime()) ? noted : format.format(date);
}

const LIST = new Intl.ListFormat("en-GB", { type: "conjunction" });

/** Words in a row: "a, b and c". */
export const formatList = (words: string[]): string => LIST.format(words);

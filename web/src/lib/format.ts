/** Ticks of an axis, counts, days and rows of words; figures of results come written from the server. */

const MINUS = "−";
const NARROW_SPACE = "\u202f";
/** A number with so many decimals, thousands parted and a true minus sign. */
export function formatNumber(value: number, decimals: number): string {
  const fixed = Math.abs(value).toFixed(decimals);
  const [whole = "0", fraction] = fixed.split(".");
  const grouped = whole.length > 4 ? whole.replace(/\B(?=(\d{3})+$)/g, NARROW_SPACE) : whole;
  const sign = value < 0 && Number(fixed) !== 0 ? MINUS : "";
  return sign + grouped + (fraction ? `.${fraction}` : "");
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

/** Words in a row: "a, b and c". */
export function formatList(words: string[]): string {
  if (words.length < 2) return words.join("");
  return `${words.slice(0, -1).join(", ")} and ${words.at(-1)}`;
}

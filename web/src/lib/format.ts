/** The only place that rounds. Everything else hands on what was recorded. */

const MINUS = "−";
const NARROW_SPACE = "\u202f";
/** From this many seconds on a time reads better in minutes. */
const LONG_S = 300;
const HOUR_S = 3600;

/** How many decimals two significant digits of a half-width deserve. */
export function decimalsFor(halfWidth: number | null): number {
  if (halfWidth === null || !Number.isFinite(halfWidth) || halfWidth <= 0) return 1;
  return Math.min(6, Math.max(0, 1 - Math.floor(Math.log10(halfWidth))));
}

/** A number with so many decimals, thousands parted and a true minus sign. */
export function formatNumber(value: number, decimals: number): string {
  const fixed = Math.abs(value).toFixed(decimals);
  const [whole = "0", fraction] = fixed.split(".");
  const grouped = whole.length > 4 ? whole.replace(/\B(?=(\d{3})+$)/g, NARROW_SPACE) : whole;
  const sign = value < 0 && Number(fixed) !== 0 ? MINUS : "";
  return sign + grouped + (fraction ? `.${fraction}` : "");
}

/** A change with its sign always shown: "+34.1 %". */
export function formatSignedPercent(value: number, decimals = 1): string {
  const text = formatNumber(value, decimals);
  return `${value > 0 && Number(value.toFixed(decimals)) !== 0 ? "+" : ""}${text} %`;
}

/** "3 runs", "1 run". */
export function formatCount(count: number, noun: string): string {
  return `${count} ${noun}${count === 1 ? "" : "s"}`;
}

/** A reading in its measure's unit, three to four significant digits; long times as minutes and seconds. */
export function formatReading(value: number, unit: string): string {
  if (unit === "s" && value >= LONG_S) return formatDuration(value);
  return unit ? `${formatFigure(value)} ${unit}` : formatFigure(value);
}

/** A bare figure with at least three significant digits. */
export function formatFigure(value: number): string {
  return formatNumber(value, figureDecimals(value));
}

function figureDecimals(value: number): number {
  const size = Math.abs(value);
  return size >= 100 || size === 0 ? 0 : size >= 10 ? 1 : size >= 1 ? 2 : 3;
}

/**
 * Two readings and the step between them in one form, with the decimals that the step deserves: what is shown of the
 * three adds up.
 */
export function sayStep(from: number, to: number, unit: string): { from: string; to: string; size: string } {
  const [least, most] = [Math.min(Math.abs(from), Math.abs(to)), Math.max(Math.abs(from), Math.abs(to))];
  const step = Math.abs(to - from);
  if (unit === "s" && most >= LONG_S && least >= 60 && step >= 10) {
    const grain = most >= HOUR_S ? 60 : 1;
    const [first, second] = [grain * Math.round(from / grain), grain * Math.round(to / grain)];
    return {
      from: formatDuration(first),
      to: formatDuration(second),
      size: sayLength(Math.abs(second - first)),
    };
  }
  // Fine enough to show the step, and no coarser than either reading stands elsewhere.
  const fine = step > 0 ? Math.ceil(-Math.log10(step / 3)) : 0;
  const decimals = Math.min(6, Math.max(fine, figureDecimals(most)));
  const [first, second] = [Number(from.toFixed(decimals)), Number(to.toFixed(decimals))];
  const withUnit = (value: number) =>
    unit ? `${formatNumber(value, decimals)} ${unit}` : formatNumber(value, decimals);
  return {
    from: formatNumber(first, decimals),
    to: withUnit(second),
    size: withUnit(Math.abs(second - first)),
  };
}

/** A length of time without the parts that are nothing: "40 s", "49 min", "2 min 56 s". */
const sayLength = (seconds: number): string =>
  formatDuration(seconds)
    .replace(/^0 min (?=\d)/, "")
    .replace(/ 0 (s|min)$/, "");

/** A figure as it was computed, to seven significant digits: what stands behind every rounded one. */
export function formatExact(value: number): string {
  return Number(value.toPrecision(7)).toString().replaceAll("-", MINUS);
}

/** Seconds as "15 min 52 s". */
export function formatDuration(seconds: number): string {
  const whole = Math.round(seconds);
  const [hours, minutes, rest] = [Math.floor(whole / 3600), Math.floor((whole % 3600) / 60), whole % 60];
  return hours ? `${hours} h ${minutes} min` : `${minutes} min ${rest} s`;
}

/** Money travels as a decimal string and is shown as it is, to its minor unit, never through a float. */
export function formatMoney(amount: string, currency?: string): string {
  const negative = amount.startsWith("-");
  const plain = negative ? amount.slice(1) : amount;
  return `${negative ? MINUS : ""}${plain}${currency ? ` ${currency}` : ""}`;
}

/** A p-value: two significant digits, and never zero. */
export function formatP(p: number): string {
  if (p >= 0.001) return `p = ${p.toPrecision(2)}`;
  if (p >= 1e-6) return `p = ${p.toFixed(6).replace(/0+$/, "")}`;
  return "p < 0.000001";
}

/** A day and time in the machine's own zone. */
export function formatTime(instant: string, zone: string): string {
  const options = { day: "numeric", month: "short", hour: "2-digit", minute: "2-digit" } as const;
  return new Intl.DateTimeFormat("en-GB", { ...options, timeZone: zone }).format(new Date(instant));
}

/** A day, month or year as it was noted: "5 May 2026", "May 2026", "2026". */
export function formatDay(noted: string): string {
  const [year = "", month, day] = noted.split("-");
  if (!month) return year;
  const options = { month: "short", year: "numeric", timeZone: "UTC" } as const;
  const format = new Intl.DateTimeFormat("en-GB", day ? { ...options, day: "numeric" } : options);
  return format.format(new Date(`${year}-${month}-${day ?? "01"}T00:00:00Z`));
}

/** Words in a row: "a, b and c". */
export function formatList(words: string[]): string {
  if (words.length < 2) return words.join("");
  return `${words.slice(0, -1).join(", ")} and ${words.at(-1)}`;
}

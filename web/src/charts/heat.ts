import type { Heat, HeatCurve, HeatRole, HeatSide } from "../api/client";
import { formatNumber } from "../lib/format";
import { SENSED, SENSED_ROLES } from "../lib/sensors";

/** What of two sides is drawn; a report keeps their means alone. */
export type DrawnHeat = Pick<Heat, "sides" | "worded" | "same_s" | "above_room">;

/** What is drawn of a load, from the top: the temperature large, what it goes with beneath on the same minutes. */
const PANELS = SENSED_ROLES.flatMap((role) => {
  const panel = SENSED[role].panel;
  return panel ? [{ role, ...panel }] : [];
});

export interface Panel {
  role: HeatRole;
  title: string;
  top: number;
  bottom: number;
  low: number;
  high: number;
}

const GAP = 26;

/** The panels that some run tells, one under the other, each with the range of its values. */
export function panelsOf(heat: DrawnHeat, top: number): Panel[] {
  const panels: Panel[] = [];
  let next = top;
  for (const { role, name, height } of PANELS) {
    const curves = heat.sides.flatMap((side) => curvesOf(side).filter((curve) => curve.role === role));
    const unit = curves[0]?.unit;
    if (unit === undefined) continue;
    const [low, high] = rangeOf(curves, role === "temperature");
    const lines = heat.sides.some(({ runs }) => runs.length > 0)
      ? "every run; thick: mean of its side"
      : "mean of each side";
    const title = role === "temperature" ? `${heat.worded.unit}, ${lines}` : `${name}, ${unit}`;
    panels.push({ role, title, top: next, bottom: next + height, low, high });
    next += height + GAP;
  }
  return panels;
}

/** From the lowest to the highest value; noise of a steady channel is not blown up to the whole height. */
function rangeOf(curves: HeatCurve[], fromZero: boolean): [number, number] {
  const told = curves.flatMap(({ lows, highs }) => [...lows, ...highs]).filter((value) => value !== null);
  const [low, high] = [Math.min(...told), Math.max(...told)];
  const least = 0.15 * Math.abs((low + high) / 2);
  const room = Math.max(0.06 * (high - low), (least - (high - low)) / 2, 0.5);
  return fromZero && low > 0 && low < 0.5 * high ? [0, high + room] : [low - room, high + room];
}

/** The longest curve of either side, in seconds. */
export const lengthOf = (heat: DrawnHeat): number =>
  Math.max(...heat.sides.flatMap((side) => curvesOf(side).map((curve) => curve.at.at(-1) ?? 0)));

const curvesOf = (side: HeatSide): HeatCurve[] => [...side.runs.flatMap((run) => run.curves), ...side.means];

/** The middle of each stretch; null over a gap. */
export const middles = ({ lows, highs }: Pick<HeatCurve, "lows" | "highs">): (number | null)[] =>
  lows.map((low, place) => {
    const high = highs[place] ?? null;
    return low === null || high === null ? null : (low + high) / 2;
  });

/** An SVG path through the middles of a curve's stretches, broken at gaps. */
export function pathOf(
  curve: HeatCurve,
  x: (second: number) => number,
  y: (value: number) => number,
): string {
  let isDown = false;
  const steps = middles(curve).map((value, place) => {
    if (value === null) {
      isDown = false;
      return "";
    }
    const step = `${isDown ? "L" : "M"}${x(curve.at[place] ?? 0).toFixed(1)} ${y(value).toFixed(1)}`;
    isDown = true;
    return step;
  });
  return steps.join("");
}

/** Where a mean curve stands at a second, by a straight line between its samples; null outside of it. */
export function levelAt(curve: HeatCurve | undefined, second: number): number | null {
  if (!curve) return null;
  const levels = middles(curve);
  const after = curve.at.findIndex((at) => at >= second);
  if (after < 0) return null;
  const [here, there] = [levels[after - 1] ?? null, levels[after] ?? null];
  const [from, to] = [curve.at[after - 1], curve.at[after]];
  if (from === undefined || to === undefined || here === null)
    return to === second || after === 0 ? there : null;
  return there === null ? null : here + ((there - here) * (second - from)) / (to - from);
}

/** The mean of a mean curve over a window, sample by sample; null where it has none there. */
export function meanWithin(curve: HeatCurve | undefined, from: number, to: number): number | null {
  const inside = curve ? middles(curve).filter((_, place) => isWithin(curve.at[place] ?? -1, from, to)) : [];
  const told = inside.filter((value) => value !== null);
  return told.length === 0 ? null : told.reduce((sum, value) => sum + value, 0) / told.length;
}

const isWithin = (at: number, from: number, to: number): boolean => at >= from && at <= to;

export const meanOf = (side: HeatSide, role: HeatRole): HeatCurve | undefined =>
  side.means.find((curve) => curve.role === role);

/** What a side's mean curves stand at: "48.8 K, 3380 MHz". */
export function sayLevels(side: HeatSide, second: number): string {
  const told = PANELS.flatMap(({ role, decimals }) => {
    const curve = meanOf(side, role);
    const level = levelAt(curve, second);
    return curve && level !== null ? [`${formatNumber(level, decimals)} ${curve.unit}`] : [];
  });
  return told.length > 0 ? told.join(", ") : "nothing told";
}

/** "8" or "8.5": a minute as an axis tells it. */
export const sayMinute = (second: number): string => formatNumber(second / 60, second % 60 === 0 ? 0 : 1);

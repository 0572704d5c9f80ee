import type { Curve, Live } from "../../../api/client";
import { type DecimalMark, writeNumber } from "../../../lib/number";

/** Within so many seconds a sample tells of a moment. */
const NEAR_S = 15;

/** The mean of a curve around a second since the start; null where it has nothing there. */
export function levelAt({ at, lows, highs }: Curve, second: number): number | null {
  const near = at.flatMap((time, place) => {
    const [low, high] = [lows[place] ?? null, highs[place] ?? null];
    return Math.abs(time - second) <= NEAR_S && low !== null && high !== null ? [(low + high) / 2] : [];
  });
  return near.length > 0 ? near.reduce((sum, level) => sum + level, 0) / near.length : null;
}

/** A level as it is read off the curve, to a tenth. */
export const readOff = (level: number, mark: DecimalMark): string =>
  writeNumber(Math.round(level * 10) / 10, mark);

/** The whole minutes that the run has seen by now. */
export function minutesOf({ runs }: Live): number[] {
  const last = Math.max(0, ...(runs[0]?.curves ?? []).map(({ at }) => at.at(-1) ?? 0));
  return Array.from({ length: Math.floor(last / 60) + 1 }, (_, minute) => minute);
}

import type { Case, Job, Measure } from "../../api/client";
import { formatDuration, formatFigure, formatList, formatNumber } from "../../lib/format";

export interface Column {
  key: string;
  build: string;
  letter: string;
  recheck: boolean;
}

/** A column for each build that has readings, and one more where it was measured again later. */
export function historyColumns(job: Case, view: Job): Column[] {
  const points = view.history.flatMap((line) => line.points);
  return job.builds.flatMap(({ id, letter }) =>
    [false, true]
      .filter((recheck) => points.some((point) => point.build === id && point.recheck === recheck))
      .map((recheck) => ({ key: `${id} ${String(recheck)}`, build: id, letter, recheck })),
  );
}

/** The line from one build to the next: straight in a lane, else a bend just below where it leaves. */
export function lanePath([x1, y1]: [number, number], [x2, y2]: [number, number], row: number): string {
  if (x1 === x2) return `M${x1} ${y1}V${y2}`;
  const bend = y1 + row / 2;
  return `M${x1} ${y1}C${x1} ${bend} ${x2} ${y1} ${x2} ${bend}V${y2}`;
}

type Line = Job["history"][number];

const isAboveRoom = (line: Line): boolean => line.points.some((point) => point.above_room);

/** What the figures of a line are in; temperatures stand above the room wherever one was noted. */
export const sayUnit = (line: Line, measure: Measure | undefined): string =>
  isAboveRoom(line) ? "K above the room" : (measure?.unit_display ?? "");

/** A mean in its column: long times as minutes and seconds, the rest as bare figures. */
export function sayMean(point: Line["points"][number], line: Line, measure: Measure | undefined): string {
  if (isAboveRoom(line) && !point.above_room)
    return `${formatFigure(point.mean)} ${measure?.unit_display ?? ""}, room not noted`;
  return measure?.unit === "s" && point.mean >= 300 ? formatDuration(point.mean) : formatFigure(point.mean);
}

/** How much of what was lost came back, and what that rests on. */
export function sayShare(share: Job["recovered"][number], measures: Measure[]): string {
  const name = measures.find((measure) => measure.id === share.measure)?.name ?? "?";
  if (share.share === null) return `${name}: less was lost than matters, so no share can be told.`;
  const grade = share.as_new_measured ? "" : " As new was not measured here: it is remembered or claimed.";
  const room = share.room_missing ? " A room was not noted, so a warm day is in it." : "";
  const whole = (part: number) => formatNumber(100 * part, 0);
  const interval =
    share.low === null || share.high === null
      ? " (between which ends is not settled)"
      : ` (${whole(share.low)} to ${whole(share.high)} %)`;
  const bundle = share.changes.length > 1 ? ` by ${formatList(share.changes)} together` : "";
  return `${name}: ${whole(share.share)} % of what was lost came back${interval}${bundle}.${grade}${room}`;
}

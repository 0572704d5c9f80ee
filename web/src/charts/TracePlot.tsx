import "uplot/dist/uPlot.min.css";

import { type RefObject, useEffect, useRef, useState } from "react";
import uPlot from "uplot";

import type { Curve } from "../api/client";
import { formatNumber } from "../lib/format";

/** A curve of one run; `tone` says of which side it is, `isThin` that it stands behind the others. */
export interface PlotLine {
  name: string;
  tone: "before" | "after";
  isThin: boolean;
  curve: Curve;
}

interface Props {
  lines: PlotLine[];
  height: number;
  label: string;
  unit: string;
  /** Where the axis of minutes ends at least, in seconds. */
  lengthS: number;
  /** Told which second the cursor stands at; null where it left. */
  onCursor: (second: number | null) => void;
  cursor: number | null;
  hasMinutes: boolean;
}

/** One channel of some runs against the minutes since their start; the cursor is shared with the other channels. */
export default function TracePlot(props: Props) {
  const { lines, height, label, unit, lengthS, onCursor, cursor, hasMinutes } = props;
  const place = useRef<HTMLDivElement>(null);
  const plot = useRef<uPlot | null>(null);
  const { width, scheme } = usePlace(place);
  const told = useRef(onCursor);
  useEffect(() => {
    told.current = onCursor;
  });
  const shape = lines.map(({ name, tone, isThin }) => `${name} ${tone} ${isThin}`).join("|");
  useEffect(() => {
    const box = place.current;
    if (!box || width === 0) return;
    const options = optionsOf(box, { width, height, lines, hasMinutes, onCursor: (at) => told.current(at) });
    const made = new uPlot(options, [[]], box);
    plot.current = made;
    return () => {
      plot.current = null;
      made.destroy();
    };
    // Lines of the same shape get fresh samples below, without being laid out anew.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [width, height, shape, scheme, hasMinutes]);
  useEffect(() => {
    plot.current?.setData(joined(lines, lengthS));
  }, [lines, lengthS, width, height, shape, scheme]);
  useEffect(() => {
    const drawn = plot.current;
    if (!drawn) return;
    const left = cursor === null ? -10 : drawn.valToPos(cursor, "x");
    if (Math.abs((drawn.cursor.left ?? -10) - left) > 1) drawn.setCursor({ left, top: 0 }, false);
  }, [cursor, lines, width]);
  return <div ref={place} role="img" aria-label={`${label}, ${unit}`} />;
}

/** How wide the place is, and a count that rises with every change of light and dark. */
function usePlace(place: RefObject<HTMLDivElement | null>): { width: number; scheme: number } {
  const [width, setWidth] = useState(0);
  const [scheme, setScheme] = useState(0);
  useEffect(() => {
    const box = place.current;
    if (!box) return;
    const seen = new ResizeObserver(() => setWidth(Math.floor(box.clientWidth)));
    seen.observe(box);
    // A canvas takes its colours when it is drawn.
    const dark = window.matchMedia("(prefers-color-scheme: dark)");
    const redraw = () => setScheme((count) => count + 1);
    dark.addEventListener("change", redraw);
    return () => {
      seen.disconnect();
      dark.removeEventListener("change", redraw);
    };
  }, [place]);
  return { width, scheme };
}

type Drawn = Pick<Props, "lines" | "height" | "hasMinutes" | "onCursor"> & { width: number };

function optionsOf(box: HTMLElement, { width, height, lines, hasMinutes, onCursor }: Drawn): uPlot.Options {
  const colour = (name: string) => getComputedStyle(box).getPropertyValue(`--${name}`).trim();
  const axis: uPlot.Axis = {
    stroke: colour("soft"),
    grid: { stroke: colour("line"), width: 1 },
    ticks: { show: false },
    font: "12px Inter Variable, sans-serif",
  };
  return {
    width,
    height,
    legend: { show: false },
    cursor: { y: false, points: { size: 6 } },
    padding: [8, 14, 0, 0],
    scales: { x: { time: false }, y: { range: (_plot, low, high) => roomAround(low, high) } },
    axes: [
      {
        ...axis,
        show: hasMinutes,
        size: 30,
        values: (_plot, seconds) => seconds.map((second) => `${second / 60}`),
        incrs: [60, 120, 300, 600, 1800, 3600],
      },
      {
        ...axis,
        size: 48,
        space: 30,
        values: (_plot, levels) => levels.map((level) => formatNumber(level, level % 1 === 0 ? 0 : 1)),
      },
    ],
    series: [
      {},
      ...lines.map(({ name, tone, isThin }) => ({
        label: name,
        stroke: colour(tone),
        width: isThin ? 1 : 2.5,
        alpha: isThin ? 0.6 : 1,
        points: { show: false },
        spanGaps: false,
      })),
    ],
    hooks: {
      setCursor: [
        (drawn) => {
          const { left = -1 } = drawn.cursor;
          onCursor(left < 0 ? null : drawn.posToVal(left, "x"));
        },
      ],
    },
  };
}

/** Noise of a steady channel is not blown up to the whole height: at least a fifth of its level is shown. */
export function roomAround(low: number | null, high: number | null): [number, number] {
  if (low === null || high === null) return [0, 1];
  const least = Math.max(1, 0.2 * Math.abs((low + high) / 2));
  const room = Math.max(0.05 * (high - low), (least - (high - low)) / 2);
  return [low - room, high + room];
}

/** The lines over all of their times; where a run has no sample at a time of another one its line goes on. */
function joined(lines: PlotLine[], lengthS: number): uPlot.AlignedData {
  const tables = lines.map(({ curve }) => [curve.at, middles(curve)] as uPlot.AlignedData);
  const [times = [], ...values] = tables.length > 0 ? uPlot.join(tables) : [[]];
  const end = Number(times.at(-1) ?? 0);
  if (end >= lengthS) return [times, ...values] as uPlot.AlignedData;
  return [[...times, lengthS], ...values.map((line) => [...(line ?? []), null])] as uPlot.AlignedData;
}

const middles = ({ lows, highs }: Curve): (number | null)[] =>
  lows.map((low, place) => {
    const high = highs[place] ?? null;
    return low === null || high === null ? null : (low + high) / 2;
  });

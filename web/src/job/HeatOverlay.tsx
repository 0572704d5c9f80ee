import { type KeyboardEvent, type PointerEvent, useEffect, useRef, useState } from "react";

import type { Case, Heat } from "../api/client";
import { HEAT_MARGIN, HeatPlot, sayWindow } from "../charts/HeatPlot";
import { lengthOf, meanOf, meanWithin, sayLevels, sayMinute } from "../charts/heat";
import { formatNumber } from "../lib/format";
import { ChartToTake } from "../ui/TakeAlong";
import { firstWindow, moved } from "./heat";

interface Props {
  job: Case;
  heat: Heat;
}

const STEP_S = 10;
const WIDE = 880;

/** Both sides by minutes of load: a cursor that reads them, and the window that counts, which may be looked at elsewhere. */
export function HeatOverlay({ job, heat }: Props) {
  const first = firstWindow(heat);
  const [window, setWindow] = useState<readonly [number, number]>(first);
  const [cursor, setCursor] = useState<number | null>(null);
  const [width, measure] = useWidth();
  const end = lengthOf(heat);
  const isFirst = window[0] === first[0] && window[1] === first[1];
  const letters = heat.sides.map(({ letter }) => letter);
  return (
    <div ref={measure}>
      <ChartToTake
        name={`${job.machine.name}: heat, ${letters.join(" → ")}`}
        caption={[heat.worded.sentence, heat.worded.beneath]}
      >
        <div className="relative touch-pan-y">
          <HeatPlot
            heat={heat}
            width={width}
            window={window}
            windowSays={isFirst && heat.window ? "this window counts, both sides" : "looked at, both sides"}
            cursor={cursor}
            label={`${heat.worded.sentence} ${heat.worded.beneath}`}
          />
          <Cursor
            heat={heat}
            end={end}
            width={width}
            cursor={cursor}
            onMove={setCursor}
            window={window}
            onDrag={(by) => setWindow((now) => moved(now, by, heat.same_s))}
          />
        </div>
      </ChartToTake>
      <WindowLine
        heat={heat}
        window={window}
        isFirst={isFirst}
        onMove={(by) => setWindow(moved(window, by, heat.same_s))}
        onBack={() => setWindow(first)}
      />
    </div>
  );
}

/** The width that there is for the drawing, which is drawn for it rather than scaled. */
function useWidth(): [number, (place: HTMLElement | null) => void] {
  const [width, setWidth] = useState(WIDE);
  const [place, setPlace] = useState<HTMLElement | null>(null);
  useEffect(() => {
    if (!place) return;
    const seen = new ResizeObserver(() => setWidth(Math.max(320, Math.floor(place.clientWidth))));
    seen.observe(place);
    return () => seen.disconnect();
  }, [place]);
  return [width, setPlace];
}

interface CursorProps {
  heat: Heat;
  end: number;
  width: number;
  cursor: number | null;
  onMove: (second: number | null) => void;
  window: readonly [number, number];
  /** The window is dragged by so many seconds, on both sides. */
  onDrag: (by: number) => void;
}

/** Where on the drawing a hand is, and what it does there: read, or drag the window along from within it. */
function useHand({ end, onMove, window, onDrag }: CursorProps) {
  const place = useRef<HTMLDivElement>(null);
  const dragged = useRef<number | null>(null);
  const secondAt = (event: PointerEvent): number => {
    const box = place.current?.getBoundingClientRect();
    const share = box ? (event.clientX - box.left) / box.width : 0;
    return Math.round(Math.min(1, Math.max(0, share)) * end);
  };
  return {
    ref: place,
    onPointerDown: (event: PointerEvent) => {
      const second = secondAt(event);
      dragged.current = second >= window[0] && second <= window[1] ? second : null;
      onMove(second);
    },
    onPointerMove: (event: PointerEvent) => {
      const second = secondAt(event);
      if (dragged.current !== null && event.buttons > 0) {
        onDrag(second - dragged.current);
        dragged.current = second;
      }
      onMove(second);
    },
    onPointerUp: () => {
      dragged.current = null;
    },
    onPointerLeave: (event: PointerEvent) => {
      if (event.pointerType === "mouse") onMove(null);
    },
  };
}

/**
 * Reads both sides at a minute: by mouse and touch on the drawing, by keys where it has the focus. Pressed within the
 * window, it drags that along.
 */
function Cursor(props: CursorProps) {
  const { heat, end, width, cursor, onMove } = props;
  const hand = useHand(props);
  const onKey = (event: KeyboardEvent) => {
    const now = cursor ?? 0;
    const step = event.shiftKey ? 60 : STEP_S;
    const to = { ArrowRight: now + step, ArrowLeft: now - step, Home: 0, End: end }[event.key];
    if (to === undefined) {
      if (event.key === "Escape") onMove(null);
      return;
    }
    event.preventDefault();
    onMove(Math.min(end, Math.max(0, to)));
  };
  const reads = cursor === null ? null : heat.sides.map((side) => sayLevels(side, cursor));
  const says = reads
    ? `Minute ${sayMinute(cursor ?? 0)}: before ${reads[0] ?? ""}; after ${reads[1] ?? ""}`
    : "No minute read yet";
  return (
    <>
      <div
        role="slider"
        tabIndex={0}
        aria-label="Read both sides at a minute"
        aria-valuemin={0}
        aria-valuemax={Math.round(end)}
        aria-valuenow={cursor ?? 0}
        aria-valuetext={says}
        className="absolute top-0 bottom-0 cursor-crosshair"
        style={{
          left: `${(100 * HEAT_MARGIN.left) / width}%`,
          right: `${(100 * HEAT_MARGIN.right) / width}%`,
        }}
        onKeyDown={onKey}
        onFocus={() => cursor === null && onMove(Math.round(heat.same_s))}
        {...hand}
      />
      {reads && (
        <div
          className="pointer-events-none absolute top-44 rounded-lg border border-line bg-card px-3 py-2 shadow-sm"
          style={readoutPlace(cursor ?? 0, end)}
        >
          <div className="text-soft">minute {sayMinute(cursor ?? 0)}</div>
          <div className="font-semibold text-before">before {reads[0]}</div>
          <div className="font-semibold text-after">after {reads[1]}</div>
        </div>
      )}
    </>
  );
}

/** Beside the cursor, on the side that has more room. */
const readoutPlace = (cursor: number, end: number) =>
  cursor < end / 2
    ? { left: `${12 + (80 * cursor) / end}%` }
    : { right: `${12 + (80 * (end - cursor)) / end}%` };

interface WindowProps {
  heat: Heat;
  window: readonly [number, number];
  isFirst: boolean;
  onMove: (by: number) => void;
  onBack: () => void;
}

/** The window of both sides, moved together; what another one reads decides nothing. */
function WindowLine({ heat, window: [from, to], isFirst, onMove, onBack }: WindowProps) {
  const levels = heat.sides.map((side) => meanWithin(meanOf(side, "temperature"), from, to));
  const unit = heat.above_room ? "K" : "°C";
  const says = levels.map((level) => (level === null ? "not told" : `${formatNumber(level, 1)} ${unit}`));
  const late = heat.shown
    ? "Chosen after the verdict was given, it decides nothing."
    : "It decides nothing: the measures say what counts.";
  return (
    <div className="mt-1 flex flex-wrap items-center gap-2">
      <button
        type="button"
        className="min-h-11 min-w-11 rounded border border-line"
        onClick={() => onMove(-60)}
      >
        ← <span className="sr-only">Look at the minute before, on both sides</span>
      </button>
      <button
        type="button"
        className="min-h-11 min-w-11 rounded border border-line"
        onClick={() => onMove(60)}
      >
        → <span className="sr-only">Look at the minute after, on both sides</span>
      </button>
      <span aria-live="polite">
        {sayWindow(from, to)}: <b className="text-before">{says[0]}</b> →{" "}
        <b className="text-after">{says[1]}</b>
        {!isFirst && <span className="ml-2 text-soft">Another window. {late}</span>}
      </span>
      {!isFirst && (
        <button
          type="button"
          className="min-h-11 px-2 font-semibold underline underline-offset-4"
          onClick={onBack}
        >
          back to the first window
        </button>
      )}
    </div>
  );
}

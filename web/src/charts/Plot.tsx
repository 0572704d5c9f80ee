import type { ReactNode } from "react";

interface PlotProps {
  width: number;
  height: number;
  /** What is seen, in words and with its numbers. */
  label: string;
  /** Keeps its size; without it the drawing fills its place. */
  isFixed?: boolean;
  children: ReactNode;
}

/** The drawing that a chart stands on: the chart makes the scales, hands them to its axes and marks, and these draw themselves in the order written. */
export function Plot({ width, height, label, isFixed = false, children }: PlotProps) {
  const size = isFixed
    ? { width, height, className: "block" }
    : { viewBox: `0 0 ${width} ${height}`, className: "block h-auto w-full" };
  return (
    <svg {...size} role="img" aria-label={label}>
      {children}
    </svg>
  );
}

interface AxisProps {
  side: "left" | "bottom";
  ticks: readonly number[];
  place: (tick: number) => number;
  /** Where the numbers end: so far from the left, or their base line so far from the top. */
  at: number;
  write?: (tick: number) => string;
  size?: number;
  /** A line at each tick from here to there. */
  lines?: readonly [number, number];
  /** The line at zero stands out. */
  marksZero?: boolean;
}

/** The numbers of an axis and, where asked for, a line across the picture at each. */
export function Axis({
  side,
  ticks,
  place,
  at,
  write = String,
  size = 11,
  lines,
  marksZero = false,
}: AxisProps) {
  const isLeft = side === "left";
  return (
    <g>
      {ticks.map((tick) => {
        const along = place(tick);
        const [from, to] = lines ?? [0, 0];
        const ends = isLeft
          ? { x1: from, x2: to, y1: along, y2: along }
          : { x1: along, x2: along, y1: from, y2: to };
        return (
          <g key={tick}>
            {lines && (
              <line {...ends} stroke={marksZero && tick === 0 ? "var(--band-edge)" : "var(--line)"} />
            )}
            <text
              x={isLeft ? at : along}
              y={isLeft ? along + 4 : at}
              textAnchor={isLeft ? "end" : "middle"}
              fontSize={size}
              fill="var(--soft)"
            >
              {write(tick)}
            </text>
          </g>
        );
      })}
    </g>
  );
}

import { scaleLinear } from "d3-scale";

import { Plot } from "./Plot";

export interface PairPoint {
  before: number;
  after: number;
}

interface Props {
  pairs: PairPoint[];
  /** Runs that do not count or have no partner, still shown. */
  loose?: { side: "before" | "after"; value: number }[];
  width: number;
  height: number;
  radius?: number;
  label: string;
}

/** Single runs, joined by their pair: before on the left, after on the right; values grow upward. */
export function PairDots({ pairs, loose = [], width, height, radius = 2.2, label }: Props) {
  const values = [...pairs.flatMap((pair) => [pair.before, pair.after]), ...loose.map((run) => run.value)];
  if (values.length === 0) return null;
  const [low, high] = [Math.min(...values), Math.max(...values)];
  const pad = (high - low || Math.abs(high) || 1) * 0.08;
  const y = scaleLinear([low - pad, high + pad], [height - radius - 1, radius + 1]);
  const [left, right] = [radius + 2, width - radius - 2];
  return (
    <Plot isFixed width={width} height={height} label={label}>
      {pairs.map((pair, index) => (
        <line
          key={index}
          x1={left}
          x2={right}
          y1={y(pair.before)}
          y2={y(pair.after)}
          stroke="var(--edge)"
          strokeWidth={0.8}
          opacity={0.7}
        />
      ))}
      {loose.map((run, index) => (
        <circle
          key={index}
          cx={run.side === "before" ? left : right}
          cy={y(run.value)}
          r={radius}
          fill="none"
          stroke="var(--edge)"
          strokeWidth={1.2}
        />
      ))}
      {pairs.map((pair, index) => (
        <g key={index}>
          <circle cx={left} cy={y(pair.before)} r={radius} fill="var(--before)" />
          <circle cx={right} cy={y(pair.after)} r={radius} fill="var(--after)" />
        </g>
      ))}
    </Plot>
  );
}

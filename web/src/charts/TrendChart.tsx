import { scaleLinear } from "d3-scale";

import { formatNumber } from "../lib/format";
import { placeLabels } from "./labels";
import { Axis, Plot } from "./Plot";
import { SpotName } from "./SpotName";

export interface TrendPoint {
  name: string;
  value: number;
  gain: number;
  low: number | null;
  high: number | null;
}

interface Props {
  points: TrendPoint[];
  trait: string;
  width: number;
  height: number;
  label: string;
}

const MARGIN = { left: 46, right: 12, top: 10, bottom: 38 };

/** Gain in percent against a trait of the work, one dot a job with its interval; no line is drawn through them. */
export function TrendChart({ points, trait, width, height, label }: Props) {
  const values = points.map((point) => point.value);
  const gains = points.flatMap((point) => [point.gain, point.low ?? point.gain, point.high ?? point.gain]);
  const [least, most] = [Math.min(...values), Math.max(...values)];
  const pad = (most - least) * 0.06;
  const x = scaleLinear([least - pad, most + pad], [MARGIN.left, width - MARGIN.right]);
  const span = [Math.min(0, ...gains), Math.max(0, ...gains)];
  const y = scaleLinear(span, [height - MARGIN.bottom, MARGIN.top]).nice(4);
  const floor = height - MARGIN.bottom;
  const spots = points.map(({ name, value, gain }) => ({ name, x: x(value), y: y(gain) }));
  const labels = placeLabels(spots, {
    left: MARGIN.left,
    right: width,
    top: 0,
    bottom: height - MARGIN.bottom,
  });
  return (
    <Plot width={width} height={height} label={label}>
      <Axis
        side="left"
        ticks={y.ticks(4)}
        place={y}
        at={MARGIN.left - 6}
        write={(tick) => `${formatNumber(tick, 0)} %`}
        lines={[MARGIN.left, width - MARGIN.right]}
        marksZero
      />
      <Axis side="bottom" ticks={x.ticks(4)} place={x} at={floor + 15} />
      <text x={(MARGIN.left + width) / 2} y={height - 5} textAnchor="middle" fontSize={11} fill="var(--soft)">
        {trait}
      </text>
      {points.map(({ name, value, gain, low, high }, index) => (
        <g key={name}>
          {low !== null && high !== null && (
            <line
              x1={x(value)}
              x2={x(value)}
              y1={y(low)}
              y2={y(high)}
              stroke="var(--ink)"
              strokeWidth={1.5}
            />
          )}
          <circle cx={x(value)} cy={y(gain)} r={4.5} fill="var(--ink)" />
          <SpotName label={labels[index]} />
        </g>
      ))}
    </Plot>
  );
}

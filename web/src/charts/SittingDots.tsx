import { scaleLinear } from "d3-scale";

/** The runs of one sitting, oldest first; `left` are those still to come. */
export interface DotColumn {
  label: string;
  side: "before" | "after";
  values: number[];
  /** Failed and spoiled runs that gave a figure all the same. */
  out: number[];
  left: number;
}

interface Props {
  columns: DotColumn[];
  /** What does not matter, around the before-side's mean; null while there is none. */
  band: [number, number] | null;
  higherIsBetter: boolean;
  unit: string;
  width: number;
  height: number;
  label: string;
}

const LEFT = 56;
const BOTTOM = 22;
const RADIUS = 5;
const MOST_TICKS = 5;

/** Single runs, sitting by sitting, both sides on one scale: higher on the page is better. */
export function SittingDots({ columns, band, higherIsBetter, unit, width, height, label }: Props) {
  const values = columns.flatMap(({ values, out }) => [...values, ...out]);
  if (values.length === 0) return null;
  const ends = [...values, ...(band ?? [])];
  const [low, high] = [Math.min(...ends), Math.max(...ends)];
  const pad = (high - low || Math.abs(high) * 0.02 || 1) * 0.12;
  const range: [number, number] = [height - BOTTOM, 6];
  const y = scaleLinear([low - pad, high + pad], higherIsBetter ? range : [range[1], range[0]]);
  const places = columns.map((column) => Math.max(1, column.values.length + column.out.length + column.left));
  const slot = (width - LEFT - 8) / (places.reduce((sum, count) => sum + count, 0) + columns.length);
  const starts = places.map(
    (_, index) => LEFT + slot * (places.slice(0, index).reduce((sum, count) => sum + count, 0) + index + 0.5),
  );
  const radius = Math.min(RADIUS, Math.max(1.5, slot * 0.42));
  return (
    <svg viewBox={`0 0 ${width} ${height}`} role="img" aria-label={label} className="block w-full">
      {band && (
        <rect
          x={LEFT}
          width={width - LEFT}
          y={Math.min(y(band[0]), y(band[1]))}
          height={Math.abs(y(band[0]) - y(band[1]))}
          fill="var(--band)"
          stroke="var(--edge)"
          strokeWidth={0.75}
        />
      )}
      {y.ticks(MOST_TICKS).map((tick) => (
        <text
          key={tick}
          x={LEFT - 8}
          y={y(tick)}
          textAnchor="end"
          dominantBaseline="middle"
          className="fill-soft text-[13px]"
        >
          {tick} {unit}
        </text>
      ))}
      {columns.map((column, index) => {
        const start = starts[index] ?? LEFT;
        const x = (place: number) => start + slot * (place + 0.5);
        const colour = `var(--${column.side})`;
        const middle = column.values.length ? (column.values.at(-1) ?? 0) : (low + high) / 2;
        return (
          <g key={column.label}>
            {column.values.map((value, place) => (
              <circle key={place} cx={x(place)} cy={y(value)} r={radius} fill={colour} />
            ))}
            {column.out.map((value, place) => (
              <text
                key={place}
                x={x(column.values.length + place)}
                y={y(value)}
                textAnchor="middle"
                dominantBaseline="middle"
                className="fill-soft text-[13px]"
              >
                ✕
              </text>
            ))}
            {Array.from({ length: column.left }, (_, place) => (
              <circle
                key={`left ${place}`}
                cx={x(column.values.length + column.out.length + place)}
                cy={y(middle)}
                r={radius}
                fill="none"
                stroke={colour}
                strokeDasharray="2 2"
              />
            ))}
            <text
              x={start + (slot * (places[index] ?? 1)) / 2}
              y={height - 5}
              textAnchor="middle"
              className="fill-soft text-[13px]"
            >
              {column.label}
            </text>
          </g>
        );
      })}
    </svg>
  );
}

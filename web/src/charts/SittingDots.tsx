import { scaleLinear } from "d3-scale";

import { Axis, Plot } from "./Plot";

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
const NUMBERS = 13;

/** Single runs, sitting by sitting, both sides on one scale: higher on the page is better. */
export function SittingDots({ columns, band, higherIsBetter, unit, width, height, label }: Props) {
  const values = columns.flatMap(({ values, out }) => [...values, ...out]);
  if (values.length === 0) return null;
  const ends = [...values, ...(band ?? [])];
  const [low, high] = [Math.min(...ends), Math.max(...ends)];
  const pad = (high - low || Math.abs(high) * 0.02 || 1) * 0.12;
  const range: [number, number] = [height - BOTTOM, 6];
  const y = scaleLinear([low - pad, high + pad], higherIsBetter ? range : [range[1], range[0]]);
  const { slot, starts } = slotsOf(columns, width);
  const shade = band && [y(band[0]), y(band[1])].sort((a, b) => a - b);
  return (
    <Plot width={width} height={height} label={label}>
      {shade && (
        <rect
          x={LEFT}
          width={width - LEFT}
          y={shade[0]}
          height={(shade[1] ?? 0) - (shade[0] ?? 0)}
          fill="var(--band)"
          stroke="var(--edge)"
          strokeWidth={0.75}
        />
      )}
      <Axis
        side="left"
        ticks={y.ticks(MOST_TICKS)}
        place={y}
        at={LEFT - 8}
        size={NUMBERS}
        write={(tick) => `${tick} ${unit}`}
      />
      {columns.map((column, index) => (
        <Column
          key={column.label}
          column={column}
          x={(place) => (starts[index] ?? LEFT) + slot * (place + 0.5)}
          y={y}
          radius={Math.min(RADIUS, Math.max(1.5, slot * 0.42))}
          openAt={y((low + high) / 2)}
          nameAt={height - 5}
        />
      ))}
    </Plot>
  );
}

const placesOf = ({ values, out, left }: DotColumn): number => Math.max(1, values.length + out.length + left);

/** How wide a run's place is, and where each sitting begins: half a place stands free beside each. */
function slotsOf(columns: DotColumn[], width: number): { slot: number; starts: number[] } {
  const places = columns.map(placesOf);
  const slot = (width - LEFT - 8) / (places.reduce((sum, count) => sum + count, 0) + columns.length);
  const starts = places.map(
    (_, index) => LEFT + slot * (places.slice(0, index).reduce((sum, count) => sum + count, 0) + index + 0.5),
  );
  return { slot, starts };
}

interface ColumnProps {
  column: DotColumn;
  /** Where the middle of a place is. */
  x: (place: number) => number;
  y: (value: number) => number;
  radius: number;
  /** Where runs to come stand while there is none yet. */
  openAt: number;
  nameAt: number;
}

/** One sitting: its runs, those that gave a figure but do not count, and hollow those to come. */
function Column({ column, x, y, radius, openAt, nameAt }: ColumnProps) {
  const { values, out, left, side, label } = column;
  const colour = `var(--${side})`;
  const last = values.at(-1);
  return (
    <g>
      {values.map((value, place) => (
        <circle key={place} cx={x(place)} cy={y(value)} r={radius} fill={colour} />
      ))}
      {out.map((value, place) => (
        <text
          key={place}
          x={x(values.length + place)}
          y={y(value)}
          textAnchor="middle"
          dominantBaseline="middle"
          className="fill-soft text-[13px]"
        >
          ✕
        </text>
      ))}
      {Array.from({ length: left }, (_, place) => (
        <circle
          key={`left ${place}`}
          cx={x(values.length + out.length + place)}
          cy={last === undefined ? openAt : y(last)}
          r={radius}
          fill="none"
          stroke={colour}
          strokeDasharray="2 2"
        />
      ))}
      <text
        x={x((placesOf(column) - 1) / 2)}
        y={nameAt}
        textAnchor="middle"
        fontSize={NUMBERS}
        fill="var(--soft)"
      >
        {label}
      </text>
    </g>
  );
}

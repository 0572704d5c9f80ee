import { scaleLinear } from "d3-scale";

import type { VerdictWord } from "../api/client";
import { verdictColour } from "../ui/Verdict";
import { type Label, placeLabels } from "./labels";
import { Axis, Plot } from "./Plot";
import { SpotName } from "./SpotName";

export interface ValuePoint {
  id: string;
  label: string;
  cost: number;
  costLow: number | null;
  costHigh: number | null;
  gain: number;
  low: number | null;
  high: number | null;
  verdict: VerdictWord;
  /** What somebody expects and nobody measured; drawn hollow and dashed. */
  isExpected: boolean;
  isProvisional: boolean;
}

interface Props {
  points: ValuePoint[];
  currency: string;
  /** In which gains are told. */
  unit: string;
  width: number;
  height: number;
  label: string;
}

const NAME_SIZE = 13;
const MARGIN = { left: 56, right: 84, top: 24, bottom: 44 };

/** Gain against net cost; the dotted rays are lines of equal value. */
export function ValueChart({ points, currency, unit, width, height, label }: Props) {
  const costs = points.flatMap((p) => [p.cost, p.costLow ?? p.cost, p.costHigh ?? p.cost]);
  const gains = points.flatMap((point) => [point.gain, point.low ?? point.gain, point.high ?? point.gain]);
  const [top, most] = [Math.max(5, ...gains) * 1.15, Math.max(10, ...costs) * 1.3];
  const x = scaleLinear([Math.min(0, ...costs) * 1.15, most], [MARGIN.left, width - MARGIN.right]);
  const y = scaleLinear([Math.min(0, ...gains) * 1.15, top], [height - MARGIN.bottom, MARGIN.top]);
  const names = namesOf(points, x, y, { right: width, bottom: height - MARGIN.bottom });
  return (
    <Plot width={width} height={height} label={label}>
      {rays(top, most).map((perTen) => (
        <Ray key={perTen} perTen={perTen} unit={unit} most={[most, top]} x={x} y={y} />
      ))}
      <Axis side="bottom" ticks={x.ticks(5)} place={x} at={height - MARGIN.bottom + 18} />
      <Axis
        side="left"
        ticks={y.ticks(5)}
        place={y}
        at={MARGIN.left - 8}
        write={(tick) => `${tick} ${unit}`}
      />
      <line x1={x.range()[0]} x2={x.range()[1]} y1={y(0)} y2={y(0)} stroke="var(--ink)" />
      <line x1={x(0)} x2={x(0)} y1={y.range()[0]} y2={y.range()[1]} stroke="var(--ink)" />
      <text x={width / 2} y={height - 6} textAnchor="middle" fontSize={12} fill="var(--soft)">
        net cost, {currency}
      </text>
      {points.map((point, index) => (
        <ValueMark key={point.id} point={point} name={names[index]} x={x} y={y} />
      ))}
    </Plot>
  );
}

type Scale = (value: number) => number;

/** Where each point's name stands clear of the others and of their bars. */
function namesOf(points: ValuePoint[], x: Scale, y: Scale, ends: { right: number; bottom: number }): Label[] {
  const spots = points.map((point) => {
    const [cx, cy] = [x(point.cost), y(point.gain)];
    const across = { left: x(point.costLow ?? point.cost), right: x(point.costHigh ?? point.cost) };
    const [top, bottom] = [y(point.high ?? point.gain), y(point.low ?? point.gain)];
    return {
      name: point.label,
      x: cx,
      y: cy,
      bars: [
        { ...across, top: cy - 2, bottom: cy + 2 },
        { left: cx - 2, right: cx + 2, top, bottom },
      ],
    };
  });
  return placeLabels(spots, { left: MARGIN.left, top: 0, ...ends }, NAME_SIZE);
}

interface RayProps {
  perTen: number;
  unit: string;
  /** The ends of the picture: cost, gain. */
  most: readonly [number, number];
  x: Scale;
  y: Scale;
}

/** All points of one gain for ten of the currency; its name where it leaves the picture. */
function Ray({ perTen, unit, most: [cost, gain], x, y }: RayProps) {
  const end = Math.min(cost, (10 * gain) / perTen);
  const isAtTop = end < cost;
  const [x2, y2] = [x(end), y((perTen * end) / 10)];
  return (
    <g>
      <line x1={x(0)} y1={y(0)} x2={x2} y2={y2} stroke="var(--edge)" strokeDasharray="2 5" opacity={0.7} />
      <text
        x={x2 + (isAtTop ? 0 : 6)}
        y={y2 + (isAtTop ? -6 : 4)}
        textAnchor={isAtTop ? "middle" : "start"}
        fontSize={11}
        fill="var(--soft)"
      >
        {perTen} {unit} per 10
      </text>
    </g>
  );
}

interface MarkProps {
  point: ValuePoint;
  name: Label | undefined;
  x: Scale;
  y: Scale;
}

function ValueMark({ point, name, x, y }: MarkProps) {
  const colour = verdictColour(point.verdict);
  const open = point.verdict === "not_settled" || point.verdict === "untested" || point.isProvisional;
  const dash = point.isExpected ? { strokeDasharray: "3 3" } : {};
  const [cx, cy] = [x(point.cost), y(point.gain)];
  return (
    <g>
      {point.low !== null && point.high !== null && (
        <line
          x1={cx}
          x2={cx}
          y1={y(point.low)}
          y2={y(point.high)}
          stroke={colour}
          strokeWidth={2.5}
          {...dash}
        />
      )}
      {point.costLow !== null && point.costHigh !== null && (
        <line
          x1={x(point.costLow)}
          x2={x(point.costHigh)}
          y1={cy}
          y2={cy}
          stroke={colour}
          strokeWidth={2.5}
          {...dash}
        />
      )}
      <circle
        cx={cx}
        cy={cy}
        r={6}
        fill={open ? "var(--card)" : colour}
        stroke={colour}
        strokeWidth={2}
        {...dash}
      />
      <SpotName label={name} fontSize={NAME_SIZE} />
    </g>
  );
}

/** A handful of round values whose rays cross the picture. */
function rays(top: number, most: number): number[] {
  const diagonal = (10 * top) / most;
  const round = [0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100];
  return round.filter((perTen) => perTen > diagonal / 5 && perTen < diagonal * 5).slice(0, 4);
}

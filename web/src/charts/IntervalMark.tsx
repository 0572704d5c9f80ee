import type { VerdictWord } from "../api/client";
import { verdictColour } from "../ui/Verdict";
import { Axis, Plot } from "./Plot";
import type { Axis as Scale, Span } from "./scales";

interface Props {
  span: Span;
  axis: Scale;
  verdict: VerdictWord;
  width: number;
  height?: number;
  label: string;
}

/** An interval against the band of what does not matter. */
export function IntervalMark({ span, axis, verdict, width, height = 34, label }: Props) {
  const { place } = axis;
  const colour = verdictColour(verdict);
  const open = verdict === "not_settled" || verdict === "untested";
  const [from, to] = [place(span.margin_low), place(span.margin_high)];
  const middle = height / 2;
  return (
    <Plot isFixed width={width} height={height} label={label}>
      <rect
        x={from}
        y={0}
        width={Math.max(to - from, 1)}
        height={height}
        fill="var(--band)"
        stroke="var(--band-edge)"
      />
      {axis.ticks.map((tick) => (
        <line
          key={tick}
          x1={place(tick)}
          x2={place(tick)}
          y1={0}
          y2={height}
          stroke={tick === 0 ? "var(--band-edge)" : "var(--line)"}
        />
      ))}
      {span.low !== null && span.high !== null && (
        <line
          x1={place(span.low)}
          x2={place(span.high)}
          y1={middle}
          y2={middle}
          stroke={colour}
          strokeWidth={3}
          strokeLinecap="round"
          strokeDasharray={open ? "4 5" : undefined}
        />
      )}
      <circle
        cx={place(span.estimate)}
        cy={middle}
        r={5}
        fill={open ? "var(--card)" : colour}
        stroke={colour}
        strokeWidth={2}
      />
    </Plot>
  );
}

interface AxisProps {
  axis: Scale;
  width: number;
  unit: string;
}

/** The numbers of a group's axis. */
export function AxisNumbers({ axis, width, unit }: AxisProps) {
  return (
    <svg width={width} height={16} aria-hidden className="block overflow-visible">
      <Axis
        side="bottom"
        ticks={axis.ticks}
        place={axis.place}
        at={12}
        write={(tick) => (tick > 0 ? `+${tick}` : tick < 0 ? `−${-tick}` : `0 ${unit}`)}
      />
    </svg>
  );
}

import { scaleLinear } from "d3-scale";

import type { HeatSide } from "../api/client";
import { formatNumber } from "../lib/format";
import { type DrawnHeat, lengthOf, meanOf, type Panel, panelsOf, pathOf, sayMinute } from "./heat";
import { Axis, Plot } from "./Plot";

interface Props {
  heat: DrawnHeat;
  width: number;
  /** From where to where it counts, in seconds; the same on both sides. */
  window: readonly [number, number];
  windowSays: string;
  cursor: number | null;
  label: string;
}

export const HEAT_MARGIN = { left: 52, right: 88, top: 24, bottom: 34 };
/** Sittings of a side are told apart by how their thin lines are broken. */
const DASHES = ["", "7 3", "2 3", "9 3 2 3", "5 5"];
const TONES = ["before", "after"] as const;
const LABEL_PX = 14;

const writeTick = (tick: number): string => formatNumber(tick, tick % 1 === 0 ? 0 : 1);

/** Both sides laid over each other by minutes since the load began; what goes with it beneath, on the same minutes. */
export function HeatPlot({ heat, width, window: [from, to], windowSays, cursor, label }: Props) {
  const panels = panelsOf(heat, HEAT_MARGIN.top);
  const floor = panels.at(-1)?.bottom ?? 0;
  const height = floor + HEAT_MARGIN.bottom;
  const end = lengthOf(heat);
  const x = scaleLinear([0, end], [HEAT_MARGIN.left, width - HEAT_MARGIN.right]);
  const minutes = scaleLinear([0, end / 60], [0, 1]).ticks(Math.min(8, width / 90));
  return (
    <Plot width={width} height={height} label={label}>
      <rect
        x={x(from)}
        y={HEAT_MARGIN.top}
        width={Math.max(2, x(to) - x(from))}
        height={floor - HEAT_MARGIN.top}
        fill="var(--band)"
        stroke="var(--band-edge)"
      />
      {panels.map((panel) => (
        <Channel key={panel.role} heat={heat} panel={panel} x={x} width={width} />
      ))}
      <Axis
        side="bottom"
        ticks={minutes}
        place={(minute) => x(minute * 60)}
        at={floor + 16}
        size={12}
        write={writeTick}
      />
      <text x={x(end)} y={floor + 30} textAnchor="end" fontSize={12} fill="var(--soft)">
        minutes of load
      </text>
      <text
        x={x(from) - 6}
        y={(panels[0]?.bottom ?? 0) - 8}
        textAnchor="end"
        fontSize={12}
        fill="var(--soft)"
      >
        {windowSays}
      </text>
      {cursor !== null && (
        <line x1={x(cursor)} x2={x(cursor)} y1={HEAT_MARGIN.top} y2={floor} stroke="var(--ink)" />
      )}
    </Plot>
  );
}

interface ChannelProps {
  heat: DrawnHeat;
  panel: Panel;
  x: (second: number) => number;
  width: number;
}

/** One channel: every run thin, the mean of its side thick. */
function Channel({ heat, panel, x, width }: ChannelProps) {
  const { role, title, top, bottom, low, high } = panel;
  const y = scaleLinear([low, high], [bottom, top]);
  const isHeat = role === "temperature";
  return (
    <g>
      <text x={HEAT_MARGIN.left} y={top - 8} fontSize={12} fill="var(--soft)">
        {title}
      </text>
      <Axis
        side="left"
        ticks={y.ticks(isHeat ? 6 : 2)}
        place={y}
        at={HEAT_MARGIN.left - 8}
        size={12}
        write={writeTick}
        lines={[HEAT_MARGIN.left, width - HEAT_MARGIN.right]}
      />
      {heat.sides.map((side, number) => (
        <SideLines key={side.build} side={side} tone={TONES[number] ?? "after"} panel={panel} x={x} y={y} />
      ))}
      {isHeat && <Ends heat={heat} y={y} width={width} />}
      {role === "clock" &&
        heat.sides.map((side, number) => (
          <Held
            key={side.build}
            side={side}
            number={number}
            says={number === 0 ? heat.worded.held_before : heat.worded.held_after}
            top={top}
            x={x}
          />
        ))}
    </g>
  );
}

interface LinesProps {
  side: HeatSide;
  tone: (typeof TONES)[number];
  panel: Panel;
  x: (second: number) => number;
  y: (value: number) => number;
}

function SideLines({ side, tone, panel, x, y }: LinesProps) {
  const mean = meanOf(side, panel.role);
  const colour = `var(--${tone})`;
  return (
    <g fill="none" stroke={colour}>
      {side.runs.map((run) =>
        run.curves
          .filter((curve) => curve.role === panel.role)
          .map((curve) => (
            <path
              key={run.run}
              d={pathOf(curve, x, y)}
              strokeWidth={1}
              strokeOpacity={0.45}
              strokeDasharray={DASHES[(run.sitting - 1) % DASHES.length]}
            />
          )),
      )}
      {mean && <path d={pathOf(mean, x, y)} strokeWidth={panel.role === "temperature" ? 2.75 : 2} />}
    </g>
  );
}

interface EndsProps {
  heat: DrawnHeat;
  y: (value: number) => number;
  width: number;
}

/** Where both sides would have ended: their bands, right of the curves, each with its level. */
function Ends({ heat, y, width }: EndsProps) {
  const left = width - HEAT_MARGIN.right + 8;
  const ends = heat.sides.map(({ equilibrium }) => equilibrium);
  if (ends.every((end) => end === null)) return null;
  const [here, there] = ends.map((end) => (end ? y(end.level) : null));
  const apart = here != null && there != null ? Math.abs(here - there) : LABEL_PX;
  const push = Math.max(0, (LABEL_PX - apart) / 2);
  return (
    <g>
      <text x={left} y={HEAT_MARGIN.top - 8} fontSize={12} fill="var(--soft)">
        would end at
      </text>
      {ends.map((end, number) => {
        const isUpper = (number === 0 ? (here ?? 0) - (there ?? 0) : (there ?? 0) - (here ?? 0)) < 0;
        return (
          end && (
            <End
              key={TONES[number]}
              end={end}
              tone={TONES[number] ?? "after"}
              x={left + 16 * number}
              y={y}
              words={left + 34}
              push={isUpper ? -push : push}
            />
          )
        );
      })}
    </g>
  );
}

interface EndProps {
  end: NonNullable<HeatSide["equilibrium"]>;
  tone: (typeof TONES)[number];
  x: number;
  y: (value: number) => number;
  /** Where its number begins, and how far it makes way for the other. */
  words: number;
  push: number;
}

function End({ end, tone, x, y, words, push }: EndProps) {
  const colour = `var(--${tone})`;
  const level = y(end.level);
  return (
    <g>
      <rect
        x={x}
        y={y(end.high)}
        width={12}
        height={Math.max(2, y(end.low) - y(end.high))}
        fill={colour}
        fillOpacity={0.35}
      />
      <line x1={x} x2={x + 12} y1={level} y2={level} stroke={colour} strokeWidth={2} />
      <text x={words} y={level + 4 + push} fontSize={12} fontWeight={600} fill={colour}>
        {formatNumber(end.level, 1)}
      </text>
    </g>
  );
}

interface HeldProps {
  side: HeatSide;
  number: number;
  says: string;
  top: number;
  x: (second: number) => number;
}

/** The spans in which a side was held back: a barred line with its words, a row a side. */
function Held({ side, number, says, top, x }: HeldProps) {
  if (side.held.length === 0 || !says) return null;
  const row = top + 2 + 5 * number;
  const colour = `var(--${TONES[number] ?? "after"})`;
  return (
    <g>
      {side.held.map(([from, to]) => (
        <line
          key={from}
          x1={x(from)}
          x2={Math.max(x(from) + 2, x(to))}
          y1={row}
          y2={row}
          stroke={colour}
          strokeWidth={4}
          strokeDasharray="6 2"
        />
      ))}
      <text
        x={x(side.held[0]?.[0] ?? 0)}
        y={top - 8}
        dx={number === 0 ? 90 : 360}
        fontSize={12}
        fill={colour}
      >
        {number === 0 ? "before" : "after"}: {says}
      </text>
    </g>
  );
}

export const sayWindow = (from: number, to: number): string =>
  `minute ${sayMinute(from)} to ${sayMinute(to)}`;

import type { Case, Comparison, Measure, MeasureResult, Worded } from "../../api/client";
import { AxisNumbers, IntervalMark } from "../../charts/IntervalMark";
import { type Axis, sharedAxis } from "../../charts/scales";
import { verdictColour, verdictMark, verdictWord } from "../../ui/Verdict";
import { groupMeasures } from "./model";

const ROW = 30;
const WIDTH = 940;
const AXIS_WIDTH = 216;
const AT = { before: 330, after: 430, mark: 445, change: 675, verdict: 820 };

interface Props {
  job: Case;
  comparison: Comparison;
}

/** The board as one drawing, to be sent or published: every measure on the axis of its group, right is better. */
export function BoardPicture({ job, comparison }: Props) {
  const groups = groupMeasures(comparison, job.measures);
  const count = groups.reduce((sum, group) => sum + group.measures.length + 1, 0);
  // Where each group begins: after those above it, each with a row for its name.
  const starts = groups.map((_, place) =>
    groups.slice(0, place).reduce((sum, group) => sum + group.measures.length + 1, 0),
  );
  return (
    <svg viewBox={`0 0 ${WIDTH} ${count * ROW}`} role="img" aria-label="All verdicts">
      {groups.map((group, place) => (
        <Group key={group.title} group={group} comparison={comparison} top={(starts[place] ?? 0) * ROW} />
      ))}
    </svg>
  );
}

interface GroupProps {
  group: ReturnType<typeof groupMeasures>[number];
  comparison: Comparison;
  top: number;
}

/** Measures of one kind, on an axis of their own. */
function Group({ group, comparison, top }: GroupProps) {
  const rows = group.measures.flatMap((measure) => {
    const [result, worded] = [comparison.measures[measure.id], comparison.worded.measures[measure.id]];
    return result && worded ? [{ measure, result, worded }] : [];
  });
  const axis = sharedAxis(
    rows.flatMap(({ worded }) => worded.drawn ?? []),
    AXIS_WIDTH,
  );
  return (
    <g fontSize={13} fill="var(--ink)">
      <text x={0} y={top + 20} fontSize={12} fill="var(--soft)">
        {[group.title, group.unit].filter(Boolean).join(", ")}
      </text>
      <svg x={AT.mark} y={top + 8} width={AXIS_WIDTH} height={ROW - 8} overflow="visible">
        <AxisNumbers axis={axis} width={AXIS_WIDTH} unit={group.unit} />
      </svg>
      {rows.map((row, index) => (
        <g key={row.measure.id} transform={`translate(0 ${top + (index + 1) * ROW})`}>
          <Row {...row} axis={axis} />
        </g>
      ))}
    </g>
  );
}

interface RowProps {
  measure: Measure;
  result: MeasureResult;
  worded: Worded;
  axis: Axis;
}

function Row({ measure, result, worded, axis }: RowProps) {
  return (
    <>
      <text x={0} y={20}>
        {measure.name.slice(0, 38)}
      </text>
      <text x={AT.before} y={20} textAnchor="end" fill="var(--before)">
        {worded.before}
      </text>
      <text x={AT.after} y={20} textAnchor="end" fill="var(--after)">
        {worded.after} {worded.unit}
      </text>
      {worded.drawn && (
        <svg x={AT.mark} y={4} width={AXIS_WIDTH} height={ROW - 8}>
          <IntervalMark
            span={worded.drawn}
            axis={axis}
            verdict={result.verdict}
            width={AXIS_WIDTH}
            height={ROW - 8}
            label={worded.change}
          />
        </svg>
      )}
      <text x={AT.change} y={20}>
        {worded.change.slice(0, 20)}
      </text>
      <text x={AT.verdict} y={20} fontWeight={600} fill={verdictColour(result.verdict)}>
        {verdictMark(result.verdict)} {verdictWord(result.verdict)}
        {result.provisional && result.verdict !== "untested" ? " *" : ""}
      </text>
    </>
  );
}

import type { Comparison, Measure, MeasureResult } from "../../api/client";
import { AxisNumbers, IntervalMark } from "../../charts/IntervalMark";
import { PairDots } from "../../charts/PairDots";
import { type Axis, sharedAxis } from "../../charts/scales";
import { Verdict, verdictWord } from "../../ui/Verdict";
import type { MachineRecord } from "../../job/api";
import { dotsOf, type Group, groupMeasures } from "./model";

const AXIS_WIDTH = 216;

interface Props {
  job: MachineRecord;
  comparison: Comparison;
  selected: string | undefined;
  onSelect: (measureId: string) => void;
}

/** All measures at a glance: both sides, the runs, the interval against the band, the verdict. */
export function Board({ job, comparison, selected, onSelect }: Props) {
  const lead = comparison.worded.measures[comparison.lead ?? ""];
  return (
    <table className="w-full">
      <thead className="text-left text-soft">
        <tr className="border-b border-line">
          <th className="py-1 pr-2 font-medium">Measure</th>
          <th className="px-1 text-right font-medium text-before">before</th>
          <th className="px-1 text-right font-medium text-after">after</th>
          <th className="px-2 font-medium">runs</th>
          <th className="font-medium">{lead?.level ?? "95 %"} interval, right is better</th>
          <th className="px-1 text-right font-medium">change</th>
          <th className="pl-2 font-medium">verdict</th>
        </tr>
      </thead>
      {groupMeasures(comparison, job.measures).map((group) => (
        <GroupRows
          key={group.title}
          group={group}
          job={job}
          comparison={comparison}
          selected={selected}
          onSelect={onSelect}
        />
      ))}
    </table>
  );
}

function GroupRows({ group, job, comparison, selected, onSelect }: Props & { group: Group }) {
  const spans = group.measures.flatMap((measure) => {
    return comparison.worded.measures[measure.id]?.drawn ?? [];
  });
  const axis = sharedAxis(spans, AXIS_WIDTH);
  return (
    <tbody>
      <tr>
        <th colSpan={4} scope="rowgroup" className="eyebrow pt-4 pb-1 text-left">
          {group.title}
        </th>
        <td className="pt-4">
          <AxisNumbers axis={axis} width={AXIS_WIDTH} unit={group.unit} />
        </td>
        <td colSpan={2} />
      </tr>
      {group.measures.map((measure) => {
        const result = comparison.measures[measure.id];
        if (!result) return null;
        return (
          <BoardRow
            key={measure.id}
            job={job}
            comparison={comparison}
            measure={measure}
            result={result}
            axis={axis}
            isSelected={measure.id === selected}
            onSelect={() => onSelect(measure.id)}
          />
        );
      })}
    </tbody>
  );
}

interface RowProps {
  job: MachineRecord;
  comparison: Comparison;
  measure: Measure;
  result: MeasureResult;
  axis: Axis;
  isSelected: boolean;
  onSelect: () => void;
}

function BoardRow({ job, comparison, measure, result, axis, isSelected, onSelect }: RowProps) {
  const worded = comparison.worded.measures[measure.id];
  if (!worded) return null;
  const span = worded.drawn;
  const { change, interval, level, why } = worded;
  const label = `${measure.name}: ${change}${interval ? `, ${level} interval ${interval}` : ""}, ${verdictWord(result.verdict)}`;
  const { pairs } = dotsOf(job, comparison, measure);
  return (
    <tr className={`border-b border-line ${isSelected ? "bg-note" : ""}`} data-measure={measure.name}>
      <th scope="row" className={`pr-2 text-left font-normal ${measure.part_of ? "pl-4" : ""}`}>
        <button
          type="button"
          className="min-h-11 text-left underline-offset-4 hover:underline"
          aria-pressed={isSelected}
          onClick={onSelect}
        >
          {measure.name}{" "}
          <span className="text-soft">{result.above_room ? "K above the room" : measure.unit_display}</span>
        </button>
      </th>
      <td className="px-1 text-right text-before">{worded.before}</td>
      <td className="px-1 text-right text-after">{worded.after}</td>
      <td className="px-2">
        <PairDots pairs={pairs} width={46} height={32} label={`${pairs.length} pairs of runs`} />
      </td>
      <td>
        {span && (
          <IntervalMark span={span} axis={axis} verdict={result.verdict} width={AXIS_WIDTH} label={label} />
        )}
      </td>
      <td
        className={`px-1 text-right whitespace-nowrap ${result.within_floor ? "text-soft" : "font-semibold"}`}
      >
        {change}
        {result.within_floor && <span className="block text-xs">within its scatter</span>}
      </td>
      <td className="py-1 pl-2">
        <Verdict
          verdict={result.verdict}
          provisional={result.provisional && result.verdict !== "untested"}
          afterOnly={result.runs_before === 0 && result.runs_after > 0}
        />
        {why && <span className="block max-w-40 text-sm text-soft">{why}</span>}
      </td>
    </tr>
  );
}

import type { ReportRow } from "../../api/client";
import { IntervalMark } from "../../charts/IntervalMark";
import { type Axis, sharedAxis } from "../../charts/scales";
import { verdictMark, verdictWord } from "../../ui/Verdict";
import { byAxis } from "./model";

const MARK_WIDTH = 128;

/** Both readings, the interval against the band that does not matter, the verdict. */
export function Measured({ rows, isBrief = false }: { rows: ReportRow[]; isBrief?: boolean }) {
  return (
    <table>
      <thead>
        <tr>
          <th scope="col">task</th>
          <th scope="col" className="number">
            before
          </th>
          <th scope="col" className="number">
            after
          </th>
          <th scope="col">change</th>
          <th scope="col">right of the band: improved</th>
          <th scope="col">result</th>
        </tr>
      </thead>
      <tbody>
        {byAxis(rows).flatMap((group) => {
          const axis = sharedAxis(
            group.flatMap((row) => row.span ?? []),
            MARK_WIDTH,
          );
          return group.map((row) => (
            <MeasuredRow key={row.measure} row={row} axis={axis} isBrief={isBrief} />
          ));
        })}
      </tbody>
    </table>
  );
}

interface RowProps {
  row: ReportRow;
  axis: Axis;
  isBrief: boolean;
}

function MeasuredRow({ row, axis, isBrief }: RowProps) {
  return (
    <tr>
      <th scope="row">{row.name}</th>
      <td className="number before">
        {row.before} {row.unit}
      </td>
      <td className="number after">
        {row.after} {row.unit}
      </td>
      <td>
        {row.change}
        {row.interval && !isBrief && (
          <span className="aside">
            {row.level}: {row.interval}
          </span>
        )}
      </td>
      <td>
        {row.span && (
          <IntervalMark
            span={row.span}
            axis={axis}
            verdict={row.verdict}
            width={MARK_WIDTH}
            height={22}
            label={`${row.name}: ${row.change}, ${verdictWord(row.verdict)}`}
          />
        )}
      </td>
      <td>
        <span className={`verdict ${row.verdict}`}>
          {verdictMark(row.verdict)} {verdictWord(row.verdict).toLowerCase()}
        </span>
        {row.provisional && <span className="aside">provisional</span>}
        {row.why && <span className="aside">{row.why}</span>}
      </td>
    </tr>
  );
}

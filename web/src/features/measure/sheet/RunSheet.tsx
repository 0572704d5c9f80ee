import { type Row, rowName } from "../../../job/rows";
import { type RowStatus } from "../../../job/sheet";
import { WaitingPhoto } from "./PhotoFirst";
import { type Case, type Measure, runPictureAddress } from "../../../api/client";
import { Button } from "../../../ui/Button";
import { TableToTake } from "../../../ui/TakeAlong";
import { isEmptied } from "../../../job/model";
import { useVocabulary } from "../../../job/vocabulary";
import { Cell, type Series } from "./Cell";
import { sayNotes } from "./notes";
import type { Sheet } from "./useSheet";

interface Props {
  job: Case;
  sheet: Sheet;
  workload: string;
  measures: Measure[];
  rows: Row[];
  /** The runs that have a picture, by id. */
  pictured: string[];
  onRefusal: (message: string | null) => void;
  onSeries: (series: Series) => void;
  onLeave: (position: number) => void;
  onEntered: (position: number) => void;
  onHold: (position: number | null) => void;
  onMend: (position: number) => void;
  onMark: (position: number) => void;
  onMore: (position: number) => void;
}

/** The runs that are there, and warm-ups: rows are runs, columns the measures of the workload. */
export function RunSheet(props: Props) {
  const { measures, rows, workload } = props;
  if (rows.length === 0) return null;
  return (
    <TableToTake name={`${workload}, runs of this sitting`}>
      <div className="overflow-x-auto">
        <table className="border-separate border-spacing-y-1.5">
          <thead className="text-left text-soft">
            <tr>
              <th className="w-24 font-medium">Run</th>
              {measures.map((measure) => (
                <th key={measure.id} className="px-1 text-right font-medium wrap-anywhere">
                  {measure.name}{" "}
                  {measure.unit_display && <span className="font-normal">{measure.unit_display}</span>}
                </th>
              ))}
              <th className="pl-4 font-medium">State</th>
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <SheetRow key={row.position} row={row} {...props} />
            ))}
          </tbody>
        </table>
      </div>
    </TableToTake>
  );
}

function SheetRow({ row, measures, pictured, onMark, onMore, ...cells }: Omit<Props, "rows"> & { row: Row }) {
  const status = cells.sheet.status[row.position];
  const figures = useVocabulary().run_conditions;
  return (
    <tr>
      <th scope="row" className="text-left font-semibold">
        {row.warmUp === null ? (
          row.position
        ) : (
          <span className="font-normal text-soft">warm-up {row.warmUp}</span>
        )}
      </th>
      {measures.map((measure, column) => (
        <td key={measure.id} className="w-44 px-1">
          <Cell row={row} column={column} measure={measure} measures={measures} {...cells} />
        </td>
      ))}
      <td className="pl-4">
        <div className="flex items-center gap-3">
          <Button
            data-act
            aria-label={`Mark ${rowName(row).toLowerCase()}…`}
            onClick={() => onMark(row.position)}
          >
            Mark…
          </Button>
          <Button
            data-act
            aria-label={`More of ${rowName(row).toLowerCase()}…`}
            onClick={() => onMore(row.position)}
          >
            More…
          </Button>
          {row.state !== "complete" && (
            <span className="font-medium">
              {row.state}: {row.reason}
            </span>
          )}
          <SaveState row={row} status={status} />
        </div>
        <p className="max-w-80 text-sm text-soft empty:hidden">
          {sayNotes(row.run, figures, cells.job.machine.decimal_mark)}
        </p>
        {row.photo && <WaitingPhoto job={cells.job} row={row} />}
        {row.run && pictured.includes(row.run.id) && (
          <a
            href={runPictureAddress(cells.job.machine.id, row.run.id)}
            target="_blank"
            rel="noreferrer"
            className="inline-flex min-h-11 items-center underline underline-offset-4"
          >
            Photo of {rowName(row).toLowerCase()}
          </a>
        )}
      </td>
    </tr>
  );
}

/** Whether what stands in a row is recorded, and what is wrong where it can't be. */
export function SaveState({ row, status }: { row: Row; status: RowStatus | undefined }) {
  if (status?.kind === "refused") {
    return (
      <span role="alert" className="font-medium text-warn">
        not saved: {Object.values(status.cells)[0] ?? status.message}
      </span>
    );
  }
  if (status?.kind === "lost") return <span className="text-warn">kept here, not sent yet</span>;
  if (status?.kind === "sending") return <span className="text-soft">saving…</span>;
  if (row.entry && !row.entry.ready) return <span className="text-soft">typed, Enter saves</span>;
  return row.run && !isEmptied(row.run) ? <span className="text-soft">saved</span> : null;
}

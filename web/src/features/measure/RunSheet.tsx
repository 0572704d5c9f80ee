import { type ClipboardEvent, type KeyboardEvent, useState } from "react";
import { flushSync } from "react-dom";

import type { Case, Measure } from "../../api/client";
import { readBlock } from "../../lib/paste";
import { Button } from "../../ui/Button";
import { Note } from "../../ui/Note";
import { isEmptied } from "../machine/model";
import { cellText, type Row, rowName } from "./model";
import { MarkDialog } from "./MarkDialog";
import type { RowStatus } from "./sheet";
import type { Sheet } from "./useSheet";

interface Props {
  job: Case;
  sheet: Sheet;
  measures: Measure[];
  /** The position of the row that is being marked. */
  marking: number | null;
  onMark: (position: number | null) => void;
}

/** Rows are runs, columns the measures of the workload. Enter moves on; a column or block can be pasted. */
export function RunSheet({ job, sheet, measures, marking, onMark }: Props) {
  const [refusal, setRefusal] = useState<string | null>(null);
  const marked = sheet.rows.find((row) => row.position === marking);
  return (
    <>
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
          {sheet.rows.map((row) => (
            <SheetRow
              key={row.position}
              row={row}
              job={job}
              sheet={sheet}
              measures={measures}
              onRefusal={setRefusal}
              onMark={() => onMark(row.position)}
            />
          ))}
        </tbody>
      </table>
      {refusal && (
        <div className="mt-2">
          <Note alert>{refusal}</Note>
        </div>
      )}
      {marked && (
        <MarkDialog
          row={marked}
          onClose={() => onMark(null)}
          onSave={(state, reason) => {
            sheet.mark(marked.position, state, reason);
            onMark(null);
          }}
        />
      )}
    </>
  );
}

interface RowProps extends Omit<Props, "marking" | "onMark"> {
  row: Row;
  onRefusal: (message: string | null) => void;
  onMark: () => void;
}

function SheetRow({ row, job, sheet, measures, onRefusal, onMark }: RowProps) {
  const status = sheet.status[row.position];
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
          <Cell
            row={row}
            column={column}
            measure={measure}
            job={job}
            sheet={sheet}
            measures={measures}
            onRefusal={onRefusal}
          />
        </td>
      ))}
      <td className="pl-4">
        <div className="flex items-center gap-3">
          <Button aria-label={`Mark ${rowName(row).toLowerCase()}`} onClick={onMark}>
            Mark…
          </Button>
          {row.state !== "complete" && (
            <span className="font-medium">
              {row.state}: {row.reason}
            </span>
          )}
          <SaveState row={row} status={status} />
        </div>
      </td>
    </tr>
  );
}

function SaveState({ row, status }: { row: Row; status: RowStatus | undefined }) {
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

interface CellProps extends Omit<RowProps, "onMark"> {
  measure: Measure;
  column: number;
}

function Cell({ row, column, measure, job, sheet, measures, onRefusal }: CellProps) {
  const text = cellText(row, measure.id, job.machine.decimal_mark);
  const status = sheet.status[row.position];
  const isBad = status?.kind === "refused" && measure.id in status.cells;
  const isOut = row.state !== "complete";
  const onKeyDown = (event: KeyboardEvent<HTMLInputElement>) => {
    if ((event.ctrlKey || event.metaKey) && event.key === "z" && (!row.entry || row.entry.ready)) {
      event.preventDefault();
      sheet.undo();
    }
    const step = { Enter: [0, 1], ArrowDown: [1, 0], ArrowUp: [-1, 0] }[event.key];
    if (!step) return;
    event.preventDefault();
    sheet.commit(row.position);
    const isLast = column + 1 === measures.length;
    const [down = 0, right = 0] = event.key === "Enter" && isLast ? [1, -column] : step;
    focusCell(row.position + down, column + right);
  };
  const onPaste = (event: ClipboardEvent<HTMLInputElement>) => {
    const block = readBlock(event.clipboardData.getData("text"), measures.length - column);
    onRefusal(block.kind === "refused" ? block.message : null);
    if (block.kind === "cell") return;
    event.preventDefault();
    if (block.kind !== "block") return;
    // The row below the block has to be there before the cursor can go to it.
    flushSync(() => sheet.paste(row.position, measure.id, block.rows));
    focusCell(row.position + block.rows.length, column);
  };
  return (
    <input
      id={cellId(row.position, column)}
      className={`field h-11 text-right ${isOut ? "text-soft line-through" : ""}`}
      inputMode="decimal"
      autoComplete="off"
      aria-label={`${rowName(row)}, ${measure.name}`}
      aria-invalid={isBad}
      value={text}
      onChange={(event) => sheet.type(row.position, measure.id, event.target.value)}
      onBlur={() => sheet.commit(row.position)}
      onKeyDown={onKeyDown}
      onPaste={onPaste}
    />
  );
}

const cellId = (position: number, column: number) => `cell-${position}-${column}`;

/** Goes to a cell at once, so that fast typing lands in it whole. */
function focusCell(position: number, column: number): void {
  const cell = document.getElementById(cellId(position, column));
  if (!(cell instanceof HTMLInputElement)) return;
  cell.focus();
  cell.select();
}

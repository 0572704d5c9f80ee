import type { ClipboardEvent, KeyboardEvent } from "react";
import { flushSync } from "react-dom";

import type { Case, Measure } from "../../../api/client";
import { readNumber } from "../../../lib/number";
import { looksLikeSeries, readBlock } from "../../../lib/paste";
import { cellText, type Row, rowName } from "../../../job/rows";
import { outcomeOf } from "./outcomes";
import type { Sheet } from "./useSheet";

/** What was pasted and looks like a series; `take` takes each of its rows as a run. */
export interface Series {
  rows: string[][];
  take: () => void;
}

export interface CellProps {
  row: Row;
  job: Case;
  sheet: Sheet;
  measures: Measure[];
  measure: Measure;
  column: number;
  /** The next reading stands large. */
  isLarge?: boolean;
  onRefusal: (message: string | null) => void;
  /** Called with a block that looks like one run over time, before anything of it is taken. */
  onSeries: (series: Series) => void;
  /** Called when the cursor has left a field. */
  onLeave: (position: number) => void;
  /** Called when Enter has left the last field of a row. */
  onEntered: (position: number) => void;
  /** Called with the row that is being filled, and with null once it is left. */
  onHold: (position: number | null) => void;
  /** Called with a row below the next one that is typed into: it stays where it is. */
  onMend: (position: number) => void;
}

/** A field for one reading. Enter moves on; a column or block can be pasted; Alt and a letter says what went wrong. */
export function Cell(props: CellProps) {
  const { row, column, measure, job, sheet, isLarge = false, onLeave, onHold, onMend } = props;
  const status = sheet.status[row.position];
  const isBad = status?.kind === "refused" && measure.id in status.cells;
  const isOut = row.state !== "complete";
  return (
    <input
      id={cellId(row.position, column)}
      className={`field text-right ${isLarge ? "h-16! text-3xl! font-semibold" : "h-11"} ${isOut ? "text-soft line-through" : ""}`}
      inputMode="decimal"
      autoComplete="off"
      aria-label={`${rowName(row)}, ${measure.name}`}
      aria-invalid={isBad}
      value={cellText(row, measure.id, job.machine.decimal_mark)}
      onChange={(event) => {
        sheet.type(row.position, measure.id, event.target.value);
        if (isLarge) onHold(row.position);
        else onMend(row.position);
      }}
      data-row={row.position}
      onBlur={({ relatedTarget }) => {
        onLeave(row.position);
        const next = relatedTarget instanceof HTMLElement ? relatedTarget.dataset["row"] : undefined;
        if (next !== String(row.position)) onHold(null);
      }}
      onKeyDown={(event) => press(event, props)}
      onPaste={(event) => paste(event, props)}
    />
  );
}

/** Does what a key stands for in a field: undo, say what became of the run, or go on to the next field. */
function press(event: KeyboardEvent<HTMLInputElement>, props: CellProps): void {
  const { row, sheet, onHold } = props;
  if ((event.ctrlKey || event.metaKey) && event.key === "z" && (!row.entry || row.entry.ready)) {
    event.preventDefault();
    sheet.undo();
  }
  const outcome = event.altKey ? outcomeOf(event.key) : undefined;
  if (outcome) {
    event.preventDefault();
    flushSync(() => {
      sheet.mark(row.position, outcome.state, outcome.reason);
      onHold(null);
    });
    focusRow(row.position + 1);
    return;
  }
  const step = STEPS[event.key];
  if (!step) return;
  event.preventDefault();
  move(event.key === "Enter", step, props);
}

/** Rows down and columns to the right that a key goes. */
const STEPS: Record<string, readonly [number, number]> = {
  Enter: [0, 1],
  ArrowDown: [1, 0],
  ArrowUp: [-1, 0],
};

function move(
  isEnter: boolean,
  step: readonly [number, number],
  { row, column, job, sheet, measures, onHold, onEntered }: CellProps,
): void {
  const isRowEntered = isEnter && column + 1 === measures.length;
  const [down, right] = isRowEntered ? [1, -column] : step;
  // The field of the next run has to be there before the cursor can go to it.
  flushSync(() => {
    sheet.commit(row.position);
    if (down) onHold(null);
  });
  if (column + right === 0 && down > 0) focusRow(row.position + down);
  else focusCell(row.position + down, column + right);
  const isFilled = measures.some(({ id }) => cellText(row, id, job.machine.decimal_mark).trim());
  if (isRowEntered && isFilled) onEntered(row.position);
}

/** Takes a column or block from here on; what looks like one run over time is asked about first. */
function paste(event: ClipboardEvent<HTMLInputElement>, props: CellProps): void {
  const { row, column, measure, measures, job, sheet, onRefusal, onHold, onSeries } = props;
  const block = readBlock(event.clipboardData.getData("text"), measures.length - column);
  onRefusal(block.kind === "refused" ? block.message : null);
  if (block.kind === "cell") return;
  event.preventDefault();
  if (block.kind !== "block") return;
  const take = () => {
    // The row below the block has to be there before the cursor can go to it.
    flushSync(() => {
      sheet.paste(row.position, measure.id, block.rows);
      onHold(null);
    });
    focusCell(row.position + block.rows.length, column);
  };
  const mark = job.machine.decimal_mark;
  if (looksLikeSeries(block.rows, (cell) => readNumber(cell, mark))) onSeries({ rows: block.rows, take });
  else take();
}

export const labelId = (position: number) => `label-${position}`;

/** Where a new row begins: at its label where that is asked for and not known yet, else at its first figure. */
export function focusRow(position: number): boolean {
  const label = document.getElementById(labelId(position));
  if (!(label instanceof HTMLInputElement) || label.value) return focusCell(position);
  label.focus();
  return true;
}

const cellId = (position: number, column: number) => `cell-${position}-${column}`;

/** Goes to a cell at once, so that fast typing lands in it whole; answers whether it is there. */
export function focusCell(position: number, column = 0): boolean {
  const cell = document.getElementById(cellId(position, column));
  if (!(cell instanceof HTMLInputElement)) return false;
  cell.focus();
  cell.select();
  return true;
}

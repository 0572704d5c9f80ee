import { tsvParseRows } from "d3-dsv";

export const MAX_PASTE_BYTES = 5 * 1024 * 1024;
const MAX_ROWS = 10_000;

/** So many figures that rise by the same step are no repeats of one job. */
const FEWEST_OF_SERIES = 5;
const SAME_STEP = 0.01;

/** Whether a block looks like one run over time: its first column rises by the same step throughout. */
export function looksLikeSeries(rows: string[][], read: (text: string) => number | null): boolean {
  const first = rows.map(([cell = ""]) => read(cell));
  if (first.length < FEWEST_OF_SERIES || first.some((value) => value === null)) return false;
  const steps = first.slice(1).map((value, index) => (value ?? 0) - (first[index] ?? 0));
  const usual = steps[0] ?? 0;
  return usual > 0 && steps.every((step) => Math.abs(step - usual) <= SAME_STEP * usual);
}

export type Block =
  { kind: "cell" } | { kind: "block"; rows: string[][] } | { kind: "refused"; message: string };

/** Reads what was pasted: one cell's text, or a column or block as a spreadsheet hands it over. */
export function readBlock(text: string, columnsLeft: number): Block {
  if (text.length > MAX_PASTE_BYTES) {
    const size = Math.round(text.length / 1024 / 1024);
    return refused(
      `This is ${size} MB; at most 5 MB can be pasted. Nothing was taken. Paste fewer rows, or import a file.`,
    );
  }
  const rows = tsvParseRows(text.replace(/[\r\n]+$/, "")).map((row) => row.map((cell) => cell.trim()));
  if (rows.length <= 1 && !text.includes("\t")) return { kind: "cell" };
  const widest = Math.max(...rows.map((row) => row.length));
  if (widest > columnsLeft) {
    return refused(
      `The block has ${widest} columns and only ${columnsLeft} fit from here. Nothing was taken. Begin further left, or copy fewer columns.`,
    );
  }
  if (rows.length > MAX_ROWS) {
    return refused(
      `The block has ${rows.length} rows; at most ${MAX_ROWS} can be pasted. Nothing was taken.`,
    );
  }
  return { kind: "block", rows };
}

function refused(message: string): Block {
  return { kind: "refused", message };
}

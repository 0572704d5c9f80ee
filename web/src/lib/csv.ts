import { csvFormatRow } from "d3-dsv";

import { unmarked } from "./bidi";

/** What a spreadsheet would take for the beginning of a formula. */
const FORMULA = /^[=+\-@\t\r]/;
/** A signed number with its unit begins no formula: "+34.1 %", "-5.00 EUR". */
const NUMBER = /^[+-]?\d[\d.,\u202f ]*( ?[%°µA-Za-z/()]+)?$/;

/** What a cell holds, with nothing in it that a spreadsheet would run. */
function csvCell(text: string): string {
  const plain = unmarked(text).replace(/\s+/g, " ").trim();
  return FORMULA.test(plain) && !NUMBER.test(plain) ? `'${plain}` : plain;
}

/** Rows as RFC 4180 writes them. */
export const csvText = (rows: string[][]): string =>
  rows.map((row) => `${csvFormatRow(row.map(csvCell))}\r\n`).join("");

/** What stands in a table on the screen, cell by cell; one that spans several leaves the others empty. */
export function tableRows(table: HTMLTableElement): string[][] {
  return [...table.rows].map((row) =>
    [...row.cells].flatMap((cell) => [cellText(cell), ...Array<string>(cell.colSpan - 1).fill("")]),
  );
}

/** What a cell says: of fields what stands in them, of the rest the words, without what is only there to be pressed. */
function cellText(cell: HTMLElement): string {
  if (cell.matches("[data-act]")) return "";
  const fields = [...cell.querySelectorAll<HTMLInputElement | HTMLSelectElement>("input, select")];
  const acts = [...cell.querySelectorAll<HTMLElement>("[data-act]")];
  const words = acts.reduce((text, act) => text.replace(act.innerText, ""), cell.innerText);
  if (fields.length === 0) return words;
  return fields.map(fieldText).join(" ");
}

function fieldText(field: HTMLInputElement | HTMLSelectElement): string {
  if (field instanceof HTMLSelectElement) return field.selectedOptions[0]?.text ?? "";
  if (field.type === "checkbox" || field.type === "radio") return field.checked ? "yes" : "no";
  return field.value;
}

import type { DrawnHeat } from "../../charts/heat";
import type { Report, ReportRow } from "../../api/client";
import type { DotColumn } from "../../charts/SittingDots";

export type Form = "short" | "full";

/** Which paper it is printed on. */
export type PaperSize = "A4" | "letter";

/** What may be left out of the full form; what stands at its head, and what did not count, never may. */
export const SECTIONS = [
  ["options", "other ways to spend it"],
  ["whole", "the whole ladder"],
  ["limits", "limits and causes"],
  ["runs", "single runs"],
  ["notes", "notes and photos"],
] as const;
export type Section = (typeof SECTIONS)[number][0];

/** What of a report the paper needs beside its document. */
export interface Paper {
  report: Report;
  form: Form;
  /** Null for a draft, which nobody was handed. */
  number: number | null;
  since: string[];
  /** Where each photo is: an address, or the picture itself in a file that stands alone. */
  photos: Record<string, string>;
  without: Section[];
}

/** Rows that share an axis: work in percent, then each other unit by itself. */
export function byAxis(rows: ReportRow[]): ReportRow[][] {
  const axes = [...new Set(rows.map((row) => row.axis))];
  return axes.map((axis) => rows.filter((row) => row.axis === axis));
}

/** The single runs of a row, sitting by sitting. */
export function columnsOf(row: ReportRow): DotColumn[] {
  const side = (dots: ReportRow["before_dots"], name: DotColumn["side"]): DotColumn[] => {
    const sittings = [...new Set(dots.map((dot) => dot.sitting))];
    return sittings.map((sitting) => ({
      label: `${name} ${sitting}`,
      side: name,
      values: dots.filter((dot) => dot.sitting === sitting).map((dot) => dot.value),
      out: [],
      left: 0,
    }));
  };
  return [...side(row.before_dots, "before"), ...side(row.after_dots, "after")];
}

/** Keeps each number with its unit on one line. */
export const keepUnits = (text: string): string => text.replace(/(\d) (?=\D)/g, "$1\u00a0");

/** The name of the file that a report is saved as. */
export function fileName({ report, number, form }: Paper): string {
  const words = `${report.machine} ${number === null ? "draft" : `report ${number}`} ${form}`;
  return `${words
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, "-")
    .replace(/^-|-$/g, "")}.html`;
}

/** The curves that a report keeps, as they are drawn: means alone, without their runs. */
export const drawnHeat = (heat: NonNullable<Report["heat"]>): DrawnHeat => ({
  ...heat,
  sides: heat.sides.map((side) => ({
    ...side,
    runs: [],
    means: side.means.map(({ role, unit, at, values }) => ({ role, unit, at, lows: values, highs: values })),
  })),
});

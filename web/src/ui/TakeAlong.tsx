import { type ReactNode, useRef } from "react";

import { chartFile, chartPicture } from "../lib/chartFile";
import { csvText, tableRows } from "../lib/csv";
import { downloadBlob, downloadText } from "../lib/download";

interface TableProps {
  /** What the file is called. */
  name: string;
  children: ReactNode;
}

const LOOK = "min-h-11 px-1 text-sm text-soft underline-offset-4 hover:text-ink hover:underline print:hidden";

/** A table with the way to take it along as CSV. */
export function TableToTake({ name, children }: TableProps) {
  const around = useRef<HTMLDivElement>(null);
  const onSave = () => {
    const table = around.current?.querySelector("table");
    if (table) downloadText(`${fileWord(name)}.csv`, "text/csv", csvText(tableRows(table)));
  };
  return (
    <div>
      <div ref={around}>{children}</div>
      <button type="button" className={LOOK} aria-label={`Save as CSV: ${name}`} onClick={onSave}>
        Save as CSV
      </button>
    </div>
  );
}

interface ChartProps extends TableProps {
  /** What stands beneath it in the file: verdict, level, caveats. */
  caption: (string | null | undefined)[];
}

/** A drawing with the way to take it along, with its units and what it shows in words. */
export function ChartToTake({ name, caption, children }: ChartProps) {
  const around = useRef<HTMLDivElement>(null);
  const make = () => {
    const svg = around.current?.querySelector("svg");
    return svg
      ? chartFile(
          svg,
          name,
          caption.filter((line): line is string => Boolean(line)),
        )
      : null;
  };
  const onSvg = () => {
    const file = make();
    if (file) downloadText(`${fileWord(name)}.svg`, "image/svg+xml", file.svg);
  };
  const onPng = async () => {
    const file = make();
    if (file) downloadBlob(`${fileWord(name)}.png`, await chartPicture(file));
  };
  return (
    <div>
      <div ref={around}>{children}</div>
      <span className="flex gap-3">
        <button type="button" className={LOOK} aria-label={`Save as SVG: ${name}`} onClick={onSvg}>
          Save as SVG
        </button>
        <button
          type="button"
          className={LOOK}
          aria-label={`Save as PNG: ${name}`}
          onClick={() => void onPng()}
        >
          Save as PNG
        </button>
      </span>
    </div>
  );
}

const fileWord = (name: string): string =>
  name
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, "-")
    .replace(/^-|-$/g, "");

import type { ReactNode } from "react";

import type { Case, Measure } from "../../../api/client";
import { Button } from "../../../ui/Button";
import { sayField } from "../../../job/kinds";
import { type Row, rowName } from "../../../job/rows";
import { Cell, focusCell, labelId, type Series } from "./Cell";
import { SaveState } from "./RunSheet";
import type { Sheet } from "./useSheet";

interface Props {
  row: Row;
  job: Case;
  sheet: Sheet;
  measures: Measure[];
  onRefusal: (message: string | null) => void;
  onSeries: (series: Series) => void;
  onLeave: (position: number) => void;
  onEntered: (position: number) => void;
  onHold: (position: number | null) => void;
  onMend: (position: number) => void;
  isDone: boolean;
  /** By which label it is paired, where the plan pairs by label; null elsewhere. */
  label: string | null;
  children: ReactNode;
}

/** The next reading: one field a measure, large, and what Enter does as a button for who has no keyboard. */
export function NextRun({ row, measures, isDone, label, children, ...cells }: Props) {
  const goOn = () => {
    cells.sheet.commit(row.position);
    cells.onHold(null);
    cells.onEntered(row.position);
  };
  return (
    <div className="flex flex-wrap items-end gap-3">
      {label !== null && (
        <LabelField
          row={row}
          label={label}
          onType={(text) => {
            cells.sheet.note(row.position, { pair_label: text || null });
            cells.onHold(row.position);
          }}
        />
      )}
      {measures.map((measure, column) => (
        <div key={measure.id} className="w-full max-w-xs min-w-40 flex-1">
          <p className="mb-1 flex justify-between gap-2 text-soft">
            <span>
              {rowName(row)} · {measure.name}
            </span>
            <span className="shrink-0 self-end whitespace-nowrap">{measure.unit_display}</span>
          </p>
          <Cell row={row} column={column} measure={measure} measures={measures} isLarge {...cells} />
        </div>
      ))}
      {!isDone && (
        <Button look="main" className="h-16" onClick={goOn}>
          Next <span aria-hidden>↵</span>
        </Button>
      )}
      {children}
      <p className="w-full text-sm text-soft empty:hidden">{sayFields(measures)}</p>
      <p className="w-full empty:hidden">
        <SaveState row={row} status={cells.sheet.status[row.position]} />
      </p>
    </div>
  );
}

/** What is to be written where it is no plain figure, each by its measure's name. */
const sayFields = (measures: Measure[]): string =>
  measures
    .flatMap((measure) => (sayField(measure) ? [`${measure.name}: ${sayField(measure)}`] : []))
    .join(". ");

/** What pairs this run with one of the other side: the same input, whatever its order. */
function LabelField({ row, label, onType }: { row: Row; label: string; onType: (text: string) => void }) {
  return (
    <div className="w-full max-w-56 min-w-32 flex-1">
      <p className="mb-1 text-soft">Paired by</p>
      <input
        id={labelId(row.position)}
        className="field h-16!"
        aria-label={`${rowName(row)}, label that pairs it`}
        placeholder="e.g. photo set 3"
        autoComplete="off"
        value={label}
        data-row={row.position}
        onChange={(event) => onType(event.target.value)}
        onKeyDown={(event) => {
          if (event.key !== "Enter") return;
          event.preventDefault();
          focusCell(row.position);
        }}
      />
    </div>
  );
}

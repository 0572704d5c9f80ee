import { type QueryClient, useQueryClient } from "@tanstack/react-query";
import { useEffect, useSyncExternalStore } from "react";

import {
  call,
  type Case,
  type Measure,
  type Run,
  type RunState,
  type Sitting,
  type Workload,
} from "../../../api/client";
import { newId } from "../../../lib/ids";
import { runsQuery, takeSavedRuns } from "../../../job/api";
import { type Desk, deskAt } from "../../../job/desk";
import { planFor } from "../../../job/model";
import {
  cellText,
  countedWith,
  type Entries,
  type Entry,
  isEmptyEntry,
  marksOf,
  NO_ENTRY,
  type Noted,
  notedOf,
  type Row,
  runBody,
  runsPlanned,
  sheetRows,
} from "../../../job/rows";

/** What a sheet is of, and what is known of it beside what is typed. */
export interface SheetOf {
  job: Case;
  recorded: Run[];
  sitting: Sitting;
  workload: Workload;
  measures: Measure[];
  /** Of the measures those that are typed, in the order of their columns. */
  columns: Measure[];
  /** What is noted of a new run without being asked. */
  usual: (row: Row) => Noted;
  /** By position the runs whose figure is to be read off a photo. */
  photos: ReadonlyMap<number, string>;
}

/** The run sheet of one workload in one sitting: what is recorded, what is typed, and the sending of it. */
export function useSheet(of: SheetOf): Sheet {
  const client = useQueryClient();
  const at = { machine: of.job.machine.id, sitting: of.sitting.id, workload: of.workload.id };
  const desk = deskAt(client, at);
  useSyncExternalStore(desk.subscribe, () => desk.state);
  // What was typed and not left with Enter is sent too, once its sheet is left.
  useEffect(() => () => desk.act({ kind: "left" }), [desk]);
  return new Sheet(of, desk, client);
}

/** A sheet as it stands, and what can be done on it; made anew whenever something of it changes. */
export class Sheet {
  readonly rows: Row[];
  readonly status: Desk["state"]["status"];
  readonly isLost: boolean;
  readonly canUndo: boolean;

  constructor(
    private readonly of: SheetOf,
    private readonly desk: Desk,
    private readonly client: QueryClient,
  ) {
    const { entries, status, history } = desk.state;
    this.rows = this.rowsOf(of.recorded, entries);
    this.status = status;
    this.isLost = Object.values(status).some((each) => each.kind === "lost");
    this.canUndo = history.length > 0;
  }

  type = (position: number, measure: string, text: string) =>
    this.desk.act({ kind: "typed", position, entry: this.entryAt(position), measure, text });

  commit = (position: number, entry: Entry | undefined = this.desk.state.entries[position]) => {
    if (!entry || entry.ready) return;
    const row = this.rowNow(position);
    if (isEmptyEntry(row, entry)) {
      // A label that was typed waits for its figure.
      if (Object.keys(entry.noted).length === 0) this.desk.act({ kind: "dropped", positions: [position] });
    } else {
      const before = this.remember(row, entry.id);
      this.desk.act({ kind: "changed", changes: [{ position, entry, before }] });
    }
  };

  amend = (position: number, change: Partial<Entry>) =>
    this.commit(position, { ...this.entryAt(position), ...change, ready: false });

  mark = (position: number, state: RunState, reason: string) => this.amend(position, { state, reason });

  /** Notes what belongs to a row that is still being typed; it is saved with its figures. */
  note = (position: number, noted: Noted) => {
    const entry = this.entryAt(position);
    this.desk.act({ kind: "noted", position, entry: { ...entry, noted: { ...entry.noted, ...noted } } });
  };

  paste = (from: number, measureId: string, block: string[][]) => {
    const { columns } = this.of;
    const right = columns.slice(columns.findIndex((measure) => measure.id === measureId));
    const rowAt = this.rowsNow();
    const changes = block.map((cells, offset) => {
      const row = rowAt(from + offset);
      const entry = this.entryOf(row);
      const pasted = right.flatMap(({ id }, column) => {
        const cell = cells[column];
        return cell === undefined ? [] : [[id, cell] as const];
      });
      const texts = { ...entry.texts, ...Object.fromEntries(pasted) };
      return { position: row.position, entry: { ...entry, texts }, before: this.remember(row, entry.id) };
    });
    this.desk.act({ kind: "changed", changes });
  };

  /** Says of a recorded reading that it was asked about, and is typed right. */
  confirm = async (run: Run, measureId: string) => {
    const { job, sitting, workload, measures } = this.of;
    const row = { ...this.rowNow(run.warm_up ? 0 : run.position), run };
    const entry = { ...NO_ENTRY, state: run.state, reason: run.reason ?? "" };
    const body = runBody(row, entry, sitting, workload, measures);
    const reading = body.readings?.[measureId];
    if (typeof reading !== "object") return;
    const readings = { ...body.readings, [measureId]: { ...reading, confirmed: true } };
    const { position, warm_up } = run;
    const saved = await call(
      "put",
      "/api/machines/{machine_id}/runs/{run_id}",
      { machine_id: job.machine.id, run_id: run.id },
      { ...body, position, warm_up, readings },
    );
    await takeSavedRuns(this.client, job.machine.id, sitting.id, saved);
  };

  /** The run that stands in a row, or will: something may belong to it before it has a figure. */
  idOf = (position: number): string => {
    const entry = this.entryAt(position);
    this.desk.act({ kind: "noted", position, entry });
    return entry.id;
  };

  undo = () => this.desk.act({ kind: "undone", late: this.isClosed });

  /** Records a row that has no typed figure: its run gets them from its trace. */
  record = async (position: number): Promise<void> => {
    const row = this.rowNow(position);
    const entry = this.entryOf(row);
    if (isEmptyEntry(row, entry)) await this.desk.send([{ position, entry }]);
    else this.commit(position);
  };

  /** How many runs count by now, with one that is just being entered. */
  countNow = (entered: number): number => countedWith(this.allNow(), entered);

  private get isClosed(): boolean {
    return this.of.sitting.closed_at !== null;
  }

  private rowsOf(known: Run[], typed: Entries): Row[] {
    const { job, sitting, workload, photos } = this.of;
    const runs = known.filter((run) => run.workload === workload.name);
    const plan = planFor(job, sitting.build);
    return sheetRows(runs, typed, runsPlanned(plan, workload), plan.warm_ups, this.isClosed, photos);
  }

  /** Rows as they stand now: what was shown of them may be older than a save that has come back since. */
  private allNow(): Row[] {
    const { job, sitting, recorded } = this.of;
    const { queryKey } = runsQuery(job.machine.id, { sitting: [sitting.id] });
    return this.rowsOf(this.client.getQueryData<Run[]>(queryKey) ?? recorded, this.desk.state.entries);
  }

  private rowsNow(): (position: number) => Row {
    const placed = new Map(this.allNow().map((row) => [row.position, row]));
    const none = { warmUp: null, run: undefined, entry: undefined, state: "complete", reason: "" } as const;
    return (position) => placed.get(position) ?? { position, ...none };
  }

  private rowNow(position: number): Row {
    return this.rowsNow()(position);
  }

  private entryAt(position: number): Entry {
    return this.entryOf(this.rowNow(position));
  }

  private entryOf(row: Row): Entry {
    return (
      this.desk.state.entries[row.position] ?? {
        ...NO_ENTRY,
        id: row.run?.id ?? row.photo ?? newId(),
        late: this.isClosed,
        noted: row.run ? {} : this.of.usual(row),
        state: row.state,
        reason: row.reason,
      }
    );
  }

  /** What is recorded of the row, as an entry that would bring it back. */
  private remember(row: Row, id: string): Entry {
    const { job, measures } = this.of;
    const bare = { ...row, entry: undefined };
    const texts = measures.map(
      (measure) => [measure.id, cellText(bare, measure.id, job.machine.decimal_mark)] as const,
    );
    return {
      ...NO_ENTRY,
      id,
      late: this.isClosed,
      texts: Object.fromEntries(texts),
      state: row.run?.state ?? "complete",
      reason: row.run?.reason ?? "",
      noted: row.run ? notedOf(row.run) : {},
      marks: Object.fromEntries(measures.map(({ id: key }) => [key, marksOf(row.run?.readings[key])])),
      ready: true,
    };
  }
}

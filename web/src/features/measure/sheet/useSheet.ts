import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useSyncExternalStore } from "react";

import {
  type Case,
  type Measure,
  putRun,
  type Run,
  type RunState,
  type Sitting,
  type Workload,
} from "../../../api/client";
import { newId } from "../../../lib/ids";
import { runsQuery, takeSavedRuns } from "../../../job/api";
import { deskAt } from "../../../job/desk";
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

/** The run sheet of one workload in one sitting: what is recorded, what is typed, and the sending of it. */
export function useSheet(
  job: Case,
  recorded: Run[],
  sitting: Sitting,
  workload: Workload,
  measures: Measure[],
  /** Of the measures those that are typed, in the order of their columns. */
  columns: Measure[],
  /** What is noted of a new run without being asked. */
  usual: (row: Row) => Noted,
  /** By position the runs whose figure is to be read off a photo. */
  photos: ReadonlyMap<number, string>,
) {
  const { machine } = job;
  const client = useQueryClient();
  const desk = deskAt(client, { machine: machine.id, sitting: sitting.id, workload: workload.id });
  const { entries, status, history } = useSyncExternalStore(desk.subscribe, () => desk.state);
  const isClosed = sitting.closed_at !== null;

  const query = runsQuery(machine.id, { sitting: [sitting.id] }).queryKey;
  const rowsOf = (known: Run[], typed: Entries) => {
    const runs = known.filter((run) => run.workload === workload.name);
    const plan = planFor(job, sitting.build);
    return sheetRows(runs, typed, runsPlanned(plan, workload), plan.warm_ups, isClosed, photos);
  };
  const rows = rowsOf(recorded, entries);

  /** Rows as they stand now: what was shown of them may be older than a save that has come back since. */
  const rowsNow = (): ((position: number) => Row) => {
    const known = rowsOf(client.getQueryData<Run[]>(query) ?? recorded, desk.state.entries);
    const placed = new Map(known.map((row) => [row.position, row]));
    const none = { warmUp: null, run: undefined, entry: undefined, state: "complete", reason: "" } as const;
    return (position) => placed.get(position) ?? { position, ...none };
  };

  /** How many runs count by now, with one that is just being entered. */
  const countNow = (entered: number): number =>
    countedWith(rowsOf(client.getQueryData<Run[]>(query) ?? recorded, desk.state.entries), entered);

  const entryOf = (row: Row): Entry =>
    desk.state.entries[row.position] ?? {
      ...NO_ENTRY,
      id: row.run?.id ?? row.photo ?? newId(),
      late: isClosed,
      noted: row.run ? {} : usual(row),
      state: row.state,
      reason: row.reason,
    };

  /** What is recorded of the row, as an entry that would bring it back. */
  const remember = (row: Row, id: string): Entry => {
    const bare = { ...row, entry: undefined };
    const texts = measures.map((measure) => [measure.id, cellText(bare, measure.id, machine.decimal_mark)]);
    return {
      ...NO_ENTRY,
      id,
      late: isClosed,
      texts: Object.fromEntries(texts) as Entry["texts"],
      state: row.run?.state ?? "complete",
      reason: row.run?.reason ?? "",
      noted: row.run ? notedOf(row.run) : {},
      marks: Object.fromEntries(measures.map(({ id }) => [id, marksOf(row.run?.readings[id])])),
      ready: true,
    };
  };

  const type = (position: number, measure: string, text: string) =>
    desk.act({ kind: "typed", position, entry: entryOf(rowsNow()(position)), measure, text });

  const commit = (position: number, entry: Entry | undefined = desk.state.entries[position]) => {
    if (!entry || entry.ready) return;
    const row = rowsNow()(position);
    if (isEmptyEntry(row, entry)) {
      // A label that was typed waits for its figure.
      if (Object.keys(entry.noted).length === 0) desk.act({ kind: "dropped", positions: [position] });
    } else desk.act({ kind: "changed", changes: [{ position, entry, before: remember(row, entry.id) }] });
  };

  const amend = (position: number, change: Partial<Entry>) =>
    commit(position, { ...entryOf(rowsNow()(position)), ...change, ready: false });

  const mark = (position: number, state: RunState, reason: string) => amend(position, { state, reason });

  /** Notes what belongs to a row that is still being typed; it is saved with its figures. */
  const note = (position: number, noted: Noted) => {
    const entry = entryOf(rowsNow()(position));
    desk.act({ kind: "noted", position, entry: { ...entry, noted: { ...entry.noted, ...noted } } });
  };

  const paste = (from: number, measureId: string, block: string[][]) => {
    const rowAt = rowsNow();
    const right = columns.slice(columns.findIndex((measure) => measure.id === measureId));
    const changes = block.map((cells, offset) => {
      const row = rowAt(from + offset);
      const entry = entryOf(row);
      const pasted = right.flatMap(({ id }, column) => {
        const cell = cells[column];
        return cell === undefined ? [] : [[id, cell] as const];
      });
      const texts = { ...entry.texts, ...Object.fromEntries(pasted) };
      return { position: row.position, entry: { ...entry, texts }, before: remember(row, entry.id) };
    });
    desk.act({ kind: "changed", changes });
  };

  /** Says of a recorded reading that it was asked about, and is typed right. */
  const confirm = async (run: Run, measureId: string) => {
    const row = rowsNow()(run.warm_up ? 0 : run.position);
    const body = runBody(
      { ...row, run },
      { ...NO_ENTRY, state: run.state, reason: run.reason ?? "" },
      sitting,
      workload,
      measures,
    );
    const reading = body.readings?.[measureId];
    if (typeof reading !== "object") return;
    const readings = { ...body.readings, [measureId]: { ...reading, confirmed: true } };
    const saved = await putRun(machine.id, run.id, {
      ...body,
      position: run.position,
      warm_up: run.warm_up,
      readings,
    });
    await takeSavedRuns(client, machine.id, sitting.id, saved);
  };

  /** The run that stands in a row, or will: something may belong to it before it has a figure. */
  const idOf = (position: number): string => {
    const entry = entryOf(rowsNow()(position));
    desk.act({ kind: "noted", position, entry });
    return entry.id;
  };

  const undo = () => desk.act({ kind: "undone", late: isClosed });

  /** Records a row that has no typed figure: its run gets them from its trace. */
  const record = async (position: number): Promise<void> => {
    const row = rowsNow()(position);
    const entry = entryOf(row);
    if (isEmptyEntry(row, entry)) await desk.send([{ position, entry }]);
    else commit(position);
  };

  // What was typed and not left with Enter is sent too, once its sheet is left.
  useEffect(() => () => desk.act({ kind: "left" }), [desk]);

  const isLost = Object.values(status).some((each) => each.kind === "lost");

  return {
    rows,
    status,
    isLost,
    canUndo: history.length > 0,
    type,
    commit,
    amend,
    mark,
    note,
    paste,
    undo,
    confirm,
    countNow,
    idOf,
    record,
  };
}

export type Sheet = ReturnType<typeof useSheet>;

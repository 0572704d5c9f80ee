import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";

import {
  type Case,
  type Measure,
  postRuns,
  putRun,
  type Run,
  type RunOfBlock,
  type RunsSaved,
  type RunState,
  type Sitting,
  type Workload,
} from "../../api/client";
import { useDraft } from "../../lib/draft";
import { newId } from "../../lib/ids";
import { runsQuery, takeSavedRuns } from "../machine/api";
import { planFor } from "../machine/model";
import {
  cellText,
  countedWith,
  type Entries,
  type Entry,
  fitEntries,
  isEmptyEntry,
  NO_ENTRY,
  type Row,
  runBody,
  runsPlanned,
  sheetRows,
} from "./model";
import { marksOf, type Noted, notedOf } from "./notes";
import { failedRows, type Placed, reduceSheet, type SheetAction, type SheetState, stands } from "./sheet";

const RETRY_MS = 2000;
/** More of them are sent in the next block: so many stay well below what a server takes. */
const MOST_ROWS = 8000;

/** The state of a sheet; what is typed in it survives a reload, and is what another tab at the same sheet types. */
function useSheetState(key: string): [SheetState, { current: SheetState }, (action: SheetAction) => void] {
  const [entries, keepEntries] = useDraft<Entries>(key, {}, fitEntries);
  const [rest, setRest] = useState<Omit<SheetState, "entries">>({ status: {}, history: [] });
  // One key may change a row twice before the next render, as Enter and leaving the cell do.
  const latest = useRef<SheetState>({ entries, ...rest });
  useEffect(() => {
    latest.current = { entries, ...rest };
  }, [entries, rest]);
  const dispatch = useCallback(
    (action: SheetAction) => {
      const { entries, ...next } = reduceSheet(latest.current, action);
      if (entries !== latest.current.entries) keepEntries(entries);
      latest.current = { entries, ...next };
      setRest(next);
    },
    [keepEntries],
  );
  return [{ entries, ...rest }, latest, dispatch];
}

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
  const [{ entries, status, history }, latest, dispatch] = useSheetState(
    `sheet.${sitting.id}.${workload.id}`,
  );
  const underWay = useRef(new Set<number>());

  const query = runsQuery(machine.id, { sitting: [sitting.id] }).queryKey;
  const rowsOf = (known: Run[], typed: Entries) => {
    const runs = known.filter((run) => run.workload === workload.name);
    const plan = planFor(job, sitting.build);
    const isClosed = sitting.closed_at !== null;
    return sheetRows(runs, typed, runsPlanned(plan, workload), plan.warm_ups, isClosed, photos);
  };
  const rows = rowsOf(recorded, entries);

  /** Rows as they stand now: what was shown of them may be older than a save that has come back since. */
  const rowsNow = (): ((position: number) => Row) => {
    const known = rowsOf(client.getQueryData<Run[]>(query) ?? recorded, latest.current.entries);
    const placed = new Map(known.map((row) => [row.position, row]));
    const none = { warmUp: null, run: undefined, entry: undefined, state: "complete", reason: "" } as const;
    return (position) => placed.get(position) ?? { position, ...none };
  };

  /** How many runs count by now, with one that is just being entered. */
  const countNow = (entered: number): number =>
    countedWith(rowsOf(client.getQueryData<Run[]>(query) ?? recorded, latest.current.entries), entered);

  const entryOf = (row: Row): Entry =>
    latest.current.entries[row.position] ?? {
      ...NO_ENTRY,
      id: row.run?.id ?? row.photo ?? newId(),
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
      texts: Object.fromEntries(texts) as Entry["texts"],
      state: row.run?.state ?? "complete",
      reason: row.run?.reason ?? "",
      noted: row.run ? notedOf(row.run) : {},
      marks: Object.fromEntries(measures.map(({ id }) => [id, marksOf(row.run?.readings[id])])),
      ready: true,
    };
  };

  const type = (position: number, measure: string, text: string) =>
    dispatch({ kind: "typed", position, entry: entryOf(rowsNow()(position)), measure, text });

  const commit = (position: number, entry: Entry | undefined = latest.current.entries[position]) => {
    if (!entry || entry.ready) return;
    const row = rowsNow()(position);
    if (isEmptyEntry(row, entry)) {
      // A label that was typed waits for its figure.
      if (Object.keys(entry.noted).length === 0) dispatch({ kind: "dropped", positions: [position] });
    } else dispatch({ kind: "changed", changes: [{ position, entry, before: remember(row, entry.id) }] });
  };

  const amend = (position: number, change: Partial<Entry>) =>
    commit(position, { ...entryOf(rowsNow()(position)), ...change, ready: false });

  const mark = (position: number, state: RunState, reason: string) => amend(position, { state, reason });

  /** Notes what belongs to a row that is still being typed; it is saved with its figures. */
  const note = (position: number, noted: Noted) => {
    const entry = entryOf(rowsNow()(position));
    dispatch({ kind: "noted", position, entry: { ...entry, noted: { ...entry.noted, ...noted } } });
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
    dispatch({ kind: "changed", changes });
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
    dispatch({ kind: "noted", position, entry });
    return entry.id;
  };

  const undo = () => dispatch({ kind: "undone" });

  const send = useCallback(
    async (block: (Placed & { row: Row })[]) => {
      const positions = block.map(({ position }) => position);
      positions.forEach((position) => underWay.current.add(position));
      dispatch({ kind: "sending", positions });
      const query = runsQuery(machine.id, { sitting: [sitting.id] }).queryKey;
      try {
        // The cache knows of a save just made before the next render does: its version is the one to build on.
        const known = new Map(client.getQueryData<Run[]>(query)?.map((run) => [run.id, run]));
        const bodies = block.map(({ row, entry }) => ({
          ...runBody({ ...row, run: known.get(entry.id) }, entry, sitting, workload, measures),
          id: entry.id,
        }));
        await takeSavedRuns(client, machine.id, sitting.id, await saveRuns(machine.id, bodies));
        // The runs are told to the screen a moment later; until then the entries stand for them.
        await new Promise((shown) => setTimeout(shown));
        dispatch({ kind: "saved", block });
      } catch (error) {
        dispatch({ kind: "failed", block, rows: failedRows(error, positions) });
      } finally {
        positions.forEach((position) => underWay.current.delete(position));
      }
    },
    [machine.id, sitting, workload, measures, client, dispatch],
  );

  /** Records a row that has no typed figure: its run gets them from its trace. */
  const record = async (position: number): Promise<void> => {
    const row = rowsNow()(position);
    const entry = entryOf(row);
    if (isEmptyEntry(row, entry)) await send([{ position, entry, row }]);
    else commit(position);
  };

  useEffect(() => {
    const ready = rows.flatMap((row) => {
      const { entry, position } = row;
      const waits = entry?.ready && !status[position] && !underWay.current.has(position);
      return waits ? [{ position, entry, row }] : [];
    });
    if (ready.length === 0) return;
    const known = new Map(client.getQueryData<Run[]>(query)?.map((run) => [run.id, run]));
    // An empty line of a block, or what was undone before it was sent, is no run.
    const isNothing = ({ row, entry }: (typeof ready)[number]) =>
      isEmptyEntry({ ...row, run: known.get(entry.id) }, entry);
    queueMicrotask(() => {
      const still = ready.filter((placed) => stands(latest.current, placed));
      const empty = still.filter(isNothing);
      const block = still.filter((placed) => !isNothing(placed) && !underWay.current.has(placed.position));
      if (empty.length) dispatch({ kind: "dropped", positions: empty.map(({ position }) => position) });
      if (block.length) void send(block.slice(0, MOST_ROWS));
    });
  }, [rows, status, send, client, query, latest, dispatch]);

  const isLost = Object.values(status).some((each) => each.kind === "lost");
  useEffect(() => {
    if (!isLost) return;
    const timer = setInterval(() => dispatch({ kind: "tried again" }), RETRY_MS);
    return () => clearInterval(timer);
  }, [isLost, dispatch]);

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

/** One save: a row as it is typed, more of them as a block that is saved all or none. */
const saveRuns = (machineId: string, bodies: RunOfBlock[]): Promise<RunsSaved> => {
  const [only] = bodies;
  if (!only || bodies.length > 1) return postRuns(machineId, bodies);
  const { id, ...body } = only;
  return putRun(machineId, id, body);
};

import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";

import {
  type Case,
  Lost,
  type Measure,
  postRuns,
  putRun,
  Refused,
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
  type Entries,
  type Entry,
  fitEntries,
  isEmptyEntry,
  type Row,
  runBody,
  sheetRows,
} from "./model";

const RETRY_MS = 2000;
/** More of them are sent in the next block: so many stay well below what a server takes. */
const MOST_ROWS = 8000;

export type RowStatus =
  | { kind: "sending" }
  | { kind: "lost" }
  | { kind: "refused"; message: string; cells: Record<string, string> };

/** A row whose entry is to be sent. */
interface Typed {
  row: Row;
  entry: Entry;
}

interface Step {
  position: number;
  entry: Entry;
}

/** The run sheet of one workload in one sitting: what is recorded, what is typed, and the sending of it. */
export function useSheet(
  job: Case,
  recorded: Run[],
  sitting: Sitting,
  workload: Workload,
  measures: Measure[],
) {
  const { machine } = job;
  const client = useQueryClient();
  const [entries, setEntries] = useDraft<Entries>(`sheet.${sitting.id}.${workload.id}`, {}, fitEntries);
  const [status, setStatus] = useState<Record<number, RowStatus>>({});
  // What Ctrl Z takes back: a typed row, or all rows of a pasted block at once.
  const [history, setHistory] = useState<Step[][]>([]);
  const underWay = useRef(new Set<number>());
  const latest = useRef(entries);
  useEffect(() => {
    latest.current = entries;
  }, [entries]);

  const query = runsQuery(machine.id, { sitting: [sitting.id] }).queryKey;
  const rowsOf = (known: Run[], typed: Entries) => {
    const runs = known.filter((run) => run.workload === workload.name);
    const plan = planFor(job, sitting.build);
    return sheetRows(runs, typed, plan.runs_a_sitting ?? 5, plan.warm_ups);
  };
  const rows = rowsOf(recorded, entries);

  /** A row as it stands now: what was shown of it may be older than a save that has come back since. */
  const rowAt = (position: number): Row =>
    rowsOf(client.getQueryData<Run[]>(query) ?? recorded, latest.current).find(
      (row) => row.position === position,
    ) ?? { position, warmUp: null, run: undefined, entry: undefined, state: "complete", reason: "" };

  const change = useCallback(
    (next: Entries) => {
      latest.current = next;
      setEntries(next);
    },
    [setEntries],
  );

  const drop = useCallback(
    (positions: number[]) => {
      change(without(latest.current, positions));
      setStatus((all) => without(all, positions));
    },
    [change],
  );

  const entryOf = (row: Row): Entry =>
    latest.current[row.position] ?? {
      id: row.run?.id ?? newId(),
      texts: {},
      state: row.state,
      reason: row.reason,
      ready: false,
    };

  const type = (position: number, measureId: string, text: string) => {
    const entry = entryOf(rowAt(position));
    forgive(position);
    change({
      ...latest.current,
      [position]: { ...entry, ready: false, texts: { ...entry.texts, [measureId]: text } },
    });
  };

  /** What is recorded of the row, as an entry that would bring it back. */
  const remember = (row: Row, id: string): Entry => {
    const recorded = { ...row, entry: undefined };
    const texts = measures.map((measure) => [
      measure.id,
      cellText(recorded, measure.id, machine.decimal_mark),
    ]);
    return {
      id,
      texts: Object.fromEntries(texts) as Entry["texts"],
      state: row.run?.state ?? "complete",
      reason: row.run?.reason ?? "",
      ready: true,
    };
  };

  // What is typed is read from `latest`: one key may commit a row twice, by Enter and by leaving the cell.
  const commit = (position: number, changed: Entry | undefined = latest.current[position]) => {
    if (!changed || changed.ready) return;
    const row = rowAt(position);
    if (isEmptyEntry(row, changed)) return drop([position]);
    forgive(position);
    setHistory((steps) => [...steps, [{ position, entry: remember(row, changed.id) }]]);
    change({ ...latest.current, [position]: { ...changed, ready: true } });
  };

  /** A row that was refused is tried again once it was changed. */
  const forgive = (position: number) =>
    setStatus((all) => (all[position]?.kind === "refused" ? without(all, [position]) : all));

  const mark = (position: number, state: RunState, reason: string) =>
    commit(position, { ...entryOf(rowAt(position)), state, reason, ready: false });

  const paste = (from: number, measureId: string, block: string[][]) => {
    const firstColumn = measures.findIndex((measure) => measure.id === measureId);
    const next = { ...latest.current };
    const steps: Step[] = [];
    block.forEach((cells, offset) => {
      const position = from + offset;
      const row = rowAt(position);
      const entry = entryOf(row);
      const texts = { ...entry.texts };
      cells.forEach((cell, column) => {
        const measure = measures[firstColumn + column];
        if (measure) texts[measure.id] = cell;
      });
      steps.push({ position, entry: remember(row, entry.id) });
      forgive(position);
      next[position] = { ...entry, texts, ready: true };
    });
    setHistory((old) => [...old, steps]);
    change(next);
  };

  const undo = () => {
    const last = history.at(-1);
    if (!last) return;
    setHistory(history.slice(0, -1));
    last.forEach((step) => forgive(step.position));
    const back = last.map((step) => [step.position, { ...step.entry, ready: true }]);
    change({ ...latest.current, ...(Object.fromEntries(back) as Entries) });
  };

  const send = useCallback(
    async (block: Typed[]) => {
      const positions = block.map(({ row }) => row.position);
      positions.forEach((position) => underWay.current.add(position));
      setStatus((all) => ({ ...all, ...each(positions, { kind: "sending" }) }));
      const query = runsQuery(machine.id, { sitting: [sitting.id] }).queryKey;
      try {
        // The cache knows of a save just made before the next render does: its version is the one to build on.
        const known = new Map(client.getQueryData<Run[]>(query)?.map((run) => [run.id, run]));
        const bodies = block.map(({ row, entry }) => ({
          ...runBody({ ...row, run: known.get(entry.id) }, entry, sitting, workload, measures),
          id: entry.id,
        }));
        await takeSavedRuns(client, machine.id, sitting.id, await saveRuns(machine.id, bodies));
        // Typed on while it was sent: that stays an entry of its own.
        const done = block.filter(({ row, entry }) => latest.current[row.position] === entry);
        drop(done.map(({ row }) => row.position));
        setStatus((all) => without(all, positions));
      } catch (error) {
        const failed = failedRows(error, positions);
        setStatus((all) => {
          // Typed on while it was sent: what was refused stands there no more, and what does is to be sent.
          const isGone = ({ row, entry }: Typed) => latest.current[row.position] !== entry;
          const gone = block.filter(isGone).map(({ row }) => row.position);
          return { ...without(all, positions), ...without(failed, gone) };
        });
      } finally {
        positions.forEach((position) => underWay.current.delete(position));
      }
    },
    [machine.id, sitting, workload, measures, client, drop],
  );

  useEffect(() => {
    const known = new Map(client.getQueryData<Run[]>(query)?.map((run) => [run.id, run]));
    const ready = rows.flatMap((row) => {
      const { entry, position } = row;
      const waits = entry?.ready && !status[position] && !underWay.current.has(position);
      return waits ? [{ row, entry }] : [];
    });
    if (ready.length === 0) return;
    // An empty line of a block, or what was undone before it was sent, is no run.
    const isNothing = ({ row, entry }: Typed) => isEmptyEntry({ ...row, run: known.get(entry.id) }, entry);
    queueMicrotask(() => {
      const still = ready.filter(({ row, entry }) => latest.current[row.position] === entry);
      const empty = still.filter(isNothing);
      const block = still.filter((typed) => !isNothing(typed) && !underWay.current.has(typed.row.position));
      if (empty.length) drop(empty.map(({ row }) => row.position));
      if (block.length) void send(block.slice(0, MOST_ROWS));
    });
  }, [rows, status, send, client, query, drop]);

  const isLost = Object.values(status).some((each) => each.kind === "lost");
  useEffect(() => {
    if (!isLost) return;
    const timer = setInterval(
      () =>
        setStatus((all) =>
          Object.fromEntries(Object.entries(all).filter(([, each]) => each.kind !== "lost")),
        ),
      RETRY_MS,
    );
    return () => clearInterval(timer);
  }, [isLost]);

  return { rows, status, isLost, canUndo: history.length > 0, type, commit, mark, paste, undo };
}

export type Sheet = ReturnType<typeof useSheet>;

/** One save: a row as it is typed, more of them as a block that is saved all or none. */
const saveRuns = (machineId: string, bodies: RunOfBlock[]): Promise<RunsSaved> => {
  const [only] = bodies;
  if (!only || bodies.length > 1) return postRuns(machineId, bodies);
  const { id, ...body } = only;
  return putRun(machineId, id, body);
};

const each = (positions: number[], status: RowStatus): Record<number, RowStatus> =>
  Object.fromEntries(positions.map((position) => [position, status]));

function without<T>(all: Record<number, T>, positions: number[]): Record<number, T> {
  const left = Object.entries(all).filter(([position]) => !positions.includes(Number(position)));
  return Object.fromEntries(left);
}

/**
 * What became of the rows of a block that was not saved.
 *
 * Rows that the refusal names are refused; the others have no status, so that they are sent again without them.
 */
export function failedRows(error: unknown, positions: number[]): Record<number, RowStatus> {
  if (error instanceof Lost) return each(positions, { kind: "lost" });
  if (!(error instanceof Refused)) throw error;
  const refused: Record<number, RowStatus> = {};
  positions.forEach((position, number) => {
    const own = positions.length === 1 ? "" : `runs.${number}.`;
    const errors = error.errors.filter(({ field }) => field.startsWith(own));
    if (own && errors.length === 0) return;
    const message = own ? errors.map((problem) => problem.message).join(" ") : error.message;
    const cells = errors.flatMap(({ field, message }) => {
      const [place, measure] = field.slice(own.length).split(".");
      return place === "readings" && measure ? [[measure, message] as const] : [];
    });
    refused[position] = { kind: "refused", message, cells: Object.fromEntries(cells) };
  });
  // One that names no row is about all of them.
  const nobody = Object.keys(refused).length === 0;
  return nobody ? each(positions, { kind: "refused", message: error.message, cells: {} }) : refused;
}

import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";

import {
  type Case,
  Lost,
  type Measure,
  putRun,
  Refused,
  type Run,
  type RunState,
  type Sitting,
  type Workload,
} from "../../api/client";
import { useDraft } from "../../lib/draft";
import { newId } from "../../lib/ids";
import { refreshSoon, runsQuery } from "../machine/api";
import { planFor } from "../machine/model";
import { cellText, type Entries, type Entry, isEmptyEntry, type Row, runBody, sheetRows } from "./model";

const RETRY_MS = 2000;

export type RowStatus =
  | { kind: "sending" }
  | { kind: "lost" }
  | { kind: "refused"; message: string; cells: Record<string, string> };

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
  const [entries, setEntries] = useDraft<Entries>(`sheet.${sitting.id}.${workload.id}`, {});
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
    (position: number) => {
      const rest = { ...latest.current };
      delete rest[position];
      change(rest);
      setStatus((all) => without(all, position));
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
    if (isEmptyEntry(row, changed)) return drop(position);
    forgive(position);
    setHistory((steps) => [...steps, [{ position, entry: remember(row, changed.id) }]]);
    change({ ...latest.current, [position]: { ...changed, ready: true } });
  };

  /** A row that was refused is tried again once it was changed. */
  const forgive = (position: number) =>
    setStatus((all) => (all[position]?.kind === "refused" ? without(all, position) : all));

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
    async (row: Row, entry: Entry) => {
      if (underWay.current.has(row.position)) return;
      underWay.current.add(row.position);
      setStatus((all) => ({ ...all, [row.position]: { kind: "sending" } }));
      const query = runsQuery(machine.id, { sitting: [sitting.id] }).queryKey;
      try {
        // The cache knows of a save just made before the next render does: its version is the one to build on.
        const run = client.getQueryData<Run[]>(query)?.find((each) => each.id === entry.id);
        // An empty line of a block, or what was undone before it was sent, is no run.
        if (isEmptyEntry({ ...row, run }, entry)) {
          if (latest.current[row.position] === entry) drop(row.position);
          return;
        }
        const body = runBody({ ...row, run }, entry, sitting, workload, measures);
        const saved = await putRun(machine.id, entry.id, body);
        // A reading of the runs that is under way would bring back what stood there before this save.
        await client.cancelQueries({ queryKey: query });
        client.setQueryData<Run[]>(
          query,
          (old) => old && [...old.filter((each) => each.id !== saved.id), saved],
        );
        refreshSoon(client, machine.id);
        // Typed on while it was sent: that stays an entry of its own.
        if (latest.current[row.position] === entry) drop(row.position);
        else setStatus((all) => without(all, row.position));
      } catch (error) {
        const failed = statusOf(error);
        // Typed on while it was sent: what was refused stands there no more, and what does is to be sent.
        const isGone = failed.kind === "refused" && latest.current[row.position] !== entry;
        setStatus((all) => (isGone ? without(all, row.position) : { ...all, [row.position]: failed }));
      } finally {
        underWay.current.delete(row.position);
      }
    },
    [machine.id, sitting, workload, measures, client, drop],
  );

  useEffect(() => {
    for (const row of rows) {
      const { entry } = row;
      if (entry?.ready && !status[row.position]) queueMicrotask(() => void send(row, entry));
    }
  }, [rows, status, send]);

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

  return { rows, status, isLost, canUndo: history.length > 0, type, commit, drop, mark, paste, undo };
}

export type Sheet = ReturnType<typeof useSheet>;

function without<T>(all: Record<number, T>, position: number): Record<number, T> {
  const rest = { ...all };
  delete rest[position];
  return rest;
}

function statusOf(error: unknown): RowStatus {
  if (error instanceof Refused) {
    const cells = Object.fromEntries(
      error.errors
        .filter((each) => each.field.startsWith("readings."))
        .map((each) => [each.field.split(".")[1] ?? "", each.message]),
    );
    return { kind: "refused", message: error.message, cells };
  }
  if (error instanceof Lost) return { kind: "lost" };
  throw error;
}

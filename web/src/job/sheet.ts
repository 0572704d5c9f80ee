import { Lost, Refused } from "../api/client";
import type { Entries, Entry } from "./rows";

/** What happens on a run sheet: typing, marking, pasting, taking back, and what becomes of what is sent. */

export type RowStatus =
  | { kind: "sending" }
  | { kind: "lost" }
  | { kind: "refused"; message: string; cells: Record<string, string> };

type Statuses = Record<number, RowStatus>;

/** The entry of a row. */
export interface Placed {
  position: number;
  entry: Entry;
}

/** A row as it is to stand, and what brings back what stood there. */
export interface Change extends Placed {
  before: Entry;
}

export interface SheetState {
  /** What is typed and not saved yet, by position. */
  entries: Entries;
  status: Statuses;
  /** What Ctrl Z takes back: a typed row, or all rows of a pasted block at once. */
  history: Placed[][];
}

/** What the hand at the sheet does. */
type Typing =
  | { kind: "typed"; position: number; entry: Entry; measure: string; text: string }
  | { kind: "noted"; position: number; entry: Entry }
  | { kind: "changed"; changes: Change[] }
  | { kind: "undone"; late: boolean }
  | { kind: "left" }
  | { kind: "sent late"; position: number };

/** What becomes of what was typed. */
type Sending =
  | { kind: "dropped"; positions: number[] }
  | { kind: "sending"; positions: number[] }
  | { kind: "saved"; block: Placed[] }
  | { kind: "failed"; block: Placed[]; rows: Statuses }
  | { kind: "tried again" };

export type SheetAction = Typing | Sending;

export function reduceSheet(state: SheetState, action: SheetAction): SheetState {
  switch (action.kind) {
    case "dropped":
    case "sending":
    case "saved":
    case "failed":
    case "tried again":
      return whenSent(state, action);
    case "typed":
    case "noted":
    case "changed":
    case "undone":
    case "left":
    case "sent late":
      return whenTyped(state, action);
  }
}

function whenTyped(state: SheetState, action: Typing): SheetState {
  switch (action.kind) {
    case "typed": {
      const { position, entry, measure, text } = action;
      const texts = { ...entry.texts, [measure]: text };
      return put(state, [{ position, entry: { ...entry, ready: false, texts } }]);
    }
    case "noted":
      return put(state, [{ position: action.position, entry: { ...action.entry, ready: false } }]);
    case "changed": {
      const ready = action.changes.map(({ position, entry }) => ({
        position,
        entry: { ...entry, ready: true },
      }));
      const back = action.changes.map(({ position, before }) => ({ position, entry: before }));
      return { ...put(state, ready), history: [...state.history, back] };
    }
    case "undone": {
      const last = state.history.at(-1);
      if (!last) return state;
      const back = last.map(({ position, entry }) => ({
        position,
        entry: { ...entry, ready: true, late: action.late },
      }));
      return { ...put(state, back), history: state.history.slice(0, -1) };
    }
    case "left": {
      const typed = Object.entries(state.entries).filter(([, entry]) => !entry.ready && hasText(entry));
      return put(
        state,
        typed.map(([position, entry]) => ({ position: Number(position), entry: { ...entry, ready: true } })),
      );
    }
    case "sent late": {
      const { position } = action;
      const entry = state.entries[position];
      return entry ? put(state, [{ position, entry: { ...entry, ready: true, late: true } }]) : state;
    }
  }
}

function whenSent(state: SheetState, action: Sending): SheetState {
  switch (action.kind) {
    case "dropped":
      return {
        ...state,
        entries: without(state.entries, action.positions),
        status: without(state.status, action.positions),
      };
    case "sending":
      return { ...state, status: { ...state.status, ...each(action.positions, { kind: "sending" }) } };
    case "saved": {
      // Typed on while it was sent: that stays an entry of its own.
      const done = action.block.filter((placed) => isStill(state, placed));
      const rest = without(state.status, positionsOf(action.block));
      return { ...state, status: rest, entries: without(state.entries, positionsOf(done)) };
    }
    case "failed": {
      // Typed on while it was sent: what was refused stands there no more, and what does is to be sent.
      const gone = action.block.filter((placed) => !isStill(state, placed));
      const rest = without(state.status, positionsOf(action.block));
      return { ...state, status: { ...rest, ...without(action.rows, positionsOf(gone)) } };
    }
    case "tried again": {
      const left = Object.entries(state.status).filter(([, status]) => status.kind !== "lost");
      return { ...state, status: Object.fromEntries(left) };
    }
  }
}

/** Whether an entry still stands as it was when it was sent. */
export const isStill = (state: SheetState, { position, entry }: Placed): boolean =>
  state.entries[position] === entry;

/** Whether anything stands in a field of the row. */
export const hasText = ({ texts }: Entry): boolean => Object.values(texts).some((text) => text.trim());

/** Puts entries into their rows; one that was refused is tried again once it was changed. */
function put(state: SheetState, rows: Placed[]): SheetState {
  const refused = positionsOf(rows).filter((position) => state.status[position]?.kind === "refused");
  const placed = rows.map(({ position, entry }) => [position, entry]);
  return {
    ...state,
    status: refused.length ? without(state.status, refused) : state.status,
    entries: { ...state.entries, ...(Object.fromEntries(placed) as Entries) },
  };
}

const positionsOf = (rows: Placed[]): number[] => rows.map(({ position }) => position);

const each = (positions: number[], status: RowStatus): Statuses =>
  Object.fromEntries(positions.map((position) => [position, status]));

function without<T>(all: Record<number, T>, positions: number[]): Record<number, T> {
  const gone = new Set(positions);
  return Object.fromEntries(Object.entries(all).filter(([position]) => !gone.has(Number(position))));
}

/**
 * What became of the rows of a block that was not saved.
 *
 * Rows that the refusal names are refused; the others have no status, so that they are sent again without them.
 */
export function failedRows(error: unknown, positions: number[]): Statuses {
  if (error instanceof Lost) return each(positions, { kind: "lost" });
  if (!(error instanceof Refused)) throw error;
  const refused: Statuses = {};
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

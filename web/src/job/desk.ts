import type { QueryClient } from "@tanstack/react-query";

import {
  call,
  type Case,
  type Run,
  type RunOfBlock,
  type RunsSaved,
  type Sitting,
  type Workload,
} from "../api/client";
import { keepDraft, keptKeys, readKept, whenKept } from "../lib/draft";
import { caseQuery, runsQuery, takeSavedRuns } from "./api";
import { measuresOf, planFor } from "./model";
import {
  countedWith,
  type Entries,
  fitEntries,
  isEmptyEntry,
  type Row,
  runBody,
  runsPlanned,
  sheetRows,
} from "./rows";
import {
  failedRows,
  hasText,
  type Placed,
  reduceSheet,
  type RowStatus,
  type SheetAction,
  type SheetState,
} from "./sheet";

const RETRY_MS = 2000;
/** What another tab typed is sent by that tab; after so long it is taken to be closed. */
const OTHER_TAB_MS = 4000;
/** More of them are sent in the next block: so many stay well below what a server takes. */
const MOST_ROWS = 8000;

/** The sheet of one workload in one sitting of a machine. */
export interface Place {
  machine: string;
  sitting: string;
  workload: string;
}

/** A row that the server does not have yet as it is typed; without a status it is about to be sent. */
export interface Unsent extends Place, Placed {
  status: RowStatus | undefined;
}

/** Runs of a sheet that count by now, and rows that the server refused. */
export interface Counted {
  done: number;
  refused: number;
}

const NOTHING_COUNTED: Counted = { done: 0, refused: 0 };

const keyOf = ({ sitting, workload }: Omit<Place, "machine">): string => `sheet.${sitting}.${workload}`;

/**
 * What is typed on one sheet, and the sending of it, which goes on whether or not the sheet is on the screen.
 *
 * What is typed survives a reload, and is what another tab at the same sheet types.
 */
export class Desk {
  readonly place: Place;
  readonly #client: QueryClient;
  readonly #key: string;
  readonly #listeners = new Set<() => void>();
  readonly #underWay = new Set<number>();
  #ofOtherTab: Entries = {};
  #state: SheetState;
  #retry: ReturnType<typeof setTimeout> | undefined;

  constructor(client: QueryClient, place: Place) {
    this.#client = client;
    this.place = place;
    this.#key = keyOf(place);
    this.#state = { entries: this.#kept(), status: {}, history: [] };
    whenKept(this.#key, () => this.#takeFromOtherTab());
  }

  get state(): SheetState {
    return this.#state;
  }

  readonly subscribe = (listener: () => void): (() => void) => {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  };

  act(action: SheetAction): void {
    const { entries } = this.#state;
    this.#state = reduceSheet(this.#state, action);
    if (this.#state.entries !== entries)
      keepDraft(this.#key, Object.keys(this.#state.entries).length ? this.#state.entries : null);
    this.#tell();
    this.sendSoon();
  }

  /** Sends what is ready, once the one who types has let go of the key. */
  sendSoon(): void {
    queueMicrotask(() => {
      const known = this.#known();
      if (known) this.#sendReady(known);
      else if (this.#ready().length) void this.#learn();
    });
  }

  /** What counts on it, with what is being sent, and what can't be saved; none where the runs are not known here. */
  counted(): Counted {
    const known = this.#known();
    if (!known) return NOTHING_COUNTED;
    const { entries, status } = this.#state;
    const refused = Object.keys(entries).filter((position) => status[Number(position)]?.kind === "refused");
    const rest = Object.fromEntries(
      Object.entries(entries).filter(([position]) => !refused.includes(position)),
    );
    return { done: countedWith(allRows(known, rest), null), refused: refused.length };
  }

  /** Sends rows as they stand, whatever is under way of others. */
  async send(block: Placed[]): Promise<void> {
    const known = this.#known();
    if (!known || block.length === 0) return;
    const { job, sitting, workload, runs } = known;
    const positions = block.map(({ position }) => position);
    positions.forEach((position) => this.#underWay.add(position));
    this.act({ kind: "sending", positions });
    const rowAt = rowsOf(known, this.#state.entries);
    const recorded = new Map(runs.map((run) => [run.id, run]));
    const bodies = block.map(({ position, entry }) => ({
      ...runBody(
        { ...rowAt(position), run: recorded.get(entry.id) },
        entry,
        sitting,
        workload,
        measuresOf(job, workload.name),
      ),
      id: entry.id,
    }));
    try {
      const { machine } = this.place;
      await takeSavedRuns(this.#client, machine, sitting.id, await saveRuns(machine, bodies));
      // The runs are told to the screen a moment later; until then the entries stand for them.
      await new Promise((shown) => setTimeout(shown));
      this.#done(positions, { kind: "saved", block });
    } catch (error) {
      this.#done(positions, { kind: "failed", block, rows: failedRows(error, positions) });
    }
  }

  /** What is typed here and not saved; a label that waits for its figure is none of it. */
  unsent(): Unsent[] {
    return Object.entries(this.#state.entries).flatMap(([key, entry]) => {
      const position = Number(key);
      const holds = entry.ready || entry.state !== "complete" || hasText(entry);
      return holds ? [{ ...this.place, position, entry, status: this.#state.status[position] }] : [];
    });
  }

  #kept(): Entries {
    const kept = readKept(this.#key);
    return (kept === null ? null : fitEntries(kept)) ?? {};
  }

  #takeFromOtherTab(): void {
    this.#ofOtherTab = this.#kept();
    this.#state = { ...this.#state, entries: this.#ofOtherTab };
    this.#tell();
    setTimeout(() => {
      this.#ofOtherTab = {};
      this.sendSoon();
    }, OTHER_TAB_MS);
  }

  #tell(): void {
    this.#listeners.forEach((listener) => listener());
    tellAll();
  }

  #done(positions: number[], action: SheetAction): void {
    positions.forEach((position) => this.#underWay.delete(position));
    this.act(action);
    if (!Object.values(this.#state.status).some(({ kind }) => kind === "lost")) return;
    clearTimeout(this.#retry);
    this.#retry = setTimeout(() => this.act({ kind: "tried again" }), RETRY_MS);
  }

  /** What a save is made of, where this browser has it. */
  #known(): Known | null {
    const { machine, sitting: id, workload: workloadId } = this.place;
    const job = this.#client.getQueryData<Case>(caseQuery(machine).queryKey);
    const sitting = job?.sittings.find((known) => known.id === id);
    const workload = job?.workloads.find((known) => known.id === workloadId);
    const { queryKey } = runsQuery(machine, { sitting: [id] });
    // Runs that no screen shows may be older than a save of another device.
    const isFollowed = this.#client.getQueryCache().find({ queryKey })?.isActive() ?? false;
    const runs = isFollowed || this.#isFresh ? this.#client.getQueryData<Run[]>(queryKey) : undefined;
    return job && sitting && workload && runs ? { job, sitting, workload, runs } : null;
  }
  #isFresh = false;

  /** Asks for what a save is made of, and sends then. */
  async #learn(): Promise<void> {
    const { machine, sitting } = this.place;
    const positions = this.#ready().map(({ position }) => position);
    positions.forEach((position) => this.#underWay.add(position));
    try {
      await this.#client.ensureQueryData(caseQuery(machine));
      await this.#client.fetchQuery(runsQuery(machine, { sitting: [sitting] }));
    } catch (error) {
      const block = positions.flatMap((position) => {
        const entry = this.#state.entries[position];
        return entry ? [{ position, entry }] : [];
      });
      return this.#done(positions, { kind: "failed", block, rows: failedRows(error, positions) });
    }
    positions.forEach((position) => this.#underWay.delete(position));
    this.#isFresh = true;
    const known = this.#known();
    if (known) this.#sendReady(known);
    this.#isFresh = false;
  }

  #ready(): Placed[] {
    return Object.entries(this.#state.entries).flatMap(([key, entry]) => {
      const position = Number(key);
      const waits = entry.ready && !this.#state.status[position] && !this.#underWay.has(position);
      return waits && this.#ofOtherTab[position] !== entry ? [{ position, entry }] : [];
    });
  }

  #sendReady(known: Known): void {
    const isClosed = known.sitting.closed_at !== null;
    const recorded = new Map(known.runs.map((run) => [run.id, run]));
    const rowAt = rowsOf(known, this.#state.entries);
    // An empty line of a block, or what was undone before it was sent, is no run.
    const isNothing = ({ position, entry }: Placed) =>
      isEmptyEntry({ ...rowAt(position), run: recorded.get(entry.id) }, entry);
    const ready = this.#ready().filter(({ entry }) => entry.late || !isClosed);
    const empty = ready.filter(isNothing);
    if (empty.length) this.act({ kind: "dropped", positions: empty.map(({ position }) => position) });
    void this.send(ready.filter((placed) => !isNothing(placed)).slice(0, MOST_ROWS));
  }
}

interface Known {
  job: Case;
  sitting: Sitting;
  workload: Workload;
  runs: Run[];
}

function allRows({ job, sitting, workload, runs }: Known, entries: Entries): Row[] {
  const plan = planFor(job, sitting.build);
  const own = runs.filter((run) => run.workload === workload.name);
  const planned = runsPlanned(plan, workload);
  return sheetRows(own, entries, planned, plan.warm_ups, sitting.closed_at !== null);
}

/** The rows of a sheet by their position. */
function rowsOf(known: Known, entries: Entries): (position: number) => Row {
  const placed = new Map(allRows(known, entries).map((row) => [row.position, row]));
  const none = { warmUp: null, run: undefined, entry: undefined, state: "complete", reason: "" } as const;
  return (position) => placed.get(position) ?? { position, ...none };
}

/** One save: a row as it is typed, more of them as a block that is saved all or none. */
const saveRuns = (machineId: string, bodies: RunOfBlock[]): Promise<RunsSaved> => {
  const [only] = bodies;
  if (!only || bodies.length > 1)
    return call("post", "/api/machines/{machine_id}/runs", { machine_id: machineId }, { runs: bodies });
  const { id, ...body } = only;
  return call("put", "/api/machines/{machine_id}/runs/{run_id}", { machine_id: machineId, run_id: id }, body);
};

const desks = new Map<string, Desk>();
const listeners = new Set<() => void>();
let changes = 0;

const tellAll = (): void => {
  changes += 1;
  listeners.forEach((listener) => listener());
};

/** The desk of a sheet; there is one of each, for as long as the page lives. */
export function deskAt(client: QueryClient, place: Place): Desk {
  const key = keyOf(place);
  const desk = desks.get(key) ?? new Desk(client, place);
  desks.set(key, desk);
  return desk;
}

/** What counts on a sheet by now, with what is typed and being sent. */
export const countedAt = (place: Omit<Place, "machine">): Counted =>
  desks.get(keyOf(place))?.counted() ?? NOTHING_COUNTED;

/** Takes up what an earlier page of this browser left unsent of a machine. */
export function takeUp(client: QueryClient, job: Case): void {
  const left = new Set(keptKeys("sheet."));
  for (const sitting of job.sittings)
    for (const workload of job.workloads) {
      const place = { machine: job.machine.id, sitting: sitting.id, workload: workload.id };
      if (left.has(keyOf(place))) deskAt(client, place).sendSoon();
    }
}

/** Follows every desk; `changesOfDesks` tells whether anything was done on one. */
export const followDesks = (listener: () => void): (() => void) => {
  listeners.add(listener);
  return () => listeners.delete(listener);
};
export const changesOfDesks = (): number => changes;

/** What is typed in these sittings and not saved yet. */
export const unsentIn = (sittings: readonly string[]): Unsent[] =>
  [...desks.values()]
    .filter(({ place }) => sittings.includes(place.sitting))
    .flatMap((desk) => desk.unsent());

import { describe, expect, it } from "vitest";

import { Lost, Refused } from "../api/client";
import type { Entry } from "./rows";
import { failedRows, reduceSheet, type SheetAction, type SheetState } from "./sheet";

const refusal = (...fields: [string, string][]) =>
  new Refused(
    422,
    "several",
    fields.map(([, message]) => message).join(" "),
    fields.map(([field, message]) => ({ field, code: "bad_value", message })),
  );

describe("what becomes of the rows of a block that was not saved", () => {
  it("refuses the rows that are named, and leaves the others to be sent again", () => {
    const error = refusal(["runs.1.readings.t", "“quick” is no number."], ["runs.10.position", "Taken."]);
    const positions = Array.from({ length: 11 }, (_, index) => index + 1);
    expect(failedRows(error, positions)).toEqual({
      2: { kind: "refused", message: "“quick” is no number.", cells: { t: "“quick” is no number." } },
      11: { kind: "refused", message: "Taken.", cells: {} },
    });
  });
  it("takes every field of a single row for its own", () => {
    const error = refusal(["readings.t", "“quick” is no number."], ["reason", "Say why."]);
    expect(failedRows(error, [4])).toEqual({
      4: {
        kind: "refused",
        message: "“quick” is no number. Say why.",
        cells: { t: "“quick” is no number." },
      },
    });
  });
  it("refuses all where none is named, and waits with all while the server is away", () => {
    const gone = new Refused(404, "missing", "There is no such machine.", []);
    const all = { kind: "refused", message: "There is no such machine.", cells: {} };
    expect(failedRows(gone, [1, 2])).toEqual({ 1: all, 2: all });
    expect(failedRows(new Lost(), [1, 2])).toEqual({ 1: { kind: "lost" }, 2: { kind: "lost" } });
    expect(() => failedRows(new TypeError("a bug"), [1])).toThrow("a bug");
  });
});

describe("a run sheet", () => {
  const empty: SheetState = { entries: {}, status: {}, history: [] };
  const entry = (text: string, ready = false): Entry => ({
    id: "r",
    texts: { t: text },
    state: "complete",
    reason: "",
    noted: {},
    marks: {},
    ready,
    late: false,
  });
  const after = (state: SheetState, ...actions: SheetAction[]) => actions.reduce(reduceSheet, state);
  const placed = (state: SheetState, position: number) => {
    const kept = state.entries[position];
    if (!kept) throw new Error(`nothing stands at ${position}`);
    return [{ position, entry: kept }];
  };
  const typed = (position: number, text: string): SheetAction => ({
    kind: "typed",
    position,
    entry: entry(""),
    measure: "t",
    text,
  });
  const changed = (...positions: number[]): SheetAction => ({
    kind: "changed",
    changes: positions.map((position) => ({ position, entry: entry("41.9"), before: entry("") })),
  });

  it("holds what is typed back until the row is left", () => {
    const state = after(empty, typed(1, "41.9"));
    expect(state.entries[1]).toMatchObject({ texts: { t: "41.9" }, ready: false, late: false });
    expect(after(state, changed(1)).entries[1]?.ready).toBe(true);
  });
  it("takes a pasted block back at once, one step after the other", () => {
    const state = after(empty, changed(1), changed(2, 3));
    const once = after(state, { kind: "undone", late: false });
    expect([1, 2, 3].map((position) => once.entries[position]?.texts["t"])).toEqual(["41.9", "", ""]);
    expect(after(once, { kind: "undone", late: false }, { kind: "undone", late: false }).history).toEqual([]);
    // What was saved meanwhile is taken back by being sent once more.
    expect([2, 3].map((position) => once.entries[position]?.ready)).toEqual([true, true]);
  });
  it("lets go of what was saved, but for what was typed on meanwhile", () => {
    const sent = after(empty, changed(1, 2));
    const block = [...placed(sent, 1), ...placed(sent, 2)];
    const state = after(sent, { kind: "sending", positions: [1, 2] }, typed(2, "42.0"), {
      kind: "saved",
      block,
    });
    expect(Object.keys(state.entries)).toEqual(["2"]);
    expect(state.status).toEqual({});
  });
  it("keeps a refusal until its row is changed, and drops one of a row that was typed on", () => {
    const sent = after(empty, changed(1, 2));
    const block = [...placed(sent, 1), ...placed(sent, 2)];
    const refused = { kind: "refused", message: "no", cells: {} } as const;
    const state = after(sent, typed(2, "42.0"), { kind: "failed", block, rows: { 1: refused, 2: refused } });
    expect(Object.keys(state.status)).toEqual(["1"]);
    expect(after(state, typed(1, "41.8")).status).toEqual({});
  });
  it("holds what was noted back too, and takes the row's own entry", () => {
    const state = after(empty, { kind: "noted", position: 4, entry: entry("41.9", true) });
    expect(state.entries[4]).toMatchObject({ texts: { t: "41.9" }, ready: false, late: false });
  });
  it("tries again what was lost, and nothing else", () => {
    const sent = after(empty, changed(1, 2));
    const lost: SheetState = { ...sent, status: { 1: { kind: "lost" }, 2: { kind: "sending" } } };
    expect(after(lost, { kind: "tried again" }).status).toEqual({ 2: { kind: "sending" } });
  });
  it("sends what is left typed, and what a closed sitting kept out only once that is said", () => {
    const state = after(empty, typed(1, "41.9"), { kind: "noted", position: 2, entry: entry("") });
    const left = after(state, { kind: "left" });
    expect(left.entries[1]?.ready).toBe(true);
    expect(left.entries[2]?.ready).toBe(false);
    expect(left.entries[1]?.late).toBe(false);
    const late = after(left, { kind: "sent late", position: 1 });
    expect(late.entries[1]).toMatchObject({ ready: true, late: true });
    expect(after(left, { kind: "sent late", position: 7 })).toEqual(left);
  });
});

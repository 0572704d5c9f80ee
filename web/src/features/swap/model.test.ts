import { describe, expect, it } from "vitest";

import type { Build, Candidate, Case, Part, Swap, Vocabulary } from "../../api/client";
import {
  branchFrom,
  canSplit,
  canSwap,
  declaresOf,
  fitCandidate,
  newSwap,
  partsAfter,
  partsOut,
  recordedBody,
  sayChanges,
  suggestLabel,
  swapBody,
  tickSides,
  wordsOf,
} from "./model";

const before = {
  id: "b",
  letter: "B",
  label: "Fresh paste",
  settings: { threads: 4 },
  parts: [
    { id: "p1", role: "processor", label: "Varro 4-core", rated: {} },
    { id: "p2", role: "drive", label: "Siskin", rated: { lanes: 4 } },
  ],
} as unknown as Build;

const vocabulary = {
  parts: {
    processor: [{ key: "cores", label: "cores", kind: "count", unit: "", words: ["cores"] }],
    drive: [],
  },
  fresh_paste: "Fresh paste",
  settings: [{ key: "threads", label: "threads", kind: "count", unit: "", words: [] }],
  limits: [],
  conditions: [],
} as unknown as Vocabulary;

function exchanged() {
  const draft = newSwap(before, "EUR", ".");
  const [first, ...rest] = draft.exchanges;
  return { ...draft, exchanges: first ? [{ ...first, out: true, label: "Varro 6-core" }, ...rest] : rest };
}

describe("a swap", () => {
  it("keeps the parts that stay, as they were recorded", () => {
    expect(partsAfter(exchanged(), vocabulary, ".").map((part) => part.label)).toEqual([
      "Varro 6-core",
      "Siskin",
    ]);
    expect(partsAfter(exchanged(), vocabulary, ".")[1]).toBe(before.parts[1]);
  });
  it("that is compared with an earlier build keeps what is fitted now", () => {
    const fitted = {
      ...before,
      id: "c",
      settings: { threads: 12 },
      parts: [
        { id: "p3", role: "processor", label: "Varro 6-core", rated: { cores: 6 } },
        before.parts[1],
        { id: "p4", role: "memory", label: "Marl 16 GB", rated: {} },
      ],
    } as unknown as Build;
    const draft = branchFrom(before, fitted, "EUR", vocabulary, ".");
    expect(partsAfter(draft, vocabulary, ".")).toEqual([
      ...[fitted.parts[0], fitted.parts[1], fitted.parts[2]],
    ]);
    expect(draft.settings).toEqual([{ name: "threads", value: "12" }]);
  });
  it("where time alone passed leads to the same machine, worn", () => {
    const passed = tickSides(newSwap(before, "EUR", "."), ["time passed"]);
    const { after_build: after, side_changes } = swapBody(passed, before, ".", vocabulary);
    expect([after?.wear, side_changes]).toEqual(["worn", ["time passed"]]);
    expect(tickSides({ ...passed, wear: "" }, ["time passed", "dust-out"]).wear).toBe("");
  });
  it("names itself by what goes in, until it is given a name", () => {
    expect(swapBody(exchanged(), before, ".", vocabulary).label).toBe("Varro 6-core");
    expect(swapBody({ ...exchanged(), label: "Processor" }, before, ".", vocabulary).label).toBe("Processor");
  });
  it("declares what it changes on purpose: parts by their role, settings by name", () => {
    const draft = { ...exchanged(), settings: [{ name: "threads", value: "12" }] };
    expect(declaresOf(draft, before, ".")).toEqual(["part:processor", "setting:threads"]);
    expect(declaresOf({ ...newSwap(before, "EUR", "."), settings: [] }, before, ".")).toEqual([
      "setting:threads",
    ]);
    expect(declaresOf(newSwap(before, "EUR", "."), before, ".")).toEqual([]);
  });
  it("reads the new part's figures, and describes no build where it goes back to one", () => {
    const [first, ...rest] = exchanged().exchanges;
    const draft = { ...exchanged(), exchanges: first ? [{ ...first, figures: "6 cores" }, ...rest] : rest };
    expect(partsAfter(draft, vocabulary, ".")[0]?.rated).toEqual({ cores: 6 });
    const back = swapBody({ ...newSwap(before, "EUR", "."), backTo: "a" }, before, ".", vocabulary);
    expect(back).toMatchObject({ after: "a", label: "Back to an earlier build" });
    expect(back.after_build).toBeUndefined();
  });
  it("says what changes, and warns of a bundle", () => {
    expect(sayChanges(newSwap(before, "EUR", "."), before, ".")).toContain("nothing changes yet");
    expect(sayChanges(exchanged(), before, ".")).toBe("From build B: processor.");
    const gone = newSwap(before, "EUR", ".", "drive");
    expect([sayChanges(gone, before, "."), suggestLabel(gone)]).toEqual([
      "From build B: drive out, none in.",
      "Without the drive",
    ]);
    expect(sayChanges({ ...exchanged(), sideChanges: ["dust-out"] }, before, ".")).toContain(
      "belong to the bundle",
    );
  });
});

describe("a swap that a plan was made for", () => {
  it("takes the part of its kind out where there is one alone, and adds one where there is none", () => {
    const out = (change: Parameters<typeof newSwap>[3]) => {
      const draft = newSwap(before, "EUR", ".", change);
      return [
        draft.exchanges.filter((exchange) => exchange.out).map(({ part }) => part.id),
        draft.added.map(({ role }) => role),
        draft.sideChanges,
      ];
    };
    expect(out("drive")).toEqual([["p2"], [], []]);
    expect(out("memory")).toEqual([[], ["memory"], []]);
    expect(out("cleaning")).toEqual([[], [], ["dust-out"]]);
    // Of the parts that are none of the usual ones none is meant, nor of several at once.
    expect([out("several"), out("other")]).toEqual([
      [[], [], []],
      [[], [], []],
    ]);
    expect(out(null)).toEqual([[], [], []]);
    const drives = { ...before, parts: [...before.parts, { ...before.parts[1]!, id: "p3" }] };
    const both = newSwap(drives, "CHF", ".", "drive");
    expect([both.exchanges.some((exchange) => exchange.out), both.added]).toEqual([false, []]);
    expect(both.costs).toMatchObject([{ kind: "part", currency: "CHF" }]);
  });
  it("never leaves a cooler dry: fresh paste goes in where paste comes out and nothing is named", () => {
    const paste = { id: "p9", role: "thermal paste", label: "Old paste", rated: { applied: "2021" } } as Part;
    const pasted = { ...before, parts: [...before.parts, paste] };
    const planned = newSwap(pasted, "EUR", ".", "thermal paste");
    const [, , into] = partsAfter(planned, vocabulary, ".");
    expect(into).toMatchObject({ role: "thermal paste", label: "Fresh paste", rated: {} });
    const ticked = tickSides(newSwap(pasted, "EUR", "."), ["fresh paste"]);
    expect(partsAfter(ticked, vocabulary, ".")[2]).toMatchObject({ label: "Fresh paste" });
    expect(sayChanges(ticked, pasted, ".")).toBe("From build B: thermal paste.");
    expect(partsAfter(tickSides(ticked, []), vocabulary, ".")[2]).toEqual(paste);
  });
  it("fits a candidate: its part comes in where one of its kind comes out, at its price", () => {
    const candidate = {
      ...{ role: "processor", label: "Varro 6-core", price: "118.00", price_low: "110.00", price_high: null },
      basis: "used",
    } as unknown as Candidate;
    const draft = fitCandidate(exchanged(), candidate, "6 cores", ",");
    expect(draft.exchanges.map(({ out, label, figures }) => [out, label, figures])).toEqual([
      [true, "Varro 6-core", "6 cores"],
      [false, "", ""],
    ]);
    expect(draft.added).toEqual([]);
    expect(draft.costs).toMatchObject([
      { label: "Varro 6-core", amount: "118,00", low: "110,00", high: "", basis: "used" },
    ]);
    const memory = fitCandidate(exchanged(), { ...candidate, role: "memory" }, "16 GB", ".");
    expect(memory.exchanges.some((exchange) => exchange.out)).toBe(false);
    expect(memory.added).toMatchObject([{ role: "memory", label: "Varro 6-core", figures: "16 GB" }]);
    expect(fitCandidate({ ...exchanged(), costs: [] }, candidate, "", ".").costs).toEqual([]);
  });
});

describe("the words of a swap", () => {
  it("say on its way whether the machine is opened for it", () => {
    const [opened, flipped] = [wordsOf({ opens: true }), wordsOf({ opens: false })];
    expect([opened.begin, opened.close, opened.underWay]).toEqual([
      ...["Open the case", "Close the case, and measure", "The case is open"],
    ]);
    expect([flipped.begin, flipped.close, flipped.underWay]).toEqual([
      ...["Make the change", "It is made: measure", "The change is being made"],
    ]);
    expect([opened.missing, flipped.missing]).toEqual([
      "Before the old part leaves, this is still missing:",
      "Before the change, this is still missing:",
    ]);
    expect([opened.ready, flipped.ready]).toEqual(["The old part may leave.", "The change can be made."]);
    expect([opened.reopen, flipped.reopen]).toEqual(["Open the case again", "Go back to the change"]);
  });
  it("count what is added and what is set, and suggest a name", () => {
    const draft = { ...newSwap(before, "EUR", "."), settings: [{ name: "threads", value: "12" }] };
    expect(sayChanges(draft, before, ".")).toBe("From build B: settings.");
    const added = { ...draft, added: [{ id: "n", role: "memory" as const, label: "Marl", figures: "" }] };
    expect(sayChanges(added, before, ".")).toContain(
      "From build B: added memory, settings. Changed together",
    );
    expect([suggestLabel(draft), suggestLabel(added)]).toEqual(["Settings changed", "Marl"]);
    expect(suggestLabel({ ...draft, sideChanges: ["dust-out"] })).toBe("dust-out");
    expect(sayChanges({ ...draft, backTo: "a" }, before, ".")).toBe("From build B back to an earlier one.");
  });
});

describe("a recorded swap", () => {
  const after = { id: "c", sealed: false, parts: [before.parts[1]] };
  const job = { builds: [{ ...before, sealed: true }, after], fitted: "b" } as unknown as Case;
  const swap = { before: "b", after: "c", state: "open", version: 4, opens: true } as unknown as Swap;
  it("knows which parts came out", () => {
    expect(partsOut(job, swap).map(({ id }) => id)).toEqual(["p1"]);
    expect(partsOut(job, { before: "gone", after: "c" })).toEqual([]);
  });
  it("may begin on a measured build, and be split until it is closed or measured", () => {
    expect([canSwap(job), canSwap({ ...job, fitted: "c" }), canSwap({ ...job, fitted: null })]).toEqual([
      ...[true, false, false],
    ]);
    expect([canSplit(job, swap, 2), canSplit(job, swap, 1)]).toEqual([true, false]);
    expect(canSplit(job, { ...swap, state: "closed" }, 2)).toBe(false);
    expect(canSplit(job, { ...swap, after: "b" }, 2)).toBe(false);
  });
  it("is sent as it stands, and no more of it", () => {
    const recorded = { ...swap, label: "x", side_changes: [], costs: [], declares: [] };
    expect(Object.keys(recordedBody(recorded)).sort()).toEqual([
      ...["after", "before", "costs", "declares", "label", "side_changes", "version"],
    ]);
  });
});

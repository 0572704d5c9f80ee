import { describe, expect, it } from "vitest";

import type { Build, Vocabulary } from "../../api/client";
import { branchFrom, declaresOf, newSwap, partsAfter, sayChanges, swapBody, tickSides } from "./model";

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
    const standing = {
      ...before,
      id: "c",
      settings: { threads: 12 },
      parts: [
        { id: "p3", role: "processor", label: "Varro 6-core", rated: { cores: 6 } },
        before.parts[1],
        { id: "p4", role: "memory", label: "Marl 16 GB", rated: {} },
      ],
    } as unknown as Build;
    const draft = branchFrom(before, standing, "EUR", vocabulary, ".");
    expect(partsAfter(draft, vocabulary, ".")).toEqual([
      ...[standing.parts[0], standing.parts[1], standing.parts[2]],
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
    expect(sayChanges({ ...exchanged(), sideChanges: ["dust-out"] }, before, ".")).toContain(
      "belong to the bundle",
    );
  });
});

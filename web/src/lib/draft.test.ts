import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { fitDraft, keepDraft, readKept } from "./draft";

const empty = {
  name: "",
  runs: 5,
  version: null as number | null,
  parts: [{ id: "a", label: "" }],
  limits: {},
};

describe("a draft that was kept by another program or damaged", () => {
  it("is taken as it is where it fits", () => {
    const typed = { ...empty, name: "Plotting PC", version: 3, parts: [{ id: "b", label: "Varro" }] };
    expect(fitDraft(empty, typed)).toEqual(typed);
    expect(fitDraft(empty, { ...typed, limits: { slots: "4" } })?.limits).toEqual({ slots: "4" });
  });
  it("keeps what was typed where the form has grown by a field", () => {
    const { runs, ...older } = empty;
    expect(fitDraft(empty, { ...older, name: "typed" })).toEqual({ ...empty, name: "typed", runs });
  });
  it("falls back field by field where one is of another kind", () => {
    const damaged = { ...empty, name: "typed", runs: "five", parts: [{ id: 7 }] };
    expect(fitDraft(empty, damaged)).toEqual({ ...empty, name: "typed" });
  });
  it("is nothing where nothing of it can be used", () => {
    expect(fitDraft(empty, ["name"])).toBeNull();
    expect(fitDraft("", { text: "typed" })).toBeNull();
    expect(fitDraft("", "typed")).toBe("typed");
  });
});

describe("what is kept in the browser's storage", () => {
  const storage = new Map<string, string>();
  beforeEach(() => {
    storage.clear();
    vi.stubGlobal("localStorage", {
      getItem: (key: string) => storage.get(key) ?? null,
      setItem: (key: string, text: string) => storage.set(key, text),
      removeItem: (key: string) => storage.delete(key),
    });
  });
  afterEach(() => {
    vi.unstubAllGlobals();
  });
  const put = (value: unknown) => storage.set("lynxbill.draft.form", JSON.stringify(value));

  it("comes back as it was typed, and is gone once it is dropped", () => {
    keepDraft("form", { name: "typed" });
    expect(readKept("form")).toEqual({ name: "typed" });
    expect(readKept("another")).toBeNull();
    keepDraft("form", null);
    expect(storage.size).toBe(0);
  });
  it("is not understood where a later program wrote it, nor where it is no JSON", () => {
    put({ shape: 3, draft: { name: "typed" } });
    expect(readKept("form")).toBeNull();
    storage.set("lynxbill.draft.form", "{");
    expect(readKept("form")).toBeNull();
  });
  it("is read under the names of today where it was kept under older ones", () => {
    put({ shape: 1, draft: { fitSaid: "fits", parts: [{ fitSaid: "said so" }] } });
    expect(readKept("form")).toEqual({ fitAnswer: "fits", parts: [{ fitAnswer: "said so" }] });
  });
  it("is taken bare as it stood before drafts had a shape", () => {
    put({ name: "typed", shape: "round" });
    expect(readKept("form")).toEqual({ name: "typed", shape: "round" });
  });
});

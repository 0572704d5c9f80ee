import { describe, expect, it } from "vitest";

import { fitDraft } from "./draft";

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

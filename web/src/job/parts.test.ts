import { describe, expect, it } from "vitest";

import type { Build, Part, Vocabulary } from "../api/client";
import { partDrafts, partName, partsOf, settingDrafts, USUAL_ROLES, usualParts, valuesOf } from "./parts";

const FIGURES = [
  { key: "cores", kind: "count", words: ["cores"], unit: "", label: "cores" },
  { key: "boost_ghz", kind: "number", words: ["GHz boost"], unit: "GHz", label: "boost" },
];
const VOCABULARY = { parts: { processor: FIGURES, memory: [] } } as unknown as Vocabulary;
const part = (id: string, label: string, fields: Partial<Part> = {}): Part => ({
  id,
  role: "memory",
  label,
  rated: {},
  ...fields,
});

describe("parts as they are typed", () => {
  it("begin with those that every PC has, each under an id of its own", () => {
    const drafts = usualParts();
    expect(drafts.map(({ role }) => role)).toEqual(USUAL_ROLES);
    expect(new Set(drafts.map(({ id }) => id)).size).toBe(USUAL_ROLES.length);
  });
  it("come back as they were recorded, with either decimal mark", () => {
    const rated = { cores: 6, boost_ghz: 3.9 };
    const build = { parts: [part("1", "Varro 6-core", { role: "processor", rated })] } as Build;
    for (const mark of [".", ","] as const) {
      const drafts = partDrafts(build, VOCABULARY, mark);
      expect(drafts[0]?.figures).toBe(`6 cores, 3${mark}9 GHz boost`);
      expect(partsOf(drafts, VOCABULARY, mark)).toEqual(build.parts);
    }
  });
  it("are saved where they have a label; what has none stays unknown", () => {
    const drafts = usualParts().map((draft, index) =>
      index ? draft : { ...draft, label: " Varro 4-core " },
    );
    expect(partsOf(drafts, VOCABULARY, ".").map(({ label }) => label)).toEqual(["Varro 4-core"]);
  });
  it("are told apart by number where they are alike", () => {
    const [one, other] = [part("1", "Oln 8 GB"), part("2", "Oln 8 GB")];
    const parts = [one, other, part("3", "Oln 4 GB"), part("4", "Oln 8 GB", { role: "drive" })];
    expect(parts.map((each) => partName(each, parts))).toEqual([
      "Oln 8 GB · 1 of 2",
      "Oln 8 GB · 2 of 2",
      "Oln 4 GB",
      "Oln 8 GB",
    ]);
  });
});

describe("settings as they are typed", () => {
  it("are saved by their names, numbers as numbers, and empty ones not at all", () => {
    const figures = [{ key: "power_limit_w", kind: "number", words: ["W"], unit: "W", label: "power limit" }];
    const drafts = [
      { name: " power_limit_w ", value: "65" },
      { name: "fan_mode", value: "quiet" },
      { name: "firmware", value: "" },
      { name: "", value: "lost" },
    ];
    expect(valuesOf(drafts, figures as never, ".")).toEqual({ power_limit_w: 65, fan_mode: "quiet" });
    expect(settingDrafts({ power_limit_w: 65.5 }, ",")).toEqual([{ name: "power_limit_w", value: "65,5" }]);
  });
});

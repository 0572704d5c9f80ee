import { describe, expect, it } from "vitest";

import { emptyStart, emptyTimed, firstFigure, readStart, sayAmount, sayMargin } from "./model";

const draft = {
  ...emptyStart(),
  name: "Bench PC",
  timed: [
    { ...emptyTimed("claim"), name: "Render the tiles" },
    { ...emptyTimed("control", "rate"), name: "Long read" },
    emptyTimed(),
  ],
};

describe("a job that is begun", () => {
  it("sends what was named, with the measure that its figure stands for, and leaves empty rows out", () => {
    const read = readStart(draft, false, "UTC");
    expect("body" in read && read.body.timed).toMatchObject([
      { measure: { name: "Render the tiles", unit: "s", kind: "time", better: "lower" }, role: "claim" },
      { measure: { name: "Long read", unit: "MBy/s", kind: "rate", better: "higher" }, role: "control" },
    ]);
    expect("body" in read && read.body).toMatchObject({
      sittings_a_side: 3,
      runs_a_sitting: 5,
      matters_from: null,
    });
  });
  it("names every field that is wrong at once", () => {
    const wrong = { ...draft, name: " ", timed: [emptyTimed("claim")], sittings: "0", hoped: "much" };
    const read = readStart(wrong, false, "UTC");
    expect("problems" in read && Object.keys(read.problems).sort()).toEqual([
      "hoped",
      "name",
      "sittings",
      "timed.0.name",
    ]);
  });
  it("reads figures by the machine's decimal mark", () => {
    const read = readStart({ ...draft, mark: ",", matters: "1,5" }, true, "UTC");
    expect("body" in read && [read.body.matters_from, read.body.quick]).toEqual([1.5, true]);
  });
  it("begins with heat where something cools, and says margins in the figure's unit", () => {
    expect([firstFigure("thermal paste"), firstFigure("memory")]).toEqual(["heat", "time"]);
    const margins = { "difference heat": 1, "ratio time": 2 };
    expect(sayMargin({ ...draft, timed: [emptyTimed("claim", "heat")] }, margins)).toBe("1 K");
    expect(sayMargin(draft, margins)).toBe("2 %");
    expect(sayMargin({ ...draft, matters: "1.5" }, margins)).toBe("1.5 %");
  });
  it("says that the sides take turns where a change can be flipped back", () => {
    expect(sayAmount({ ...draft, change: "settings" }).join(", ")).toContain("the sides taking turns");
    expect(sayAmount(draft)[0]).toBe("3 sittings a side");
  });
});

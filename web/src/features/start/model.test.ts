import { describe, expect, it } from "vitest";

import {
  CHANGES,
  emptyStart,
  emptyTimed,
  firstFigure,
  marginUnit,
  readStart,
  sayAmount,
  sayMargin,
} from "./model";

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

describe("what can be changed", () => {
  it("is offered in trade words, each with what goes along", () => {
    expect(CHANGES.map(({ value, name }) => `${value}: ${name}`)).toEqual([
      ...["processor: Processor", "memory: Memory", "drive: Drive", "thermal paste: Thermal paste"],
      ...["cooler: Cooler", "cleaning: Cleaning", "settings: A setting", "several: Several at once"],
    ]);
    expect(CHANGES.every(({ hint }) => hint.length > 5)).toBe(true);
  });
  it("says each wrong field in words, and reads none of them as something else", () => {
    const wrong = { ...draft, name: "", timed: [], runs: "2.5", sittings: "x", matters: "0", hoped: "-1" };
    const read = readStart(wrong, false, "UTC");
    expect("problems" in read && read.problems).toEqual({
      name: "Name the machine, so that it is found again.",
      "timed.0.name": "Name the task that is to be timed.",
      runs: "Write a whole number, 1 or more.",
      sittings: "Write a whole number, 1 or more.",
      matters: "Write a number above zero; the decimal mark here is “.”.",
      hoped: "Write a number above zero; the decimal mark here is “.”.",
    });
  });
  it("is sent with the machine as it was described", () => {
    const read = readStart({ ...draft, currency: " chf ", hurts: "Why so slow?", hoped: "25" }, false, "UTC");
    expect("body" in read && read.body).toMatchObject({
      machine: {
        name: "Bench PC",
        question: "Why so slow?",
        currency: "CHF",
        time_zone: "UTC",
        version: null,
      },
      ...{ build: draft.build, build_label: "As received", change: "processor", hoped_for: 25, quick: false },
    });
  });
  it("has its margin in the unit of its first figure", () => {
    const of = (figure: Parameters<typeof emptyTimed>[1]) =>
      marginUnit({ ...draft, timed: [emptyTimed("claim", figure)] });
    expect([of("heat"), of("noise"), of("time"), marginUnit({ ...draft, timed: [] })]).toEqual([
      ...["K", "dB", "%", "%"],
    ]);
    expect(sayAmount({ ...draft, sittings: "", runs: "1" })).toEqual([
      "1 sitting a side",
      "1 run of each task, a restart between, all of the old part first.",
    ]);
  });
});

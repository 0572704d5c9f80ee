import { describe, expect, it } from "vitest";

import type { Figure, Measure, Run } from "../../../api/client";
import { notesDraft, readNotes, sayNotes, usualLabel } from "./notes";

const figures = [
  { key: "ambient_c", label: "room", kind: "number", unit: "°C", words: [], possible: null },
  { key: "drive_firmware", label: "drive firmware", kind: "text", unit: "", words: [], possible: null },
] as Figure[];
const run = {
  ...{ id: "r", workload: "Stitch", sitting: "s1", position: 2, pair_label: "set 3", held_back: "heat" },
  ...{
    duration_s: 90,
    soak_s: null,
    conditions: { ambient_c: 22.5, drive_firmware: "3.10" },
    note: "a rattle",
  },
  readings: { m: { low: 1, high: 1, about: false, source: "remembered", statistic: null, confirmed: false } },
} as unknown as Run;
const measures = [{ id: "m" }] as Measure[];

describe("what belongs to a run", () => {
  it("is sent as it was recorded where nobody changed it", () => {
    const draft = notesDraft(run, {}, measures, {}, ",");
    expect(draft).toMatchObject({ length: "1,5", conditions: { ambient_c: "22,5", drive_firmware: "3.10" } });
    expect(draft.marks).toEqual({ m: { statistic: null, source: "remembered" } });
    const { pair_label, held_back, duration_s, soak_s, conditions, note } = run;
    expect(readNotes(draft, figures, ",")).toEqual({
      noted: { pair_label, held_back, duration_s, soak_s, conditions, note },
    });
  });
  it("names each field that can't be read, and keeps versions as text", () => {
    const draft = notesDraft(undefined, {}, measures, {}, ".");
    const wrong = {
      ...draft,
      length: "-1",
      soak: "long",
      conditions: { ambient_c: "warm", drive_firmware: "3.10" },
    };
    const read = readNotes(wrong, figures, ".");
    expect("problems" in read && Object.keys(read.problems)).toEqual(["ambient_c", "length", "soak"]);
    expect(readNotes({ ...draft, conditions: { drive_firmware: "3.10" } }, figures, ".")).toMatchObject({
      noted: { conditions: { drive_firmware: "3.10" }, pair_label: null, held_back: null },
    });
  });
  it("stands beside it in one line", () => {
    expect(sayNotes(run, figures, ",")).toBe(
      "set 3 · held back by heat · remembered, kept out of the test · room 22,5 °C · drive firmware 3.10 · a rattle",
    );
  });
});

it("a run most likely has the label of the same run in another sitting", () => {
  expect(usualLabel([run], "Stitch", "s2", 2)).toBe("set 3");
  expect(usualLabel([run], "Stitch", "s1", 2)).toBeUndefined();
  expect(usualLabel([run], "Stitch", "s2", 1)).toBeUndefined();
});

describe("what is said beside a run", () => {
  const worded = (fields: object) =>
    sayNotes({ readings: {}, conditions: {}, note: "", ...fields } as unknown as Run, noise, ".");
  const noise = [
    ...figures,
    { key: "nuisance", label: "disturbing", kind: "text", unit: "", words: [], possible: null },
  ] as Figure[];
  it("names only what there is, and calls something else by no word", () => {
    expect(worded({})).toBe("");
    expect(worded({ held_back: "other", note: "odd" })).toBe("held back by something · odd");
    expect(worded({ held_back: "power" })).toBe("held back by power");
  });
  it("puts the step of a nuisance behind it, and behind nothing else", () => {
    const conditions = { ambient_c: 21, nuisance: "coil whine", nuisance_step: 2 };
    expect(worded({ conditions })).toBe("room 21 °C · disturbing coil whine (2 of 4)");
    expect(worded({ conditions: { nuisance: "coil whine" } })).toBe("disturbing coil whine");
  });
  it("refuses a length below nothing in words, and takes none for none", () => {
    const draft = notesDraft(undefined, {}, measures, {}, ".");
    const read = readNotes({ ...draft, length: "-1", soak: "0" }, figures, ".");
    expect("problems" in read && read.problems).toEqual({ length: "Write minutes, 0 or more." });
    const empty = readNotes(draft, figures, ".");
    expect("noted" in empty && empty.noted).toMatchObject({
      duration_s: null,
      soak_s: null,
      pair_label: null,
    });
  });
});

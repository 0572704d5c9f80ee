import { describe, expect, it } from "vitest";

import type { Candidate, Measure, Vocabulary, Workload } from "../../api/client";
import { kindOf } from "../machine/kinds";
import {
  bases,
  candidateBody,
  candidateDraft,
  divisors,
  emptyCandidate,
  emptyMeasure,
  emptyWorkload,
  type MeasureDraft,
  measureProblem,
  sayNeed,
  ticksOf,
  workloadBody,
  workloadDraft,
} from "./model";

const vocabulary = {
  parts: { processor: [{ key: "cores", label: "cores", kind: "count", unit: "", words: ["cores"] }] },
} as unknown as Vocabulary;

describe("a workload", () => {
  it("gives a measure without a name its own, and a part the whole it belongs to", () => {
    const [whole, part] = [emptyMeasure(), emptyMeasure()];
    const draft = {
      ...emptyWorkload(),
      name: "Soak",
      measures: [
        { ...whole, kind: "heat" as const, combined: "highest" as const },
        { ...part, kind: "heat" as const, name: "Core 1", partOf: whole.id },
      ],
    };
    const body = workloadBody(draft, [], {}, ".");
    expect(body.measures.map((m) => [m.name, m.unit, m.part_of, m.combined_by])).toEqual([
      ["Soak", "Cel", null, "highest"],
      ["Core 1", "Cel", whole.id, null],
    ]);
  });
  it("keeps of a recorded measure what the form does not show", () => {
    const measure = {
      id: "m",
      name: "Time",
      unit: "ms",
      scale: "ratio",
      kind: "time",
      better: "lower",
      step: 0.5,
    };
    const recorded = [
      { ...measure, of: 9, levels: [], part_of: null, combined_by: null } as unknown as Measure,
    ];
    const workload = { id: "w", version: 3, name: "Job", workload_version: "2", loads: ["drive"] };
    const parameters = { "size, MB": 2, cold: true };
    const draft = workloadDraft(
      { ...workload, target: null, card: "", minutes_a_run: 1.5, parameters } as unknown as Workload,
      recorded,
      ".",
    );
    expect(workloadBody(draft, recorded, parameters, ".")).toMatchObject({
      workload_version: "2",
      parameters,
      minutes_a_run: 1.5,
      version: 3,
      measures: [{ unit: "ms", step: 0.5, of: 9 }],
    });
    const edited = workloadBody({ ...draft, held: "3 MB, cold: no" }, recorded, parameters, ".");
    expect(edited.parameters).toEqual({ MB: 3, cold: "no" });
    const [first] = draft.measures;
    const other = { ...draft, measures: first ? [{ ...first, kind: "heat" as const, name: "Soak" }] : [] };
    expect(workloadBody(other, recorded, parameters, ".").measures[0]).toMatchObject({
      ...{ name: "Soak", kind: "heat", scale: "difference", step: null },
    });
  });
});

describe("measures of other kinds", () => {
  const draft = (...measures: Partial<MeasureDraft>[]) => ({
    ...emptyWorkload(),
    name: "Export",
    held: "8 min, preset = fine",
    measures: measures.map((measure) => ({ ...emptyMeasure(), ...measure })),
  });
  it("say what else has to be said of them before they are saved", () => {
    const [felt, set, size] = draft({ kind: "felt" }, { kind: "set", of: "nine" }, { kind: "size" }).measures;
    expect([felt, set, size].map((measure) => measure && measureProblem(measure, ".")?.field)).toEqual([
      "levels",
      "of",
      "base",
    ]);
  });
  it("are sent with their steps, their size, and what they are made from", () => {
    const made = draft(
      { id: "t", kind: "time", name: "Time" },
      { id: "w", kind: "power", name: "At the wall" },
      { kind: "felt", name: "Lag", levels: "freezes\n\nsmooth" },
      { kind: "set", name: "Programs", of: "9" },
      { kind: "size", name: "By length", base: "t", per: "min" },
    );
    const [, , felt, set, size] = workloadBody(made, [], {}, ".").measures;
    expect(felt).toMatchObject({ scale: "ordinal", kind: "felt", levels: ["freezes", "smooth"] });
    expect(set).toMatchObject({ scale: "outcome", of: 9 });
    expect(size).toMatchObject({ kind: "time", better: "lower", derived_from: "t", per_parameter: "min" });
    const [, power, , , last] = made.measures;
    expect(last && divisors(made, last, ".")).toEqual([["min", "min (8)"]]);
    expect(last && bases(made, last).map(({ id }) => id)).toEqual(["t", "w"]);
    expect(power && divisors(made, { ...power, id: "x", kind: "efficiency" }, ".")).toEqual([
      ["w", "At the wall"],
    ]);
  });
  it("are held against what is needed of another figure, in its unit", () => {
    const made = draft(
      { id: "g", kind: "free", name: "Left free" },
      { id: "w", kind: "works", name: "Starts" },
      { kind: "requirement", name: "Enough", base: "g", needs: "0.5" },
    );
    const last = made.measures[2] ?? emptyMeasure();
    expect(sayNeed(made, last)).toBe("needs at least, GB");
    expect(bases(made, last).map(({ id }) => id)).toEqual(["g"]);
    expect(measureProblem({ ...last, needs: "some" }, ".")?.field).toBe("needs");
    expect(workloadBody(made, [], {}, ".").measures[2]).toMatchObject({
      ...{ scale: "outcome", derived_from: "g", needs: 0.5, per_measure: null },
    });
  });
  it("come back as the kind that they were chosen as", () => {
    const measure = (fields: Partial<Measure>) =>
      ({
        unit: "1",
        scale: "difference",
        of: null,
        derived_from: null,
        per_measure: null,
        needs: null,
        ...fields,
      }) as Measure;
    const kinds = [
      measure({ kind: "gauge", unit: "%", better: "higher" }),
      measure({ kind: "rank", better: "lower" }),
      measure({ kind: "amount", unit: "MBy", better: "higher" }),
      measure({ kind: "other", scale: "outcome", of: 9 }),
      measure({ kind: "time", scale: "ratio", better: "lower", unit: "ms" }),
      measure({ kind: "other", scale: "ratio", derived_from: "t", per_measure: "w" }),
      measure({ kind: "other", scale: "outcome", derived_from: "t", needs: 0.5 }),
    ];
    expect(kinds.map(kindOf)).toEqual([
      ...["health", "rank", "free", "set", "time", "efficiency", "requirement"],
    ]);
  });
});

describe("a candidate", () => {
  it("can be ticked for each thing that it needs first, and for its delivery", () => {
    expect(ticksOf({ prerequisites: "paste, firmware 1.40; " })).toEqual([
      "paste",
      "firmware 1.40",
      "ordered",
      "delivered",
    ]);
  });
  it("sends its price as text and its gain as a number, by the machine's decimal mark", () => {
    const draft = {
      ...emptyCandidate(),
      label: "Varro",
      figures: "6 cores",
      price: "1.118,50",
      gain: "2,5 %",
    };
    expect(candidateBody(draft, vocabulary, ",")).toMatchObject({
      body: { price: "1118.50", expected_gain: 2.5, rated: { cores: 6 }, swap: null, fit_said: null },
    });
    expect(candidateBody({ ...draft, gain: "much" }, vocabulary, ",")).toHaveProperty("problem");
  });
  it("is edited as it was recorded", () => {
    const recorded = {
      ...{ id: "c", version: 2, role: "processor", label: "Varro", rated: { cores: 6 }, price: "118.00" },
      ...{ basis: "used", prerequisites: "", expected_gain: 25, expected_from: "", fit_said: null },
      ...{ fit_source: "", swap: null, worked: "" },
    } as unknown as Candidate;
    const read = candidateBody(candidateDraft(recorded, vocabulary, "."), vocabulary, ".");
    expect(read).toMatchObject({
      body: { rated: { cores: 6 }, price: "118.00", expected_gain: 25, version: 2 },
    });
  });
});

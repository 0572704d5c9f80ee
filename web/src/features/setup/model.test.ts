import { describe, expect, it } from "vitest";

import type { Candidate, Measure, Vocabulary, Workload } from "../../api/client";
import { kindOf } from "../../job/kinds";
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
  ratedChoices,
  sayNeed,
  ticksOf,
  traceFigures,
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
      body: { price: "1118.50", expected_gain: 2.5, rated: { cores: 6 }, swap: null, fit_answer: null },
    });
    expect(candidateBody({ ...draft, gain: "much" }, vocabulary, ",")).toHaveProperty("problem");
  });
  it("is edited as it was recorded", () => {
    const recorded = {
      ...{ id: "c", version: 2, role: "processor", label: "Varro", rated: { cores: 6 }, price: "118.00" },
      ...{ basis: "used", prerequisites: "", expected_gain: 25, expected_from: "", fit_answer: null },
      ...{ fit_source: "", swap: null, worked: "" },
    } as unknown as Candidate;
    const read = candidateBody(candidateDraft(recorded, vocabulary, "."), vocabulary, ".");
    expect(read).toMatchObject({
      body: { rated: { cores: 6 }, price: "118.00", expected_gain: 25, version: 2 },
    });
  });
});

describe("a figure that is read off a trace", () => {
  const sent = (measure: Partial<MeasureDraft>) =>
    workloadBody(
      { ...emptyWorkload(), name: "Soak", measures: [{ ...emptyMeasure(), ...measure }] },
      [],
      {},
      ".",
    ).measures[0];
  it("is sent with its part and its minute, where it fits its kind", () => {
    const asked = { kind: "heat", traceFigure: "at minute", traceOf: " board ", traceMinute: "5" } as const;
    expect(sent({ ...asked, traceBy: "mean" })).toMatchObject({
      ...{ trace_figure: "at minute", trace_of: "board", trace_by: "mean", trace_minute: 5 },
    });
    expect(sent({ ...asked, traceFigure: "settled", traceOf: "" })).toMatchObject({
      ...{ trace_figure: "settled", trace_of: null, trace_by: null, trace_minute: null },
    });
    for (const unfit of [{ traceFigure: "" }, { kind: "score", traceFigure: "settled" }] as const)
      expect(sent({ ...asked, ...unfit })).toMatchObject({
        ...{ trace_figure: null, trace_of: null, trace_by: null, trace_minute: null },
      });
  });
  it("is offered by what the kind can be", () => {
    const usual = ["settled", "last minute", "at minute"];
    expect(traceFigures("heat")).toEqual([...usual, "equilibrium", "highest"]);
    expect(traceFigures("rise")).toEqual([...usual, "equilibrium", "highest", "last less first"]);
    for (const kind of ["noise", "power", "clock", "fan"] as const)
      expect(traceFigures(kind)).toEqual([...usual, "highest"]);
    expect(traceFigures("time")).toEqual(["within 1 K", "recovery"]);
    expect([traceFigures("resistance"), traceFigures("load")]).toEqual([["resistance"], ["held back"]]);
    expect(traceFigures("score")).toEqual([]);
  });
});

describe("what is empty", () => {
  it("begins as a time that is nothing else", () => {
    const { id, ...measure } = emptyMeasure();
    expect(id).toHaveLength(36);
    const { kind, traceBy, ...texts } = measure;
    expect([kind, traceBy]).toEqual(["time", "hottest"]);
    expect(new Set(Object.values(texts))).toEqual(new Set([""]));
    const { id: own, version, workloadVersion, loads, measures, ...fields } = emptyWorkload();
    expect([own.length, version, workloadVersion, loads, measures.length]).toEqual([36, null, "1", [], 1]);
    expect(new Set(Object.values(fields))).toEqual(new Set([""]));
  });
  it("is a new processor where it is a candidate, and sends nothing that was not said", () => {
    const read = candidateBody(emptyCandidate(), vocabulary, ".");
    expect("body" in read && read.body).toMatchObject({
      ...{ role: "processor", label: "", rated: {}, price: null, price_low: null, price_high: null },
      ...{ gain_low: null, gain_high: null, expected_gain: null, basis: "new", alternative: "part" },
      ...{ prerequisites: "", expected_from: "", fit_answer: null, fit_source: "", swap: null, worked: "" },
      ...{ ticked: [], version: null },
    });
  });
});

describe("a recorded workload", () => {
  it("is edited with all that was said of its measures", () => {
    const measure = {
      ...{
        id: "m",
        name: "Core",
        unit: "Cel",
        scale: "difference",
        kind: "heat",
        better: "lower",
        step: null,
      },
      ...{ part_of: "w", combined_by: "mean", rated_as: "r", levels: ["a", "b"], of: 9, derived_from: "d" },
      ...{
        per_measure: null,
        per_parameter: "min",
        needs: 1.5,
        trace_figure: "at minute",
        trace_of: "board",
      },
      ...{ trace_by: "mean", trace_minute: 2.5 },
    } as unknown as Measure;
    const workload = {
      ...{ id: "w", version: 3, name: "Soak", workload_version: "2", loads: ["drive"], target: "slot 2" },
      ...{ card: "close the door", minutes_a_run: 1.5, parameters: {} },
    } as unknown as Workload;
    const draft = workloadDraft(workload, [measure], ",");
    expect(draft).toMatchObject({ target: "slot 2", card: "close the door", minutes: "1,5" });
    expect(draft.measures[0]).toMatchObject({
      ...{ partOf: "w", combined: "mean", ratedAs: "r", levels: "a\nb", of: "9", base: "d", per: "min" },
      ...{ needs: "1,5", traceFigure: "at minute", traceOf: "board", traceBy: "mean", traceMinute: "2,5" },
    });
    const bare = { ...measure, part_of: null, combined_by: null, rated_as: null, levels: [], of: null };
    const plain = { ...bare, derived_from: null, per_parameter: null, needs: null, trace_figure: null };
    const none = { ...plain, trace_of: null, trace_by: null, trace_minute: null };
    const { measures } = workloadDraft({ ...workload, target: null }, [none], ".");
    expect(measures[0]).toEqual({ ...emptyMeasure(), id: "m", name: "Core", kind: measures[0]?.kind });
  });
});

describe("what is missing of a measure", () => {
  const problem = (fields: Partial<MeasureDraft>, mark: "." | "," = ".") =>
    measureProblem({ ...emptyMeasure(), ...fields }, mark);
  it("is named by its field, with what to write there", () => {
    expect(problem({})).toBeUndefined();
    expect(problem({ kind: "felt", levels: "only one" })?.text).toContain("Describe two steps or more");
    for (const of of ["", "2.5", "0", "-1"])
      expect(problem({ kind: "set", of })).toEqual({
        field: "of",
        text: "Write how many there are, like 9.",
      });
    expect(problem({ kind: "set", of: "1" })).toBeUndefined();
    expect(problem({ kind: "size" })?.text).toBe("Choose the figure that it is made from.");
    expect(problem({ kind: "requirement", base: "g", needs: "x" }, ",")?.text).toBe(
      "Write a number like 0,5.",
    );
    expect(problem({ kind: "requirement", base: "g", needs: "0,5" }, ",")).toBeUndefined();
    const per = { field: "per", text: "Choose what it is divided by." };
    expect([problem({ kind: "size", base: "g" }), problem({ kind: "efficiency", base: "g" })]).toEqual([
      per,
      per,
    ]);
    expect(problem({ kind: "size", base: "g", per: "min" })).toBeUndefined();
  });
  it("offers rated figures in the unit of the kind, each once", () => {
    const figures = [
      { key: "write", label: "write rate", unit: "MB/s" },
      { key: "power", label: "power", unit: "W" },
    ] as Vocabulary["parts"]["drive"];
    const parts = { drive: figures, memory: figures } as unknown as Vocabulary["parts"];
    expect(ratedChoices(["drive", "memory", "board"], "rate", parts)).toEqual([["write", "write rate"]]);
    expect(ratedChoices(["drive"], "power", parts)).toEqual([["power", "power"]]);
    expect(ratedChoices(["drive"], "clock", parts)).toEqual([]);
  });
});

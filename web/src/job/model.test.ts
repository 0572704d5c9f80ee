import { describe, expect, it } from "vitest";

import type { Case, Measure, Plan, Swap } from "../api/client";
import {
  buildName,
  describeParts,
  fittedBuild,
  dueRecheck,
  jobStateOn,
  leadOf,
  nextStep,
  planFor,
  sayOpenCase,
  stateOf,
  swapsBetween,
} from "./model";

const plan = { sittings_a_side: 2 };
const empty = {
  machine: {},
  builds: [],
  measures: [],
  sittings: [],
  runs: [],
  swaps: [],
  rechecks: [],
  fitted: null,
  job_state: "set up",
  open_plan: { plan },
  tallies: {},
};
const left = (sittings_left: number) => ({ sittings: 2 - sittings_left, runs: 2, sittings_left });
const described = {
  ...empty,
  builds: [{ id: "a", letter: "A" }],
  measures: [{}],
  fitted: "a",
  job_state: "baseline",
  tallies: { a: left(2) },
};
const measured = { ...described, job_state: "swap", tallies: { a: left(0), b: left(2) } };
const swap = {
  id: "x",
  before: "a",
  after: "b",
  label: "Drive",
  steps: [],
  recognitions: [],
  plan,
} as unknown as Swap;
const withSwap = (state: Swap["state"], fitted: string) => ({
  ...measured,
  builds: [...described.builds, { id: "b", letter: "B" }],
  swaps: [{ ...swap, state }],
  fitted,
});
const job = (value: object) => value as unknown as Case;
const DAY = "2026-06-01";

describe("where a job stands", () => {
  it.each(["baseline", "swap", "after", "judged"])(
    "“%s” gives way to a re-check that is due",
    (job_state) => {
      const due = { ...measured, job_state, rechecks: [{ due_on: DAY, done: false, note: "" }] };
      expect(jobStateOn(stateOf(job(due), DAY))).toBe("recheck");
      expect(jobStateOn(stateOf(job(due), "2026-05-31"))).toBe(job_state);
    },
  );
  it.each(["set up", "planned", "open"])("“%s” comes before a re-check", (job_state) => {
    const due = { ...measured, job_state, rechecks: [{ due_on: DAY, done: false, note: "" }] };
    expect(jobStateOn(stateOf(job(due), DAY))).toBe(job_state);
  });
  it("asks for a re-check from its day on, until it is done", () => {
    const recheck = { due_on: DAY, done: false, note: "has it aged?" };
    const due = { ...measured, rechecks: [recheck] };
    expect(nextStep(stateOf(job(due), DAY)).text).toContain("has it aged?");
    expect(dueRecheck(job(due).rechecks, "2026-05-31")).toBeUndefined();
    expect(dueRecheck(job({ ...due, rechecks: [{ ...recheck, done: true }] }).rechecks, DAY)).toBeUndefined();
  });
  it("measures a build by the plan of the swap into it, a first build by that of the swap from it", () => {
    const two = job({ ...withSwap("closed", "b"), open_plan: { plan: { sittings_a_side: 9 } } });
    expect(planFor(two, "a").sittings_a_side).toBe(2);
    expect(planFor(two, "b").sittings_a_side).toBe(2);
    expect(
      planFor(job({ ...described, open_plan: { plan: { sittings_a_side: 9 } } }), "a").sittings_a_side,
    ).toBe(9);
  });
});

describe("the measure that leads a workload", () => {
  const [time, heat, core] = [
    { id: "t", part_of: null },
    { id: "h", part_of: null },
    { id: "c", part_of: "h" },
  ] as Measure[];
  const all = [time, heat, core].filter((known) => known !== undefined);
  const planned = (fields: object) => ({ headline: null, measures: {}, ...fields }) as unknown as Plan;
  it("is its headline, else its first claim, else the first", () => {
    expect(leadOf(all, planned({ headline: "h" }))).toBe(heat);
    expect(leadOf(all, planned({ measures: { h: { role: "claim" }, t: { role: "watch" } } }))).toBe(heat);
    expect(leadOf(all, planned({ headline: "elsewhere" }))).toBe(time);
  });
});

describe("an open case", () => {
  const at = (fields: object) => sayOpenCase({ ...swap, opens: true, ...fields });
  const step = { text: "Clips closed", done_at: null };
  it("goes on at its first open step, and a part that is not recognised comes before all", () => {
    expect(at({ steps: [{ text: "Data saved", done_at: DAY }, step] })).toBe(
      "Case open, 1 of 2 steps done. Next: Clips closed",
    );
    expect(at({ steps: [step], recognitions: [{ what: "memory, size", result: "fail" }] })).toBe(
      "Not recognised: memory, size",
    );
    expect(at({ recognitions: [{ what: "memory, size", result: null }] })).toContain("memory, size seen");
    expect(at({})).toBe("Close the case");
  });
  it("is none where nothing is opened", () => {
    expect(at({ opens: false, recognitions: [{ what: "fans", result: null }] })).toBe(
      "Look: fans as expected?",
    );
    expect(at({ opens: false })).toBe("The change is made: say so");
  });
});

describe("the swaps between two builds", () => {
  const step = (id: string, before: string, after: string) => ({ ...swap, id, before, after });
  const ladder = job({
    ...described,
    swaps: [step("ab", "a", "b"), step("bc", "b", "c"), step("cb", "c", "b"), step("xd", "x", "d")],
  });
  const ids = (before: string, after: string) => swapsBetween(ladder, before, after).map(({ id }) => id);
  it("are those that led from one to the other, oldest first", () => {
    expect(ids("b", "c")).toEqual(["bc"]);
    expect(ids("a", "a")).toEqual([]);
  });
  it("follow a build that was flipped back to", () => {
    expect(ids("a", "b")).toEqual(["ab", "bc", "cb"]);
  });
  it("are the last one alone where no chain leads there", () => {
    expect(ids("a", "d")).toEqual(["xd"]);
    expect(ids("d", "c")).toHaveLength(1);
    expect(ids("b", "a")).toEqual([]);
  });
});

describe("a build", () => {
  const part = (role: string, label: string) => ({ role, label });
  it("is named by its letter, and described by its main parts", () => {
    expect(buildName({ letter: "B", label: "Fresh paste" } as Case["builds"][number])).toBe(
      "B · Fresh paste",
    );
    const parts = [
      part("board", "Board"),
      part("processor", "Varro"),
      part("memory", "Marl"),
      part("drive", "Siskin"),
    ];
    expect(describeParts({ parts } as unknown as Case["builds"][number])).toBe("Varro · Marl · Siskin");
  });
  it("stands where the machine says so", () => {
    expect(fittedBuild(job(described))?.id).toBe("a");
    expect(fittedBuild(job(empty))).toBeUndefined();
  });
  it("that was first is measured by the first swap from it, not by another", () => {
    const swaps = [
      { ...swap, before: "x", after: "y", plan: { sittings_a_side: 7 } },
      { ...swap, plan: { sittings_a_side: 5 } },
    ];
    expect(planFor(job({ ...described, swaps }), "a").sittings_a_side).toBe(5);
  });
});

import { describe, expect, it } from "vitest";

import type { Case, Plan, Swap, Vocabulary } from "../../api/client";
import { sayMinutes } from "../../job/planWords";
import {
  applyEdits,
  NO_EDITS,
  planChanges,
  planDraft,
  readPlan,
  sayCount,
  stepsOf,
  stepTexts,
  templateBody,
  wholeFrom,
} from "./model";

const plan: Plan = {
  design: "side_by_side",
  pair_by: "order",
  judge_whole: null,
  sittings_a_side: 3,
  at_most: null,
  runs: {},
  runs_a_sitting: 5,
  headline: "m",
  measures: { m: { role: "claim", matters_from: 1.5, hoped_for: 25, weight: 1, statistic: null } },
  pairs: [],
  borrow_spread_from: [],
  change: "processor",
  order: "before_then_after",
  conditions: { fan: "auto", power_limit_w: 65 },
  warm_ups: 1,
  rest_min: 2,
  soak_min: 0,
};
const vocabulary = {
  conditions: [{ key: "power_limit_w", label: "power limit", kind: "number", unit: "W", words: ["W"] }],
} as unknown as Vocabulary;

describe("the whole beside the step", () => {
  const job = { builds: [{ id: "a" }, { id: "b" }, { id: "c" }] } as unknown as Case;
  const swap = (before: string, judge_whole: string | null): Swap =>
    ({ before, plan: { ...plan, judge_whole } }) as unknown as Swap;
  it("is offered from the second stage on, and where a job was laid out in stages", () => {
    expect(wholeFrom(job, swap("a", null))).toBeNull();
    expect(wholeFrom(job, swap("a", "a"))).toBe("a");
    expect(wholeFrom(job, swap("b", null))).toBe("a");
    expect(wholeFrom(job, swap("b", "b"))).toBe("b");
  });
  it("is sent as it was ticked", () => {
    const ticked = applyEdits(planDraft(plan, "."), { ...NO_EDITS, fields: { wholeFrom: "a" } });
    expect(readPlan(ticked, plan, vocabulary, ".")).toMatchObject({ body: { judge_whole: "a" } });
  });
});

describe("a plan as it is edited", () => {
  it("comes back the same where nothing was touched", () => {
    expect(readPlan(planDraft(plan, "."), plan, vocabulary, ".")).toEqual({ body: plan });
  });
  it("lays what was touched over what stands there now", () => {
    const edits = {
      ...NO_EDITS,
      fields: { runs: "7" },
      conditions: { fan: "full" },
      measures: { m: { hoped: "" } },
    };
    const draft = applyEdits(planDraft({ ...plan, sittings_a_side: 4 }, "."), edits);
    expect(readPlan(draft, plan, vocabulary, ".")).toMatchObject({
      body: {
        sittings_a_side: 4,
        runs_a_sitting: 7,
        conditions: { fan: "full", power_limit_w: 65 },
        measures: { m: { hoped_for: null, matters_from: 1.5 } },
      },
    });
  });
  it("keeps every measure of the plan, touched or not", () => {
    const more = {
      ...plan,
      measures: { ...plan.measures, n: { ...plan.measures["m"]!, role: "watch" as const } },
    };
    const draft = applyEdits(planDraft(more, "."), { ...NO_EDITS, measures: { m: { hoped: "30" } } });
    expect(Object.keys(draft.measures)).toEqual(["m", "n"]);
    expect(draft.measures["n"]).toEqual(planDraft(more, ".").measures["n"]);
  });
  it("repeats some jobs more or less often than the others", () => {
    const soak = { ...plan, runs: { Soak: 2 } };
    expect(readPlan(planDraft(soak, "."), soak, vocabulary, ".")).toEqual({ body: soak });
    const others = applyEdits(planDraft(soak, "."), { ...NO_EDITS, repeats: { Soak: "", Tiles: "6" } });
    expect(readPlan(others, soak, vocabulary, ".")).toMatchObject({ body: { runs: { Tiles: 6 } } });
    const none = applyEdits(planDraft(soak, "."), { ...NO_EDITS, repeats: { Soak: "0" } });
    expect(readPlan(none, soak, vocabulary, ".")).toHaveProperty(["problems", "repeats.Soak"]);
  });
  it("says what it would become before it does", () => {
    const now: Plan = {
      ...plan,
      order: "alternating",
      soak_min: 10,
      conditions: { power_limit_w: 65 },
      measures: { m: { role: "watch", matters_from: 1.5, hoped_for: 25, weight: 1, statistic: null } },
    };
    expect(
      planChanges(
        plan,
        now,
        () => "Tile rendering",
        (key) => `held: ${key}`,
      ),
    ).toEqual([
      ["Soak, min", "0", "10"],
      ["Order", "before, then after", "A B A B: back and forth"],
      ["held: fan", "auto", "not held"],
      ["Tile rendering", "claim", "watch"],
    ]);
    expect(planChanges(plan, plan, String, String)).toEqual([]);
  });
  it("names each field that can't be read", () => {
    const edits = {
      ...NO_EDITS,
      fields: { sittings: "0", warmUps: "-1", rest: "long" },
      measures: { m: { matters: "0" } },
    };
    const read = readPlan(applyEdits(planDraft(plan, "."), edits), plan, vocabulary, ".");
    expect(Object.keys("problems" in read ? read.problems : {}).sort()).toEqual([
      "m.matters",
      "rest",
      "sittings",
      "warmUps",
    ]);
  });
});

describe("what a plan says", () => {
  it("counts sittings in words that hold for any noise, and time in hours", () => {
    expect(sayCount(1)).toContain("provisional");
    expect(sayCount(3)).toContain("reboot between them");
    expect(sayMinutes(130)).toBe("2 h 10 min");
    expect(sayMinutes(60)).toBe("1 h");
    expect(sayMinutes(35.4)).toBe("35 min");
    expect(sayMinutes(null)).toBe("not known yet");
  });
});

describe("a template", () => {
  it("keeps its checklist a step a line, in the order of the stages", () => {
    const steps = stepsOf({
      "before opening": "Data saved\n\n Strap on ",
      "case open": "",
      "first start": "Picture",
    });
    expect(steps).toEqual([
      ["before opening", "Data saved"],
      ["before opening", "Strap on"],
      ["first start", "Picture"],
    ]);
    expect(stepsOf(stepTexts(steps))).toEqual(steps);
  });
  it("takes counts and conditions from the plan that is kept", () => {
    expect(templateBody("Mine", plan, "", [], undefined, null)).toMatchObject({
      name: "Mine",
      change: "processor",
      runs_a_sitting: 5,
      conditions: { fan: "auto" },
      version: null,
    });
  });
});

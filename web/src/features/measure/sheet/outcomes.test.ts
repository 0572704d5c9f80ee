import { expect, it } from "vitest";

import { OUTCOMES, outcomeOf } from "./outcomes";

it("knows each outcome by a key of its own, in either case", () => {
  expect(new Set(OUTCOMES.map(({ key }) => key)).size).toBe(OUTCOMES.length);
  expect(outcomeOf("H")).toMatchObject({ name: "Hung", state: "failed", reason: "hung" });
  expect(outcomeOf("b")?.state).toBe("partial");
  expect(outcomeOf("x")).toBeUndefined();
});

it("gives every outcome a name, and a reason that is kept", () => {
  expect(OUTCOMES.map(({ name }) => name)).toEqual([
    ...["Hung", "Crashed", "Safety stop", "Refused to start", "Broke off", "Time limit"],
  ]);
  expect(OUTCOMES.map(({ reason, state }) => `${state}: ${reason}`)).toEqual([
    ...["failed: hung", "failed: crashed", "failed: stopped for safety", "failed: refused to start"],
    ...["partial: broke off", "partial: ended by its own time limit, work unfinished"],
  ]);
});

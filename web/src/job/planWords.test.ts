import { expect, it } from "vitest";

import type { PlanView } from "../api/client";
import { wordedOf, sayMinutes, strongest } from "./planWords";

it.each([
  [null, "not known yet"],
  [0, "0 min"],
  [59.4, "59 min"],
  [59.6, "1 h"],
  [130, "2 h 10 min"],
])("says %s minutes as “%s”", (minutes, worded) => {
  expect(sayMinutes(minutes)).toBe(worded);
});

it("lets the headline's strength speak for a plan, else the first that is known", () => {
  const view = {
    strengths: [{ measure: "a" }, { measure: "b" }],
    worded: { a: { target: "2 %" }, b: { target: "5 %" } },
  } as unknown as PlanView;
  expect(strongest(view, "b")?.measure).toBe("b");
  expect(strongest(view, "unknown")?.measure).toBe("a");
  expect(wordedOf(view, "b")).toEqual({ target: "5 %" });
  expect(wordedOf({ ...view, strengths: [] }, "b")).toBeUndefined();
});

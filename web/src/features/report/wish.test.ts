import { describe, expect, it } from "vitest";

import { emptyWish, wishBody, type WishDraft } from "./wish";

const swap = { before: "a", after: "b" };
const sent = (fields: Partial<WishDraft>) => wishBody({ ...emptyWish, ...fields }, swap);

describe("what is wished of a report", () => {
  it("is sent with what was typed", () => {
    const typed = {
      form: "full",
      technician: "R.",
      advice: "Dust it.",
      nextStep: "Come back in May.",
    } as const;
    expect(sent(typed)).toEqual({
      ...{ before: "a", after: "b", form: "full", technician: "R.", advice: "Dust it." },
      ...{ next_step: "Come back in May.", changed_since: null, labour: true, years: 0 },
    });
  });
  it("says that nothing was changed, what was, or that nobody answered", () => {
    expect(sent({ changed: "no", changedWhat: "a fan" }).changed_since).toBe("");
    expect(sent({ changed: "yes", changedWhat: " a fan " }).changed_since).toBe("a fan");
    expect(sent({ changed: "yes", changedWhat: "  " }).changed_since).toBeNull();
    expect(sent({ changedWhat: "a fan" }).changed_since).toBeNull();
  });
  it("runs over whole years, none to thirty", () => {
    expect(["0", "3", "30", "31", "-1", "2.5", "many"].map((years) => sent({ years }).years)).toEqual([
      0, 3, 30, 0, 0, 0, 0,
    ]);
  });
});

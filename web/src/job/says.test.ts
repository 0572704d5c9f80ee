import { describe, expect, it } from "vitest";

import type { Case, Swap, Vocabulary } from "../api/client";
import { isToBeJudged, sayWhatIf, sayKind, sayRecognition } from "./says";

describe("what leaving something out would do", () => {
  const job = {
    builds: [
      { id: "b", letter: "B" },
      { id: "c", letter: "C" },
    ],
    measures: [{ id: "t", name: "Tiles" }],
  } as unknown as Case;
  const change = { before: "b", after: "c", measure: "t", now: "real_gain", then: "not_settled" } as const;
  it("names each verdict that would be another one, and says so where none would", () => {
    expect(sayWhatIf(job, [change])).toBe(
      "This would change a verdict. Tiles, B → C: real gain becomes not settled.",
    );
    expect(sayWhatIf(job, [change, { ...change, before: "x" }])).toBe(
      "This would change 2 verdicts. Tiles, B → C: real gain becomes not settled. " +
        "Tiles, ? → C: real gain becomes not settled.",
    );
    expect(sayWhatIf(job, [])).toBe("No verdict would change.");
  });
});

describe("a note of a swap", () => {
  it("says of a note what it tells of, on the scale of its kind", () => {
    const scales = { "dust found": ["none", "a film", "half closed", "closed"] } as Vocabulary["found_steps"];
    expect(sayKind({ kind: "dust found", step: 3 }, scales)).toBe("Dust found, 3 of 4: half closed.");
    expect(sayKind({ kind: "drawback", step: null }, scales)).toBe("Drawback:");
  });
});

describe("what was seen of the parts that went in", () => {
  const line = { what: "memory size", expected: "32 GB", seen: "16 GB", remark: "one slot is dead" };
  const swap = {
    state: "closed",
    recognitions: [
      { ...line, result: "pass with remark" },
      { ...line, what: "clock", result: "pass" },
      { ...line, what: "slots", result: null },
    ],
    recognition_skipped: "no screen",
  } as unknown as Swap;
  it("is remarks, and what nobody looked at with the reason", () => {
    expect(sayRecognition(swap)).toEqual([
      "memory size: 16 GB instead of 32 GB; one slot is dead.",
      "Not looked at: slots, because: no screen.",
    ]);
    expect(sayRecognition({ ...swap, recognition_skipped: "" })[1]).toBe(
      "Not looked at: slots, and no reason was given.",
    );
  });
  it("is nothing before the case is closed: it may still be looked at", () => {
    for (const state of ["planned", "open"] as const) expect(sayRecognition({ ...swap, state })).toEqual([]);
  });
});

describe("what Judge has not given yet", () => {
  const due = { can_be_shown: true, shown: false, verdict: "real_gain", remark: "x" };
  const given = { ...due, shown: true };
  it("is due where it may be said and was not", () => {
    const states = [due, given, { can_be_shown: false, shown: false }, { can_be_shown: false, shown: true }];
    expect(states.map(isToBeJudged)).toEqual([true, false, false, false]);
  });
});

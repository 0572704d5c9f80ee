import { describe, expect, it } from "vitest";

import type { Case, Vocabulary } from "../../api/client";
import { sayForeseen, sayKind } from "./says";

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
    expect(sayForeseen(job, [change])).toBe(
      "This would change a verdict. Tiles, B → C: real gain becomes not settled.",
    );
    expect(sayForeseen(job, [])).toBe("No verdict would change.");
  });
});

describe("a note of a swap", () => {
  it("says of a note what it tells of, on the scale of its kind", () => {
    const scales = { "dust found": ["none", "a film", "half closed", "closed"] } as Vocabulary["found_steps"];
    expect(sayKind({ kind: "dust found", step: 3 }, scales)).toBe("Dust found, 3 of 4: half closed.");
    expect(sayKind({ kind: "drawback", step: null }, scales)).toBe("Drawback:");
  });
});

import { describe, expect, it } from "vitest";

import { Knowledge } from "./news";

const at = (revision: number, evidence_revision: number) => ({ revision, evidence_revision });

describe("what a screen knows of its machine", () => {
  it("asks for nothing where the server counts no further", () => {
    const known = new Knowledge(at(3, 7));
    known.hear(at(3, 7));
    expect(known.due()).toBeNull();
    known.hear(at(2, 7));
    expect(known.due()).toBeNull();
  });
  it("asks for all of it once where others changed something, be it frame or evidence", () => {
    for (const news of [at(4, 7), at(3, 8)]) {
      const known = new Knowledge(at(3, 7));
      known.hear(news);
      expect(known.due()).toBe("all");
      known.hear(news);
      expect(known.due()).toBeNull();
    }
  });
  it("asks only for what follows from its own save, whether the news of it come before the answer or after", () => {
    const early = new Knowledge(at(3, 7));
    early.hear(at(3, 8));
    early.savedRuns(8);
    expect(early.due()).toBe("but runs");
    early.hear(at(3, 8));
    expect(early.due()).toBeNull();
    early.savedFrame(at(4, 8));
    expect(early.due()).toBe("but frame");
    early.hear(at(4, 8));
    expect(early.due()).toBeNull();
  });
  it("asks for all where others saved before its own save", () => {
    const runs = new Knowledge(at(3, 7));
    runs.savedRuns(9);
    expect(runs.due()).toBe("all");
    const frame = new Knowledge(at(3, 7));
    frame.savedFrame(at(5, 7));
    expect(frame.due()).toBe("all");
    // The frame is its own, but meanwhile somebody else measured.
    const both = new Knowledge(at(3, 7));
    both.savedFrame(at(4, 8));
    expect(both.due()).toBe("all");
  });
  it("asks for all where a run and something of the frame were saved within a moment", () => {
    const known = new Knowledge(at(3, 7));
    known.savedRuns(8);
    known.savedFrame(at(4, 8));
    expect(known.due()).toBe("all");
  });
  it("takes several saves of its own for known", () => {
    const known = new Knowledge(at(3, 7));
    [8, 9, 10].forEach((evidence_revision) => known.savedRuns(evidence_revision));
    known.hear(at(3, 10));
    expect(known.due()).toBe("but runs");
  });
  it("asks for all where it can't say what it knows", () => {
    const known = new Knowledge(null);
    known.savedRuns(4);
    expect(known.due()).toBe("all");
  });
});

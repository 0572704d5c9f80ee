import { describe, expect, it } from "vitest";

import type { Home, Import } from "../../api/client";
import { type Line, sayBenches, sayDue, sayFound, sayImport, sayNewest, sayPage, sayShow } from "./model";

const DAY = "2026-06-01";
const line = { job_state: "baseline", fitted: { letter: "A", parts: [], sittings_left: 2 }, rechecks: [] };
const home = (fields: object) =>
  ({ benches: [], found: 0, page_size: 50, total: 3, waiting: 0, first: null, ...fields }) as unknown as Home;

describe("the first sentence of home", () => {
  it("names the machine that waits first and what it waits for, over all machines", () => {
    const first = { name: "Field laptop", line };
    expect(sayBenches(home({ waiting: 1, first }), DAY)).toBe(
      "3 machines, one waits for you. First Field laptop: 2 more sittings on build A.",
    );
    expect(
      sayBenches(home({ waiting: 2, first: { ...first, line: { ...line, job_state: "open" } } }), DAY),
    ).toBe("3 machines, 2 wait for you. First Field laptop: its case is open.");
    expect(sayBenches(home({}), DAY)).toBe("3 machines. None waits for a sitting or a swap.");
  });
  it("says when the next re-check is due", () => {
    expect(sayDue(home({ rechecks: 0, next_due: null }), DAY)).toBe("No re-check is planned.");
    expect(sayDue(home({ rechecks: 2, next_due: "2026-06-10" }), DAY)).toBe(
      "2 re-checks planned, the next in 9 days.",
    );
    expect(sayDue(home({ rechecks: 1, next_due: DAY }), DAY)).toBe("A re-check is due.");
  });
});

describe("what was looked for", () => {
  it("is counted, and its pages are named by what stands on them", () => {
    expect(sayFound(home({ found: 1 }), "map")).toBe("Found 1 of 3 machines.");
    expect(sayFound(home({}), "map")).toContain("No machine here is called so");
    expect(sayFound(home({}), "")).toBe("No machine is in this state.");
    const counts = home({ waiting: 2, due: 1, resting: 4 });
    expect((["all", "waiting", "due", "resting"] as const).map((show) => sayShow(counts, show))).toEqual([
      ...["All · 3", "Wait for me · 2", "Re-check due · 1", "Resting · 4"],
    ]);
    expect(sayPage(home({ found: 57, benches: Array(7).fill({}) }), 2)).toBe("51 to 57 of 57 machines");
  });
});

it("says how far a large file is, first in reading it, then in writing it", () => {
  const state = (fields: object) => ({ stage: "reading", done: 0, total: 0, ...fields }) as Import;
  expect(sayImport(state({}))).toBe("Reading the file…");
  expect(sayImport(state({ done: 74_999, total: 150_000 }))).toBe("Read 49 % of 150,000 runs");
  expect(sayImport(state({ stage: "writing", done: 10, total: 10 }))).toBe("Written 100 % of 10 runs");
});

describe("a machine's newest swap", () => {
  const newest = (newest: object | null, question = "") => sayNewest({ newest, question } as unknown as Line);
  it("is told with what is known of it, or the question that the machine came with", () => {
    expect(newest(null)).toBe("No swap yet.");
    expect(newest(null, "Why so slow?")).toBe("Why so slow?");
    expect(newest({ label: "Drive", known: null, bundle: null })).toBe("Drive: not measured yet.");
    expect(newest({ label: "Drive", known: "+4 %, a real gain", bundle: "Two at once." })).toBe(
      "Drive: +4 %, a real gain. Two at once.",
    );
  });
});

import { describe, expect, it } from "vitest";

import type { Case, Job } from "../../api/client";
import { historyColumns, lanePath } from "./model";

describe("the history of a machine", () => {
  it("has a column for each measured build, re-checks apart", () => {
    const job = {
      builds: [
        { id: "a", letter: "A" },
        { id: "b", letter: "B" },
        { id: "c", letter: "C" },
      ],
    };
    const points = [
      { build: "a", recheck: false },
      { build: "b", recheck: false },
      { build: "b", recheck: true },
    ];
    const columns = historyColumns(job as Case, { history: [{ points }] } as unknown as Job);
    expect(columns.map((column) => column.letter + (column.recheck ? "'" : ""))).toEqual(["A", "B", "B'"]);
  });
  it("draws a straight line within a lane and a bend into another", () => {
    expect(lanePath([10, 0], [10, 64], 64)).toBe("M10 0V64");
    expect(lanePath([10, 0], [32, 128], 64)).toContain("C10 32 32 0 32 32V128");
  });
});

import { describe, expect, it } from "vitest";

import type { Comparison, Measure } from "../../api/client";
import type { Evidence } from "../machine/api";
import { countedRuns } from "./countedRuns";

describe("the runs that can be left out", () => {
  it("are those that count, of the two builds compared", () => {
    const run = (id: string, sitting: string, fields: object = {}) => ({
      id,
      sitting,
      workload: "job",
      state: "complete",
      warm_up: false,
      excluded_late: null,
      readings: { m: {} },
      ...fields,
    });
    const job = {
      sittings: [
        { id: "b", build: "B" },
        { id: "d", build: "D" },
      ],
      runs: [
        run("counts", "b"),
        run("warm", "b", { warm_up: true }),
        run("failed", "b", { state: "failed" }),
        run("out", "b", { excluded_late: "late" }),
        run("elsewhere", "d"),
        run("unread", "b", { readings: {} }),
      ],
    } as unknown as Evidence;
    const pair = { before: "B", after: "C" } as Comparison;
    const measure = { id: "m", workload: "job" } as Measure;
    expect(countedRuns(job, pair, measure).map((known) => known.id)).toEqual(["counts"]);
  });
});

import { describe, expect, it } from "vitest";

import type { Comparison, Measure } from "../../api/client";
import type { MachineRecord } from "../../job/api";
import { countedRuns } from "./countedRuns";

describe("the runs that can be left out", () => {
  it("are those that count, of the two builds compared", () => {
    const run = (id: string, sitting: string, fields: object = {}) => ({
      id,
      sitting,
      counts_for: ["m"],
      ...fields,
    });
    const job = {
      sittings: [
        { id: "b", build: "B" },
        { id: "d", build: "D" },
      ],
      runs: [
        run("counts", "b"),
        run("out", "b", { counts_for: [] }),
        run("elsewhere", "d"),
        run("of another measure", "b", { counts_for: ["n"] }),
      ],
    } as unknown as MachineRecord;
    const pair = { before: "B", after: "C" } as Comparison;
    const measure = { id: "m" } as Measure;
    expect(countedRuns(job, pair, measure).map((known) => known.id)).toEqual(["counts"]);
  });
});

import { describe, expect, it } from "vitest";

import type { Comparison, Measure, MeasureResult } from "../../api/client";
import type { Evidence } from "../machine/api";
import { countedRuns, sayContext } from "./context";

const measure = {
  id: "m",
  workload: "job",
  kind: "rate",
  scale: "ratio",
  unit_display: "MB/s",
  difference_display: "%",
} as Measure;
const plain = {
  passed_before: null,
  passed_after: null,
  rise_saved_percent: null,
  settling: null,
  with_late: null,
  ceilings: [],
  rated: [],
  realised: [],
  runs_before: 9,
  runs_after: 8,
} as unknown as MeasureResult;
const result = (fields: Partial<MeasureResult>): MeasureResult => ({ ...plain, ...fields });
const comparison = (fields: Partial<MeasureResult>, shares: Comparison["shares"] = []): Comparison =>
  ({ before: "B", after: "C", measures: { m: result(fields) }, shares }) as unknown as Comparison;

describe("what stands beside a verdict", () => {
  it("is nothing where there is nothing", () => {
    expect(sayContext(comparison({}), measure)).toEqual([]);
  });
  it("words a rate above its ceiling as a suspicion", () => {
    const ceiling = {
      side: "after",
      part: "Siskin",
      measured: 690,
      raw: 500,
      usable: 400,
      share_percent: 172,
    };
    const [line] = sayContext(
      comparison({ ceilings: [{ ...ceiling, limited_by: "", loss_known: true }] } as Partial<MeasureResult>),
      measure,
    );
    expect(line).toMatch(/^After: 172 % of the 400 MB\/s .*Suspected: a cache answered, or/);
  });
  it("sets a rate against its ceiling and its rating", () => {
    const lines = sayContext(
      comparison({
        ceilings: [
          {
            side: "after",
            part: "Siskin",
            measured: 3500,
            raw: 4000,
            usable: 3938,
            loss_known: true,
            limited_by: "the slot",
            share_percent: 88.9,
          },
        ],
        rated: [
          {
            side: "after",
            part: "Siskin",
            figure: "rated read",
            measured: 3500,
            rated: 7000,
            share_percent: 50,
            reachable: false,
          },
        ],
        realised: [
          { figure: "lanes", before: 1, after: 4, increase_percent: 300, share_percent: 5.04 },
          { figure: "rated read", before: 500, after: 510, increase_percent: 2, share_percent: 757 },
        ],
      }),
      measure,
    );
    expect(lines).toEqual([
      "After: 89 % of the 3938 MB/s that Siskin can carry here, limited by the slot.",
      "After: 50 % of Siskin’s rated read, 7000 MB/s. The link could not carry that, so the rating was not tested here.",
      "The lanes rose by 300 %; 5.0 % of that came out as speed.",
      "Speed rose by more than the rated read did, 2.0 %.",
    ]);
  });
  it("says which share of the job waited, or why it can't", () => {
    const share = {
      job: "m",
      part_measure: "p",
      share: 0.4,
      low: 0.3,
      high: 0.52,
      still_waits: 0.25,
      most_left: 1.333,
      note: null,
    } as const;
    expect(sayContext(comparison({}, [share]), measure)).toEqual([
      "About 40 % of this job waited for the part (30 to 52 %); 25 % still does, so no faster part of this kind could make it more than 1.33 times as fast.",
    ]);
    const none = { ...share, share: null, still_waits: null, note: "more_than_the_part" as const };
    expect(sayContext(comparison({}, [none]), measure)[0]).toContain("does not explain it");
    expect(sayContext(comparison({}, [{ ...share, job: "other" }]), measure)).toEqual([]);
  });
});

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
    expect(countedRuns(job, comparison({}), measure).map((known) => known.id)).toEqual(["counts"]);
  });
});

import { expect, it } from "vitest";

import { runAsItWas } from "./removal";

it("brings a run back with all that was noted of it", () => {
  const noted = {
    started_at: "2026-05-04T09:00:00Z",
    duration_s: 41,
    soak_s: 600,
    held_back: "heat",
    conditions: { fan: "auto" },
    note: "the door stood open",
    pair_label: "sheet 4",
    target: "slot 2",
    reason: "crashed",
    state: "failed",
    warm_up: true,
    workload_version: "2",
    parameters: { sheets: 12 },
  } as const;
  const history = { excluded_late: null, written_at: null, left_out_at: null, changes: [], counts_for: [] };
  const own = { id: "r", sitting: "s", workload: "Tiles", position: 1, version: 4, readings: {} };
  const run = { ...own, ...noted, ...history };
  const back = runAsItWas("w", run);
  expect(back).toMatchObject({ ...noted, id: "r", sitting: "s", workload: "w", position: 1 });
  expect(back.version).toBeNull();
  expect(Object.keys(history).filter((key) => key in back)).toEqual([]);
});

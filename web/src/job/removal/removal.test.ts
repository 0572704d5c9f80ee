import { expect, it } from "vitest";

import type { Run } from "../../api/client";
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
  } as const;
  const run = { id: "r", sitting: "s", workload: "Tiles", position: 1, version: 4, readings: {}, ...noted };
  const back = runAsItWas("w", run as unknown as Run);
  expect(back).toMatchObject({ ...noted, id: "r", sitting: "s", workload: "w", position: 1 });
  expect(back.version).toBeNull();
});

import { expect, it } from "vitest";

import type { Case } from "../api/client";
import { notLookedAtYet } from "./shown";

it("tells of a look only at swaps with readings on both sides that nobody is known to have seen", () => {
  const builds = ["a", "b", "c"].map((id) => ({ id, sealed: id !== "c" }));
  const swap = (id: string, before: string, after: string, looked_at: string | null = null) => ({
    id,
    before,
    after,
    looked_at,
  });
  const swaps = [swap("1", "a", "b"), swap("2", "b", "c"), swap("3", "b", "a", "2026-05-04T09:00:00Z")];
  expect(notLookedAtYet({ builds, swaps } as unknown as Case)).toEqual(["1"]);
});

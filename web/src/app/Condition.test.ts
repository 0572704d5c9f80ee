import { describe, expect, it } from "vitest";

import { type Health, Lost } from "../api/client";
import { sayCondition } from "./Condition";

const WELL: Health = { database: "here", space: "ample", free_mb: 80_000, full_mb: 200 };

describe("how the server is", () => {
  it("is not spoken of while all is well, or before anything is known", () => {
    expect(sayCondition(WELL, null)).toBeNull();
    expect(sayCondition(undefined, null)).toBeNull();
  });
  it("is said by what keeps it from its work, the nearest first", () => {
    expect(sayCondition(WELL, new Lost().message)).toMatch(/server does not answer/);
    expect(sayCondition({ ...WELL, database: "away", space: "full" }, null)).toMatch(/database is away/);
    expect(sayCondition({ ...WELL, space: "full", free_mb: 120 }, null)).toMatch(
      /120 MB are free.*nothing is saved/,
    );
    expect(sayCondition({ ...WELL, space: "scarce", free_mb: 430 }, null)).toMatch(/430 MB.*below 200 MB/);
  });
});

import { describe, expect, it } from "vitest";

import { firstWindow, moved } from "./heat";

describe("the window that counts", () => {
  it("is where the heat was read, else the last minute that every run reached", () => {
    expect(firstWindow({ same_s: 600, window: [420, 600] })).toEqual([420, 600]);
    expect(firstWindow({ same_s: 600, window: null })).toEqual([540, 600]);
    expect(firstWindow({ same_s: 40, window: null })).toEqual([0, 40]);
  });

  it("moves as a whole, and stops at both ends", () => {
    expect(moved([540, 600], -60, 600)).toEqual([480, 540]);
    expect(moved([540, 600], 60, 600)).toEqual([540, 600]);
    expect(moved([30, 90], -60, 600)).toEqual([0, 60]);
  });
});

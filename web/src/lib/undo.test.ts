import { describe, expect, it } from "vitest";

import { currentUndo, offerUndo, withdrawUndo } from "./undo";

describe("an offer to undo", () => {
  it("is withdrawn by its own end alone, never by that of one before it", async () => {
    const back: string[] = [];
    offerUndo("first", () => Promise.resolve(back.push("first")));
    offerUndo("second", () => Promise.resolve(back.push("second")));
    withdrawUndo(1);
    expect(currentUndo()?.what).toBe("second");
    await currentUndo()?.bringBack();
    withdrawUndo(currentUndo()?.id ?? 0);
    expect(currentUndo()).toBeNull();
    expect(back).toEqual(["second"]);
  });
});

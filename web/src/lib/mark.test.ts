import { describe, expect, it } from "vitest";

import { sayRead } from "./mark";

describe("what was read of a number", () => {
  it("stands beside it where thousands are parted, by the machine's own mark", () => {
    expect(sayRead("1,000", ".")).toBe("read: 1000");
    expect(sayRead("3.500,5", ",")).toBe("read: 3500,5");
    expect(sayRead("1 240", ".")).toBe("read: 1240");
  });
  it("is left out where nothing was made of it", () => {
    for (const typed of ["1000", "3.5", "1,5", "12,34,5", "", "fast"])
      expect(sayRead(typed, ".")).toBeUndefined();
  });
});

import { describe, expect, it } from "vitest";

import { bind } from "./bind";

describe("a field that is bound to its form", () => {
  const drafts: object[] = [];
  const at = bind(
    { name: "rig", owner: "" },
    (draft) => drafts.push(draft),
    (field) => (field === "owner_name" ? "too long" : undefined),
  );
  it("shows what stands there and changes it alone", () => {
    const name = at("name");
    name.onChange("rig 2");
    expect(name).toMatchObject({ value: "rig", problem: undefined });
    expect(drafts).toEqual([{ name: "rig 2", owner: "" }]);
  });
  it("says what the server refused under the server's own word", () => {
    expect(at("owner", "owner_name").problem).toBe("too long");
    expect(at("owner").problem).toBeUndefined();
  });
});

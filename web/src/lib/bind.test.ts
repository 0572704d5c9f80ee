import { describe, expect, it } from "vitest";

import { bind } from "./bind";

describe("a field that is bound to its form", () => {
  const changes: object[] = [];
  const at = bind(
    { name: "rig", owner: "" },
    (change) => changes.push(change),
    (field) => (field === "owner_name" ? "too long" : undefined),
  );
  it("shows what stands there and changes it alone", () => {
    const name = at("name");
    name.onChange("rig 2");
    expect(name).toMatchObject({ value: "rig", problem: undefined });
    expect(changes).toEqual([{ name: "rig 2" }]);
  });
  it("says what the server refused under the server's own word", () => {
    expect(at("owner", "owner_name").problem).toBe("too long");
    expect(at("owner").problem).toBeUndefined();
  });
});

import { describe, expect, it } from "vitest";

import { isolated, unmarked } from "./bidi";

const NAME = "מדפסת מפות";

describe("names from right to left", () => {
  it("are isolated where they stand, and nothing else is", () => {
    expect(isolated(`${NAME} 1.015×`)).toBe(`\u2068${NAME}\u2069 1.015×`);
    expect(isolated(`a (${NAME}), b`)).toBe(`a (\u2068${NAME}\u2069), b`);
    expect(isolated("Plotting PC: 1.34× as fast")).toBe("Plotting PC: 1.34× as fast");
  });
  it("come back as they were recorded", () => {
    expect(unmarked(isolated(`${NAME} and ${NAME}`))).toBe(`${NAME} and ${NAME}`);
  });
});

import { expect, it } from "vitest";

import { wrapWords } from "./chartFile";

it("breaks a caption into lines between words, and loses none of them", () => {
  const text = "Tile rendering 1.34× as fast, real; 95 % interval +32.7 to +35.5 %";
  const lines = wrapWords(text, 24);
  expect(lines.join(" ")).toBe(text);
  expect(Math.max(...lines.map((line) => line.length))).toBeLessThanOrEqual(24);
  expect(wrapWords("averylongwordthatfitsnowhere", 5)).toEqual(["averylongwordthatfitsnowhere"]);
});

import { expect, it } from "vitest";

import { isWork } from "./work";

it("calls a time, a rate and a score work, and nothing else", () => {
  const kinds = [
    "time",
    "rate",
    "score",
    "power",
    "clock",
    "fan",
    "heat",
    "noise",
    "amount",
    "felt",
  ] as const;
  expect(kinds.filter((kind) => isWork({ kind }))).toEqual(["time", "rate", "score"]);
});

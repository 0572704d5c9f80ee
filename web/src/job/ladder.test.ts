import { describe, expect, it } from "vitest";

import type { Case } from "../api/client";
import { layLadder } from "./ladder";

const job = (swaps: string[]): Case =>
  ({
    builds: [...new Set(["A", ...swaps.map((swap) => swap[1])])].map((id) => ({
      id,
      letter: id,
      label: String(id),
    })),
    swaps: swaps.map((swap, n) => ({ id: `s${n}`, before: swap[0], after: swap[1] })),
  }) as unknown as Case;

const drawn = (swaps: string[]) =>
  layLadder(job(swaps)).map((rung) => `${rung.build.letter}${rung.lane}<${rung.parent ?? "-"}`);

describe("the build ladder", () => {
  it("is one lane where each build comes from the one before", () => {
    expect(drawn(["AB", "BC", "CD"])).toEqual(["A0<-", "B0<0", "C0<1", "D0<2"]);
  });
  it("branches where two builds come from the same one", () => {
    expect(drawn(["AB", "AC", "BD"])).toEqual(["A0<-", "B0<0", "C1<0", "D0<1"]);
  });
  it("shows going back at the build that it goes back to, without a new rung", () => {
    const rungs = layLadder(job(["AB", "BA", "AB"]));
    expect(rungs.map((rung) => rung.returns.map((swap) => swap.id))).toEqual([["s1"], ["s2"]]);
  });
  it("keeps twelve builds in as many lanes as there are branches", () => {
    const chain = "ABCDEFGHIJK".split("").map((letter, n) => letter + "BCDEFGHIJKL".charAt(n));
    expect(layLadder(job(chain)).every((rung) => rung.lane === 0)).toBe(true);
  });
});

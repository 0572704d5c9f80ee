import type { Build, Case, Swap } from "../api/client";

/** A build in the ladder: which lane it stands in, where it comes from, and the swaps back to it. */
export interface Rung {
  build: Build;
  lane: number;
  /** Number of the rung that it was built from; null for a first build. */
  parent: number | null;
  swap: Swap | undefined;
  /** Later swaps that lead back here, from a build elsewhere in the ladder. */
  returns: Swap[];
}

/**
 * Lay the builds out: each goes on in the lane of the build it came from, while that lane ends there; a second one
 * from the same build is a branch and takes the next free lane.
 */
export function layLadder(job: Case): Rung[] {
  const rungs: Rung[] = [];
  const lastInLane: string[] = [];
  for (const build of job.builds) {
    const into = job.swaps.filter((swap) => swap.after === build.id);
    const swap = rungs.length ? into[0] : undefined;
    const parent = swap ? rungs.findIndex((rung) => rung.build.id === swap.before) : -1;
    const parentLane = rungs[parent]?.lane;
    const goesOn = parentLane !== undefined && lastInLane[parentLane] === swap?.before;
    const lane = goesOn ? parentLane : lastInLane.length;
    lastInLane[lane] = build.id;
    const returns = swap ? into.slice(1) : into;
    rungs.push({ build, lane, parent: parent < 0 ? null : parent, swap, returns });
  }
  return rungs;
}

import { useEffect, useState, useSyncExternalStore } from "react";

import { changesOfDesks, followDesks, type Unsent, unsentIn } from "./desk";

/** What is typed in these sittings and not saved yet. */
export function useUnsent(sittings: readonly string[]): Unsent[] {
  useSyncExternalStore(followDesks, changesOfDesks);
  return unsentIn(sittings);
}

/** Whether it goes by itself in a moment: it is being sent, or about to be. */
export const isGoing = ({ entry, status }: Unsent): boolean =>
  status ? status.kind === "sending" : entry.ready;

/**
 * Does something that ends the free typing in sittings, once all that is typed in them is saved.
 *
 * `held` is what keeps it from being done, told once it was wanted.
 */
export function useOnceSent(
  sittings: readonly string[],
  act: () => void,
): { run: () => void; held: Unsent[] } {
  const unsent = useUnsent(sittings);
  const [stage, setStage] = useState<"idle" | "waits" | "held">("idle");
  const held = unsent.filter((each) => !isGoing(each));
  const isBlocked = held.length > 0;
  const isAllSent = unsent.length === 0;
  useEffect(() => {
    if (stage !== "waits" || !(isAllSent || isBlocked)) return;
    queueMicrotask(() => {
      setStage(isBlocked ? "held" : "idle");
      if (isAllSent) act();
    });
  });
  return {
    run: () => (isAllSent ? act() : setStage("waits")),
    held: stage === "held" ? held : [],
  };
}

import { useSyncExternalStore } from "react";

/** How long the undoing of a removal is offered. */
export const OFFERED_MS = 10_000;

export interface Undo {
  id: number;
  /** What was removed. */
  what: string;
  /** Brings it back as it was. */
  bringBack: () => Promise<unknown>;
}

let offered: Undo | null = null;
const waiting = new Set<() => void>();

const set = (undo: Undo | null): void => {
  offered = undo;
  for (const tell of waiting) tell();
};

/** Offers to undo a removal, on whichever screen is shown next; one at a time. */
export const offerUndo = (what: string, bringBack: () => Promise<unknown>): void =>
  set({ id: (offered?.id ?? 0) + 1, what, bringBack });

/** Ends the offer, unless another one took its place. */
export const withdrawUndo = (id: number): void => {
  if (offered?.id === id) set(null);
};

export const currentUndo = (): Undo | null => offered;

const subscribe = (tell: () => void): (() => void) => {
  waiting.add(tell);
  return () => waiting.delete(tell);
};

export const useUndo = (): Undo | null => useSyncExternalStore(subscribe, currentUndo);

import { useCallback, useEffect, useState } from "react";

import { withNewerNames } from "./olderNames";

/** What is typed and not yet saved lives in the browser's own storage, so that neither a reload nor a lost server takes it. */
const PREFIX = "lynxbill.draft.";
/** Raised when drafts are kept in another form; one of a later program than this is not understood. */
const SHAPE = 2;

type Fields = Record<string, unknown>;

const isFields = (value: unknown): value is Fields =>
  typeof value === "object" && value !== null && !Array.isArray(value);

/** Whether a value could stand where another one does: of the same kind, its members too. */
function isLike(usual: unknown, value: unknown): boolean {
  if (usual === null || usual === undefined || value === null) return true;
  if (Array.isArray(usual))
    return Array.isArray(value) && (usual.length === 0 || value.every((each) => isLike(usual[0], each)));
  if (!isFields(usual)) return typeof value === typeof usual;
  return (
    isFields(value) && Object.keys(usual).every((key) => !(key in value) || isLike(usual[key], value[key]))
  );
}

/**
 * A draft as a form of today can show it: fields that it lacks, or holds in another kind, are those of an empty form.
 *
 * Null where nothing of it can be used.
 */
export function fitDraft<T>(initial: T, kept: unknown): T | null {
  if (!isFields(initial)) return isLike(initial, kept) ? (kept as T) : null;
  if (!isFields(kept)) return null;
  const fields = Object.entries(initial).map(([key, usual]) => {
    const usable = key in kept && isLike(usual, kept[key]);
    return [key, usable ? kept[key] : usual];
  });
  return { ...kept, ...Object.fromEntries(fields) } as T;
}

/** What was kept under a key, or null where there is nothing that this program understands. */
export function readKept(key: string): unknown {
  try {
    const kept = JSON.parse(localStorage.getItem(PREFIX + key) ?? "null") as unknown;
    // Before drafts had a shape they stood there bare.
    if (!isFields(kept) || !("shape" in kept && "draft" in kept)) return withNewerNames(kept);
    if (kept["shape"] === 1) return withNewerNames(kept["draft"]);
    return kept["shape"] === SHAPE ? kept["draft"] : null;
  } catch {
    return null;
  }
}

export function keepDraft(key: string, draft: unknown): void {
  if (draft === null) localStorage.removeItem(PREFIX + key);
  else localStorage.setItem(PREFIX + key, JSON.stringify({ shape: SHAPE, draft }));
}

/** Keys of drafts that forms on the screen, or on their way there, stand on. */
const inUse = new Set<string>();
export const draftsInUse = (): string[] => [...inUse];

const ASIDE = "lynxbill.aside.";

/** A draft that a screen could not be shown with: what it is of, and what was typed in it. */
export interface Aside {
  key: string;
  texts: string[];
}

/** Takes drafts away from their forms, and keeps what was typed in them to be read. */
export function setDraftsAside(keys: readonly string[]): void {
  for (const key of keys) {
    const kept = localStorage.getItem(PREFIX + key);
    if (kept !== null) localStorage.setItem(ASIDE + key, kept);
    localStorage.removeItem(PREFIX + key);
    inUse.delete(key);
  }
}

/** The drafts that were set aside in this browser. */
export const draftsAside = (): Aside[] =>
  Object.keys(localStorage)
    .filter((key) => key.startsWith(ASIDE))
    .map((key) => ({ key: key.slice(ASIDE.length), texts: textsOf(localStorage.getItem(key) ?? "") }));

export const dropAside = (key: string): void => localStorage.removeItem(ASIDE + key);

const IDENTIFIER = /^[0-9a-f]{8}-[0-9a-f-]{27}$/;

/** Every text that was typed into a draft, in its order. */
export function textsOf(kept: string): string[] {
  const found: string[] = [];
  const walk = (value: unknown): void => {
    if (typeof value === "string" && value.trim() && !IDENTIFIER.test(value)) found.push(value);
    else if (typeof value === "object" && value !== null) Object.values(value).forEach(walk);
  };
  try {
    walk(JSON.parse(kept));
  } catch {
    found.push(kept);
  }
  return found;
}

/** Calls back whenever another tab changes what is kept under a key; answers how to end that. */
export function whenKept(key: string, then: () => void): () => void {
  const onStorage = (event: StorageEvent) => {
    if (event.key === PREFIX + key) then();
  };
  window.addEventListener("storage", onStorage);
  return () => window.removeEventListener("storage", onStorage);
}

/** The keys that begin so and have a draft. */
export const keptKeys = (begin: string): string[] =>
  Object.keys(localStorage)
    .filter((key) => key.startsWith(PREFIX + begin))
    .map((key) => key.slice(PREFIX.length));

/**
 * State of a form that survives a reload. `initial` stands until something is typed; `forget` drops the draft
 * once it is saved. `fit` says what of a kept draft can be used, where its fields alone don't tell.
 */
export function useDraft<T>(
  key: string,
  initial: T,
  fit: (kept: unknown) => T | null = (kept) => fitDraft(initial, kept),
): [T, (next: T) => void, () => void, boolean] {
  const read = () => {
    const kept = readKept(key);
    return kept === null ? null : fit(kept);
  };
  const [held, setHeld] = useState(() => ({ key, draft: read() }));
  const draft = held.key === key ? held.draft : read();
  const hasDraft = draft !== null;
  // Before anything is drawn from it: what ends the screen may be in the draft.
  if (hasDraft) inUse.add(key);
  useEffect(() => {
    if (!hasDraft) inUse.delete(key);
    return () => void inUse.delete(key);
  }, [key, hasDraft]);
  // Another tab at the same form types into the same draft: what it holds is not to be written over.
  useEffect(() => whenKept(key, () => setHeld({ key, draft: read() })));
  // Written at once, not in an effect: a form that closes as it is saved would leave its draft behind.
  const keep = useCallback(
    (next: T | null) => {
      keepDraft(key, next);
      setHeld({ key, draft: next });
    },
    [key],
  );
  const forget = useCallback(() => keep(null), [keep]);
  return [draft ?? initial, keep, forget, hasDraft];
}

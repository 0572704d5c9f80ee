import { useCallback, useEffect, useState } from "react";

/** What is typed and not yet saved lives in the browser's own storage, so that neither a reload nor a lost server takes it. */
const PREFIX = "lynxbill.draft.";

export function readDraft<T>(key: string): T | null {
  const text = localStorage.getItem(PREFIX + key);
  return text === null ? null : (JSON.parse(text) as T);
}

export function writeDraft(key: string, draft: unknown): void {
  if (draft === null) localStorage.removeItem(PREFIX + key);
  else localStorage.setItem(PREFIX + key, JSON.stringify(draft));
}

/**
 * State of a form that survives a reload. `initial` stands until something is typed; `forget` drops the draft
 * once it is saved.
 */
export function useDraft<T>(key: string, initial: T): [T, (next: T) => void, () => void, boolean] {
  const [held, setHeld] = useState(() => ({ key, draft: readDraft<T>(key) }));
  const draft = held.key === key ? held.draft : readDraft<T>(key);
  // Another tab at the same form types into the same draft: what it holds is not to be written over.
  useEffect(() => {
    const onStorage = (event: StorageEvent) => {
      if (event.key === PREFIX + key) setHeld({ key, draft: readDraft<T>(key) });
    };
    window.addEventListener("storage", onStorage);
    return () => window.removeEventListener("storage", onStorage);
  }, [key]);
  // Written at once, not in an effect: a form that closes as it is saved would leave its draft behind.
  const keep = useCallback(
    (next: T | null) => {
      writeDraft(key, next);
      setHeld({ key, draft: next });
    },
    [key],
  );
  const forget = useCallback(() => keep(null), [keep]);
  return [draft ?? initial, keep, forget, draft !== null];
}

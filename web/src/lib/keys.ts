import { useEffect, useSyncExternalStore } from "react";

const SETTING = "lynxbill.single-keys";
const listeners = new Set<() => void>();

/** Whether single-letter keys act; a choice kept in this browser. */
export function useSingleKeys(): [boolean, (on: boolean) => void] {
  const on = useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => localStorage.getItem(SETTING) !== "off",
  );
  return [on, setSingleKeys];
}

function setSingleKeys(on: boolean): void {
  localStorage.setItem(SETTING, on ? "on" : "off");
  listeners.forEach((listener) => listener());
}

/** Calls the action of a key pressed outside fields and dialogs, without modifiers. */
export function useKeys(actions: Record<string, () => void>): void {
  const [on] = useSingleKeys();
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const action = actions[event.key];
      const typing = (event.target as HTMLElement).closest(
        "input, textarea, select, [role=dialog], [role=listbox]",
      );
      // Out of a field, so that single keys act again; what stands in it stays.
      if (event.key === "Escape" && typing?.matches("input, textarea, select")) {
        (event.target as HTMLElement).blur();
        return;
      }
      if (!action || typing || event.ctrlKey || event.metaKey || event.altKey) return;
      if (!on && event.key !== "?") return;
      event.preventDefault();
      action();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [actions, on]);
}

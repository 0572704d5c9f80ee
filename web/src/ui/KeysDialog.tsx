import { Switch } from "@headlessui/react";

import { useSingleKeys } from "../lib/keys";
import { Dialog } from "./Dialog";

const KEYS = [
  ["1 to 5", "Set up, Measure, Swap, Judge, Bill"],
  ["Enter", "in the run sheet: on to the next field, task and step"],
  [
    "Alt H, C, S, N, B, T",
    "in the run sheet: it hung, crashed, was stopped for safety, refused to start, broke off, ran out of time",
  ],
  ["Ctrl Z", "in the run sheet: take back the last entry"],
  ["X", "on Measure: mark the last run as spoiled, failed or partial"],
  ["N", "on Measure: begin the next sitting"],
  ["Esc", "out of a field or a dialog: then single keys act"],
  ["?", "this list"],
] as const;

/** Opens the list of keys, for those who have none and those who don't know the one for it. */
export function KeysButton({ onOpen }: { onOpen: () => void }) {
  return (
    <button
      type="button"
      className="ml-auto min-h-11 rounded-md px-2 text-soft hover:text-ink"
      onClick={onOpen}
    >
      <kbd className="rounded border border-edge px-1.5 font-sans">?</kbd> keys
    </button>
  );
}

export function KeysDialog({ open, onClose }: { open: boolean; onClose: () => void }) {
  const [on, setOn] = useSingleKeys();
  return (
    <Dialog title="Keys" open={open} onClose={onClose}>
      <dl className="grid grid-cols-[auto_1fr] gap-x-4 gap-y-2">
        {KEYS.map(([key, does]) => (
          <div key={key} className="contents">
            <dt className="font-semibold">{key}</dt>
            <dd>{does}</dd>
          </div>
        ))}
      </dl>
      <label className="mt-5 flex min-h-11 items-center gap-3">
        <Switch
          checked={on}
          onChange={setOn}
          className="group inline-flex h-6 w-11 items-center rounded-full bg-edge p-1 data-checked:bg-ink"
        >
          <span className="size-4 rounded-full bg-card transition group-data-checked:translate-x-5" />
        </Switch>
        Single keys act outside fields
      </label>
    </Dialog>
  );
}

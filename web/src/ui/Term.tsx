import { Popover, PopoverButton, PopoverPanel } from "@headlessui/react";

import { TERMS, type TermName } from "../lib/terms";

/** A word of ours that says in one sentence what it means: on demand, by key and by touch. */
export function Term({ name, children }: { name: TermName; children?: string }) {
  return (
    <Popover className="inline">
      <PopoverButton className="min-h-6 cursor-help underline decoration-dotted underline-offset-4">
        {children ?? name}
        <span className="sr-only">, what is that?</span>
      </PopoverButton>
      <PopoverPanel
        anchor="bottom start"
        className="z-30 max-w-80 rounded-lg border border-edge bg-card p-3 text-base font-normal tracking-normal text-ink normal-case shadow-lg"
      >
        {TERMS[name]}
      </PopoverPanel>
    </Popover>
  );
}

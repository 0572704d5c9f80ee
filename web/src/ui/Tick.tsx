import { Checkbox } from "@headlessui/react";

interface Props {
  label: string;
  checked: boolean;
  onChange: (checked: boolean) => void;
}

/** A step to tick: the whole line is the target. */
export function Tick({ label, checked, onChange }: Props) {
  return (
    <Checkbox
      checked={checked}
      onChange={onChange}
      aria-label={label}
      className="flex min-h-11 min-w-0 flex-1 cursor-pointer items-center gap-3 py-1 text-left"
    >
      <span
        aria-hidden
        className={`grid size-6 shrink-0 place-items-center rounded-md border-2 ${checked ? "border-ink bg-ink text-paper" : "border-edge bg-card"}`}
      >
        {checked && "✓"}
      </span>
      <span className={checked ? "text-soft" : "font-medium"}>{label}</span>
    </Checkbox>
  );
}

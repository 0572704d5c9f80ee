import { Checkbox } from "@headlessui/react";

interface Props {
  label: string;
  choices: readonly string[];
  chosen: readonly string[];
  onChange: (chosen: string[]) => void;
}

/** Things to tick as they happen. */
export function Chips({ label, choices, chosen, onChange }: Props) {
  return (
    <div role="group" aria-label={label} className="flex flex-wrap gap-2">
      {choices.map((choice) => {
        const on = chosen.includes(choice);
        const toggle = () => onChange(on ? chosen.filter((other) => other !== choice) : [...chosen, choice]);
        return (
          <Checkbox
            key={choice}
            checked={on}
            aria-label={choice}
            onChange={toggle}
            // Enter ticks it as Space does, and sends no form around it.
            onKeyUpCapture={(event) => {
              if (event.key !== "Enter") return;
              event.stopPropagation();
              toggle();
            }}
            className="inline-flex min-h-11 cursor-pointer items-center rounded-full border border-edge bg-card px-4 data-checked:border-ink data-checked:bg-ink data-checked:text-paper"
          >
            {on && "✓ "}
            {choice}
          </Checkbox>
        );
      })}
    </div>
  );
}

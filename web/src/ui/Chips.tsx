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
        return (
          <Checkbox
            key={choice}
            checked={on}
            aria-label={choice}
            onChange={(next) =>
              onChange(next ? [...chosen, choice] : chosen.filter((other) => other !== choice))
            }
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

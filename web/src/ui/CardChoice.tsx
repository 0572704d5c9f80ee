import { Radio, RadioGroup } from "@headlessui/react";
import { useEffect, useRef } from "react";

interface Props<T extends string> {
  label: string;
  value: T;
  cards: readonly { value: T; name: string; hint: string }[];
  onChange: (value: T) => void;
}

/** The first question of a page, one of a few answers: the cursor is there, arrows move, a tap chooses. */
export function CardChoice<T extends string>({ label, value, cards, onChange }: Props<T>) {
  const group = useRef<HTMLDivElement>(null);
  useEffect(() => {
    group.current?.querySelector<HTMLElement>("[role=radio][aria-checked=true]")?.focus();
  }, []);
  return (
    <RadioGroup
      ref={group}
      value={value}
      aria-label={label}
      className="grid grid-cols-2 gap-2.5 md:grid-cols-4"
      onChange={onChange}
    >
      {cards.map((card) => (
        <Radio
          key={card.value}
          value={card.value}
          aria-label={card.name}
          className="min-h-16 cursor-pointer rounded-xl border border-edge bg-card p-3 data-checked:border-ink data-checked:bg-ink data-checked:text-paper"
        >
          <span className="block font-semibold">{card.name}</span>
          <span className="block text-sm">{card.hint}</span>
        </Radio>
      ))}
    </RadioGroup>
  );
}

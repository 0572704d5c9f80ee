import { Description, Field as Headless, Input, Label, Select, Textarea } from "@headlessui/react";
import { type ReactNode, useContext } from "react";

import { Mark, sayRead } from "../lib/mark";

interface Common {
  label: string;
  value: string;
  onChange: (value: string) => void;
  problem?: string | undefined;
  hint?: string;
  hideLabel?: boolean;
}

function Frame({
  label,
  problem,
  hint,
  hideLabel,
  children,
}: Omit<Common, "value" | "onChange"> & { children: ReactNode }) {
  return (
    <Headless className="min-w-0">
      <Label className={hideLabel ? "sr-only" : "mb-1 block text-soft"}>{label}</Label>
      {children}
      {hint && !problem && <Description className="mt-1 text-sm text-soft">{hint}</Description>}
      {problem && (
        <Description className="mt-1 text-sm font-medium text-warn" role="alert">
          {problem}
        </Description>
      )}
    </Headless>
  );
}

interface TextProps extends Common {
  required?: boolean;
  inputMode?: "decimal" | "text";
  placeholder?: string;
  autoFocus?: boolean;
  maxLength?: number;
}

export function TextField({
  value,
  onChange,
  required,
  inputMode,
  placeholder,
  autoFocus,
  maxLength,
  ...frame
}: TextProps) {
  const mark = useContext(Mark);
  const read = inputMode === "decimal" ? sayRead(value, mark) : undefined;
  const hint = [frame.hint, read].filter(Boolean).join(" ");
  return (
    <Frame {...frame} hint={hint}>
      <Input
        className="field"
        value={value}
        required={required}
        inputMode={inputMode}
        placeholder={placeholder}
        autoFocus={autoFocus ?? false}
        maxLength={maxLength}
        autoComplete="off"
        invalid={Boolean(frame.problem)}
        aria-invalid={Boolean(frame.problem)}
        onChange={(event) => onChange(event.target.value)}
      />
    </Frame>
  );
}

/** A day, chosen or typed; empty where none is. */
export function DateField({ value, onChange, ...frame }: Common) {
  return (
    <Frame {...frame}>
      <Input
        type="date"
        className="field"
        value={value}
        invalid={Boolean(frame.problem)}
        onChange={(event) => onChange(event.target.value)}
      />
    </Frame>
  );
}

export function NoteField({ value, onChange, isTall = false, ...frame }: Common & { isTall?: boolean }) {
  return (
    <Frame {...frame}>
      <Textarea
        className={`field py-2 ${isTall ? "h-56 tabular-nums" : "h-20"}`}
        aria-invalid={Boolean(frame.problem)}
        value={value}
        onChange={(event) => onChange(event.target.value)}
      />
    </Frame>
  );
}

interface ChoiceProps<T extends string> extends Omit<Common, "value" | "onChange"> {
  value: T;
  choices: readonly (readonly [T, string])[];
  onChange: (value: T) => void;
}

export function ChoiceField<T extends string>({ value, choices, onChange, ...frame }: ChoiceProps<T>) {
  return (
    <Frame {...frame}>
      <Select
        className="field"
        value={value}
        aria-invalid={Boolean(frame.problem)}
        onChange={(event) => onChange(event.target.value as T)}
      >
        {choices.map(([key, text]) => (
          <option key={key} value={key}>
            {text}
          </option>
        ))}
      </Select>
    </Frame>
  );
}

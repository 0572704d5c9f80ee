import { type ReactNode, useRef } from "react";

import { Button } from "./Button";

interface Props {
  /** What the file is, for those who can't see the button. */
  label: string;
  /** Kinds of files that are offered. */
  accept: string;
  look?: "plain" | "quiet";
  /** With the device's camera, where it has one. */
  hasCamera?: boolean;
  disabled: boolean;
  children: ReactNode;
  onChoose: (file: File) => void;
}

/** A button that asks for one file; the same may be chosen again, mended. */
export function FileButton({ label, accept, look, hasCamera, disabled, children, onChoose }: Props) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <input
        ref={input}
        type="file"
        accept={accept}
        {...(hasCamera && { capture: "environment" })}
        aria-label={label}
        className="sr-only"
        tabIndex={-1}
        onChange={(event) => {
          const file = event.target.files?.[0];
          if (file) onChoose(file);
          event.target.value = "";
        }}
      />
      <Button look={look ?? "plain"} disabled={disabled} onClick={() => input.current?.click()}>
        {children}
      </Button>
    </>
  );
}

import { type ReactNode, useRef } from "react";

import { Button } from "./Button";
import { Note } from "./Note";

interface Props {
  /** What the photo is of, for those who can't see the button. */
  label: string;
  children: ReactNode;
  disabled: boolean;
  error: Error | null;
  onChoose: (file: File) => void;
}

/** A button that takes a photo with the device's camera, or an image file. */
export function PhotoButton({ label, children, disabled, error, onChoose }: Props) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <input
        ref={input}
        type="file"
        accept="image/*"
        capture="environment"
        aria-label={label}
        className="sr-only"
        tabIndex={-1}
        onChange={(event) => {
          const file = event.target.files?.[0];
          if (file) onChoose(file);
          event.target.value = "";
        }}
      />
      <Button disabled={disabled} onClick={() => input.current?.click()}>
        {children}
      </Button>
      {error && (
        <div className="basis-full">
          <Note alert>
            {error instanceof DOMException ? "This file is no picture that can be read." : error.message}
          </Note>
        </div>
      )}
    </>
  );
}

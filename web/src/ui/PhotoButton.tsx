import type { ReactNode } from "react";

import { FileButton } from "./FileButton";
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
  return (
    <>
      <FileButton label={label} accept="image/*" hasCamera disabled={disabled} onChoose={onChoose}>
        {children}
      </FileButton>
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

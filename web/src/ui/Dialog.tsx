import { Dialog as Headless, DialogBackdrop, DialogPanel, DialogTitle } from "@headlessui/react";
import type { ReactNode } from "react";

interface Props {
  title: string;
  open: boolean;
  onClose: () => void;
  children: ReactNode;
  /** For what has many columns. */
  isWide?: boolean;
}

export function Dialog({ title, open, onClose, children, isWide = false }: Props) {
  return (
    <Headless open={open} onClose={onClose} className="relative z-20">
      <DialogBackdrop className="fixed inset-0 bg-black/40" />
      <div className="fixed inset-0 grid place-items-center p-4">
        <DialogPanel
          className={`card max-h-full w-full overflow-auto p-6 shadow-lg ${isWide ? "max-w-4xl" : "max-w-lg"}`}
        >
          <DialogTitle className="mb-4 text-xl font-semibold">{title}</DialogTitle>
          {children}
        </DialogPanel>
      </div>
    </Headless>
  );
}

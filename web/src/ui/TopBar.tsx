import type { ReactNode } from "react";
import { Link } from "react-router";

/** The bar at the head of every screen. */
export function TopBar({ context, children }: { context: string; children: ReactNode }) {
  return (
    <header className="flex min-h-14 flex-wrap items-center gap-x-5 gap-y-1 border-b border-line bg-card px-5 py-1">
      <Link to="/" className="flex min-h-11 items-center gap-2 text-lg font-bold tracking-tight">
        <span aria-hidden className="grid size-3 place-items-center rounded-full bg-eye">
          <span className="h-2 w-0.5 rounded-full bg-black" />
        </span>
        Lynxbill
      </Link>
      <span className="max-w-80 truncate text-soft" title={context}>
        {context}
      </span>
      {children}
    </header>
  );
}

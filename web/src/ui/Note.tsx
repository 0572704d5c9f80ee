import type { ReactNode } from "react";

/** A remark beside the work; `alert` for what went wrong just now. */
export function Note({ children, alert = false }: { children: ReactNode; alert?: boolean }) {
  return (
    <div
      role={alert ? "alert" : undefined}
      className={`rounded-lg border bg-note px-3 py-2 ${alert ? "border-2 border-warn" : "border-line"}`}
    >
      {children}
    </div>
  );
}

/** What a query shows while it waits or after it failed. */
export function Waiting({ error }: { error: Error | null }) {
  return (
    <div className="p-6">
      {error ? <Note alert>{error.message}</Note> : <p className="text-soft">Reading…</p>}
    </div>
  );
}

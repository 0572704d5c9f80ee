import { useQueryClient } from "@tanstack/react-query";

import type { Case } from "../api/client";
import { Button } from "../ui/Button";
import { Note } from "../ui/Note";
import { deskAt, type Unsent } from "./desk";

interface Props {
  job: Case;
  unsent: Unsent[];
  /** What does not happen because of it. */
  lead: string;
}

/** What is typed and not saved, row by row, and what can be done about each. */
export function UnsentNote({ job, unsent, lead }: Props) {
  const client = useQueryClient();
  if (unsent.length === 0) return null;
  return (
    <Note alert>
      <p className="font-semibold">{lead}</p>
      <ul className="space-y-1 pl-5">
        {unsent.map((row) => (
          <li key={`${row.workload} ${row.sitting} ${row.position}`} className="list-disc">
            {sayRow(job, row)}
            {isTooLate(job, row) && (
              <span className="mt-1 flex flex-wrap gap-2">
                <Button
                  onClick={() => deskAt(client, row).act({ kind: "sent late", position: row.position })}
                >
                  Send it, as a late change
                </Button>
                <Button
                  look="quiet"
                  onClick={() => deskAt(client, row).act({ kind: "dropped", positions: [row.position] })}
                >
                  Drop it
                </Button>
              </span>
            )}
          </li>
        ))}
      </ul>
    </Note>
  );
}

/** Whether it was typed while its sitting was open, which has been closed since. */
export const isTooLate = (job: Case, { sitting, entry }: Unsent): boolean =>
  !entry.late && job.sittings.find(({ id }) => id === sitting)?.closed_at !== null;

function sayRow(job: Case, row: Unsent): string {
  const workload = job.workloads.find(({ id }) => id === row.workload)?.name ?? "a task that is gone";
  const typed = Object.values(row.entry.texts).filter((text) => text.trim());
  const figures = typed.length ? ` (${typed.join(", ")})` : "";
  const name = `${workload}, ${row.position > 0 ? `run ${row.position}` : "a warm-up"}${figures}`;
  if (isTooLate(job, row)) return `${name}: typed before the sitting was closed, and no part of it.`;
  switch (row.status?.kind) {
    case "refused":
      return `${name}: ${Object.values(row.status.cells)[0] ?? row.status.message}`;
    case "lost":
      return `${name}: the server does not answer; it is sent by itself when it is back.`;
    case "sending":
      return `${name}: being saved.`;
    case undefined:
      return row.entry.ready
        ? `${name}: being saved.`
        : `${name}: typed, and not left with Enter yet: go to its sheet.`;
  }
}

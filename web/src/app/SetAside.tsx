import { useState } from "react";

import { type Aside, draftsAside, dropAside } from "../lib/draft";
import { Button } from "../ui/Button";
import { Note } from "../ui/Note";

const FORMS: Record<string, string> = {
  build: "a build",
  candidate: "a candidate",
  columns: "names of columns",
  explanation: "an explanation",
  "leave-out": "a run to be left out",
  limits: "the machine’s limits",
  "new-machine": "a new machine",
  note: "a note",
  "over-time": "readings over time",
  plan: "a plan",
  question: "the machine’s question",
  recorded: "a recorded swap",
  report: "a report",
  sheet: "a run sheet",
  shelf: "a part for the shelf",
  sitting: "the conditions of a sitting",
  start: "a new job",
  swap: "a swap",
  timers: "timers",
  workload: "a task",
};

/** Forms whose draft could not be shown: what was typed in each can still be read, and typed anew. */
export function SetAside() {
  const [, setDropped] = useState(0);
  const drafts = draftsAside();
  if (drafts.length === 0) return null;
  return (
    <div className="px-6 pt-4">
      <Note alert>
        <p className="font-semibold">
          A form could not be shown with what was typed into it here. That was set aside, and nothing of it
          was saved:
        </p>
        <ul className="space-y-1">
          {drafts.map((draft) => (
            <li key={draft.key} className="flex flex-wrap items-center gap-3">
              <span className="min-w-0 wrap-anywhere">{say(draft)}</span>
              <Button
                onClick={() => {
                  dropAside(draft.key);
                  setDropped((count) => count + 1);
                }}
              >
                Drop it
              </Button>
            </li>
          ))}
        </ul>
      </Note>
    </div>
  );
}

function say({ key, texts }: Aside): string {
  const form = FORMS[key.split(".")[0] ?? ""] ?? "a form";
  return `${form}: ${texts.length ? texts.map((text) => `“${text}”`).join(", ") : "no text"}.`;
}

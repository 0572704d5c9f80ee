import type { Case } from "../api/client";
import { formatTime } from "../lib/format";
import { Note } from "../ui/Note";

/** What the bench agent saw otherwise than the build says; nothing where it saw what is written down. */
export function ShownDeparts({ job }: { job: Case }) {
  const { shown } = job;
  if (!shown || shown.departs.length === 0) return null;
  return (
    <Note>
      <b className="font-semibold">
        The machine does not show what build {shown.build} says ({formatTime(shown.at, job.machine.time_zone)}
        ).
      </b>
      <ul className="list-disc pl-5">
        {shown.departs.map((line) => (
          <li key={line}>{line}</li>
        ))}
      </ul>
    </Note>
  );
}

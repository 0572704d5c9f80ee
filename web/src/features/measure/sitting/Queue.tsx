import type { Case, Sitting, Workload } from "../../../api/client";
import { planFor, swapOf } from "../../../job/model";
import { type Queued, saySitting, stepAfter } from "../model";

interface Props {
  job: Case;
  sitting: Sitting;
  queue: Queued[];
  current: Workload;
  onChoose: (workload: string) => void;
}

/** The queue of a sitting: its workloads in order, each with its runs as dots, and what comes after all of them. */
export function Queue({ job, sitting, queue, current, onChoose }: Props) {
  const build = job.builds.find((other) => other.id === sitting.build);
  const isAfter = swapOf(job, sitting.build)?.after === sitting.build;
  const planned = planFor(job, sitting.build).measures;
  const side = isAfter ? "After" : "Before";
  return (
    <nav aria-label="Tasks" className="min-w-0 space-y-3">
      <div>
        <p className={`eyebrow ${isAfter ? "text-after!" : "text-before!"}`}>
          {side} · build {build?.letter}
        </p>
        <p className="text-lg font-semibold">{saySitting(job, sitting)}</p>
      </div>
      <ul className="flex flex-wrap gap-1.5 xl:block xl:space-y-1">
        {queue.map((queued) => (
          <li key={queued.workload.id}>
            <button
              type="button"
              aria-current={queued.workload.id === current.id ? "true" : undefined}
              className="flex min-h-11 w-full items-center justify-between gap-3 rounded-lg border border-transparent px-3 py-1 text-left hover:bg-note aria-[current]:border-ink aria-[current]:bg-card aria-[current]:font-semibold"
              onClick={() => onChoose(queued.workload.id)}
            >
              <span className="min-w-0 wrap-anywhere">{queued.workload.name}</span>
              <Runs queued={queued} />
            </button>
          </li>
        ))}
      </ul>
      <p className="border-t border-line pt-2 text-sm text-soft">
        Then: {lowerFirst(stepAfter(job, { ...sitting, closed_at: sitting.started_at }).text)}.
        {Object.keys(planned).length === 0 && " Nothing is planned yet."}
      </p>
    </nav>
  );
}

const MOST_DOTS = 8;

/** "●●○○○", said as "2 of 5"; where there are too many for dots, in figures. */
function Runs({ queued: { done, failed, planned } }: { queued: Queued }) {
  const worded = `${done > planned ? done : `${done} of ${planned}`}${failed > 0 ? `, ${failed} without a figure` : ""}`;
  if (planned > MOST_DOTS || done > planned)
    return <span className="text-sm whitespace-nowrap text-soft">{worded}</span>;
  return (
    <span className="whitespace-nowrap text-soft">
      <span className="sr-only">{worded}</span>
      <span aria-hidden>
        {"●".repeat(done)}
        {"○".repeat(planned - done)}
        {failed > 0 && ` ✕${failed}`}
      </span>
    </span>
  );
}

const lowerFirst = (text: string): string => text.charAt(0).toLowerCase() + text.slice(1);

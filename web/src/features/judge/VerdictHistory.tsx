import type { Case, Comparison, Measure, VerdictWord } from "../../api/client";
import { formatNumber, formatTime } from "../../lib/format";
import { verdictWord } from "../../ui/Verdict";
import { showingsOf } from "./model";

interface Props {
  job: Case;
  comparison: Comparison;
  measure: Measure;
}

/** Every verdict of a measure that was given to somebody, oldest first; nothing where there was one at most. */
export function VerdictHistory({ job, comparison, measure }: Props) {
  const entries = showingsOf(job, comparison, measure);
  if (entries.length < 2) return null;
  return (
    <details>
      <summary className="flex min-h-11 cursor-pointer items-center font-semibold">
        History of this verdict
      </summary>
      <ol className="space-y-1">
        {entries.map((entry) => (
          <li key={entry.at}>
            {formatTime(entry.at, job.machine.time_zone)}:{" "}
            <b className="font-semibold">{verdictWord(entry.verdict as VerdictWord).toLowerCase()}</b>
            <span className="text-soft">
              {entry.look == null ? ", outside the plan’s looks" : `, look ${entry.look}`}, at{" "}
              {formatNumber(100 * entry.level, 1).replace(/[.,]0$/, "")} %
              {entry.attempt > 1 && `, attempt ${entry.attempt}`}
            </span>
          </li>
        ))}
      </ol>
    </details>
  );
}

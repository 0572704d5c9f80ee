import { useQuery } from "@tanstack/react-query";

import type { Case, Doubt, Run, Sitting } from "../../../api/client";
import { writeNumber } from "../../../lib/number";
import { Button } from "../../../ui/Button";
import { Note } from "../../../ui/Note";
import { doubtsQuery } from "../../../job/api";
import type { Sheet } from "./useSheet";

/** What is asked of the readings of a sitting while it is open. */
export const useDoubts = (job: Case, sitting: Sitting | undefined): Doubt[] => {
  const { data = [] } = useQuery({
    ...doubtsQuery(job.machine.id, sitting?.id ?? ""),
    enabled: sitting?.closed_at === null,
  });
  return sitting?.closed_at === null ? data : [];
};

interface Props {
  job: Case;
  runs: Run[];
  doubts: Doubt[];
  sheet: Sheet;
}

/** "1016 s? Its siblings are near 98. Is it typed right?" Never whether to leave it out. */
export function Doubts({ job, runs, doubts, sheet }: Props) {
  return doubts.map((doubt) => {
    const run = runs.find((known) => known.id === doubt.run);
    const measure = job.measures.find((known) => known.id === doubt.measure);
    if (!run || !measure) return null;
    const shown = (value: number) =>
      `${writeNumber(value, job.machine.decimal_mark)} ${measure.unit_display}`.trim();
    const mend = (value: number) => {
      sheet.type(run.position, measure.id, writeNumber(value, job.machine.decimal_mark));
      sheet.commit(run.position);
    };
    return (
      <div key={doubt.run + doubt.measure} className="mb-3">
        <Note alert>
          <p>
            <b className="font-semibold">Run {run.position}:</b> {doubt.message}
          </p>
          <div className="mt-2 flex flex-wrap gap-2">
            {doubt.meant !== null && (
              <Button onClick={() => mend(doubt.meant ?? 0)}>{shown(doubt.meant)}</Button>
            )}
            {doubt.code === "at_the_stop" && (
              <Button onClick={() => sheet.mark(run.position, "failed", "stopped for safety")}>
                It was a safety stop
              </Button>
            )}
            <Button onClick={() => void sheet.confirm(run, measure.id)}>{shown(doubt.value)} is right</Button>
          </div>
        </Note>
      </div>
    );
  });
}

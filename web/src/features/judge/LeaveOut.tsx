import { call, type Comparison, type Measure, type Run } from "../../api/client";
import { bind } from "../../lib/bind";
import { useDraft } from "../../lib/draft";
import { writeValue } from "../../lib/number";
import { Button } from "../../ui/Button";
import { ChoiceField, TextField } from "../../ui/Field";
import { Note } from "../../ui/Note";
import { type MachineRecord, useSave } from "../../job/api";
import { WhatIf } from "../../job/WhatIf";
import { countedRuns } from "./countedRuns";
import { readingOf, sayRunPlace } from "./model";

interface Props {
  job: MachineRecord;
  comparison: Comparison;
  measure: Measure;
}

/** Leaves a run out although its reading was seen: the reason stays, and both results are shown from then on. */
export function LeaveOut({ job, comparison, measure }: Props) {
  const runs = countedRuns(job, comparison, measure);
  const [draft, setDraft, forget] = useDraft(`leave-out.${job.machine.id}.${measure.id}`, {
    run: "",
    reason: "",
  });
  const save = useSave(
    job.machine.id,
    () =>
      call(
        "put",
        "/api/machines/{machine_id}/runs/{run_id}/late-exclusion",
        { machine_id: job.machine.id, run_id: draft.run },
        { reason: draft.reason },
      ),
    forget,
  );
  if (runs.length === 0) return null;
  const nameOf = (run: Run) =>
    `${sayRunPlace(job, run.id)}: ${writeValue(readingOf(run, measure.id), job.machine.decimal_mark)} ${measure.unit_display}`;
  const field = bind(draft, (change) => setDraft({ ...draft, ...change }));
  return (
    <details>
      <summary className="flex min-h-11 cursor-pointer items-center font-semibold">Leave a run out</summary>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          save.mutate(undefined);
        }}
        className="space-y-2"
      >
        <p className="text-soft">
          Its reading has been seen, so this is marked for ever. The verdict is then the more cautious one of
          with the run and without it: leaving it out can take a verdict away, and never bring one.
        </p>
        <ChoiceField
          label="Which run"
          choices={[["", "choose a run"] as const, ...runs.map((run) => [run.id, nameOf(run)] as const)]}
          {...field("run")}
        />
        <TextField
          label="Why it does not count"
          required
          placeholder="e.g. the side panel was still off"
          {...field("reason")}
        />
        {draft.run && <WhatIf job={job} run={draft.run} />}
        {save.error && <Note alert>{save.error.message}</Note>}
        <Button type="submit" disabled={!draft.run || save.isPending}>
          Leave it out for good
        </Button>
      </form>
    </details>
  );
}

import { type FormEvent, useState } from "react";

import { type Case, putWorkload, Refused } from "../../api/client";
import { useDraft } from "../../lib/draft";
import { newId } from "../../lib/ids";
import { Button } from "../../ui/Button";
import { ChoiceField, TextField } from "../../ui/Field";
import { Note } from "../../ui/Note";
import { useSave } from "../machine/api";
import { emptyWorkload, MEASURE_KINDS, type MeasureKind, type WorkloadDraft, workloadBody } from "./model";

const KINDS = (Object.keys(MEASURE_KINDS) as MeasureKind[]).map(
  (kind) => [kind, MEASURE_KINDS[kind].label] as const,
);

/** One workload with what is read off it. */
export function WorkloadForm({ job, open }: { job: Case; open: boolean }) {
  const [shown, setShown] = useState(open);
  if (!shown) return <Button onClick={() => setShown(true)}>Add a workload</Button>;
  return <Form job={job} onDone={() => setShown(false)} />;
}

function Form({ job, onDone }: { job: Case; onDone: () => void }) {
  const machineId = job.machine.id;
  const [draft, setDraft, forget] = useDraft(`workload.${machineId}`, emptyWorkload());
  const save = useSave(
    machineId,
    () => putWorkload(machineId, newId(), workloadBody(draft)),
    () => {
      forget();
      onDone();
    },
  );
  const edit = (id: string, change: Partial<WorkloadDraft["measures"][number]>) =>
    setDraft({ ...draft, measures: draft.measures.map((m) => (m.id === id ? { ...m, ...change } : m)) });
  const onSubmit = (event: FormEvent) => {
    event.preventDefault();
    save.mutate();
  };
  return (
    <form onSubmit={onSubmit} className="card w-full space-y-3">
      <h2 className="eyebrow">A workload: a job the machine repeats, and what you read off it</h2>
      <TextField
        label="The job"
        required
        placeholder="e.g. Render the day’s map tiles"
        value={draft.name}
        problem={save.error instanceof Refused ? save.error.at("name") : undefined}
        onChange={(name) => setDraft({ ...draft, name })}
      />
      {draft.measures.map((measure, index) => (
        <div key={measure.id} className="grid grid-cols-[1fr_14rem] gap-2">
          <TextField
            label={`Name of measure ${index + 1}`}
            placeholder={draft.name || "what is read"}
            value={measure.name}
            onChange={(name) => edit(measure.id, { name })}
          />
          <ChoiceField
            label={`Measure ${index + 1} is`}
            value={measure.kind}
            choices={KINDS}
            onChange={(kind) => edit(measure.id, { kind })}
          />
        </div>
      ))}
      {save.error && <Note alert>{save.error.message}</Note>}
      <div className="flex flex-wrap gap-2">
        <Button look="main" type="submit" disabled={save.isPending}>
          Add this workload
        </Button>
        <Button
          onClick={() =>
            setDraft({ ...draft, measures: [...draft.measures, { id: newId(), name: "", kind: "time" }] })
          }
        >
          Read another figure off it
        </Button>
        {job.measures.length > 0 && (
          <Button
            look="quiet"
            onClick={() => {
              forget();
              onDone();
            }}
          >
            Leave it
          </Button>
        )}
      </div>
    </form>
  );
}

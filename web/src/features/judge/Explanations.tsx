import { useState } from "react";

import { call, type Case, type Explanation, refusedAt, type Swap } from "../../api/client";
import { bind } from "../../lib/bind";
import { useDraft } from "../../lib/draft";
import { newId } from "../../lib/ids";
import { Button } from "../../ui/Button";
import { ChoiceField, NoteField, TextField } from "../../ui/Field";
import { useSave } from "../../job/api";
import { SaveProblem } from "../../job/SaveProblem";
import { EXPLANATION_STATES, explanationDraft, sayExplanation } from "./model";

interface Props {
  job: Case;
  swap: Swap;
}

/** What may explain the result: each cause or limit a claim, until something speaks for it or against it. */
export function Explanations({ job, swap }: Props) {
  const [editing, setEditing] = useState<Explanation | "new" | null>(null);
  return (
    <section aria-labelledby="explanations" className="mt-6">
      <h2 id="explanations" className="eyebrow mb-1">
        What may explain it
      </h2>
      {swap.explanations.length === 0 && editing === null && (
        <p className="text-soft">
          No cause is suspected yet. Another part that caps a task, a setting, the room: write it down as a
          claim and how it could be tested.
        </p>
      )}
      <ul>
        {swap.explanations.map((explanation) => (
          <li key={explanation.id} className="border-b border-line py-1">
            {editing !== "new" && editing?.id === explanation.id ? (
              <ExplanationForm job={job} swap={swap} recorded={explanation} onDone={() => setEditing(null)} />
            ) : (
              <div className="flex flex-wrap items-center justify-between gap-2">
                <p className="min-w-0 flex-1">
                  <b className="font-semibold">{sayExplanation(explanation)}</b>
                  {explanation.grounds && <span className="block text-soft">{explanation.grounds}</span>}
                  {explanation.test && explanation.state === "untested" && (
                    <span className="block text-soft">To test it: {explanation.test}</span>
                  )}
                </p>
                <Button look="quiet" onClick={() => setEditing(explanation)}>
                  Edit
                </Button>
              </div>
            )}
          </li>
        ))}
      </ul>
      {editing === "new" ? (
        <ExplanationForm job={job} swap={swap} recorded={null} onDone={() => setEditing(null)} />
      ) : (
        <div className="mt-2">
          <Button onClick={() => setEditing("new")}>Note a suspected cause</Button>
        </div>
      )}
    </section>
  );
}

interface FormProps extends Props {
  recorded: Explanation | null;
  onDone: () => void;
}

/** What is typed of an explanation, and how it is saved or taken back. */
function useExplanation({ job, swap, recorded, onDone }: FormProps) {
  const machineId = job.machine.id;
  const [id] = useState(() => recorded?.id ?? newId());
  const [draft, setDraft, forget] = useDraft(
    `explanation.${recorded?.id ?? swap.id}`,
    explanationDraft(recorded),
  );
  const done = () => {
    forget();
    onDone();
  };
  const path = "/api/machines/{machine_id}/swaps/{swap_id}/explanations/{explanation_id}";
  const ends = { machine_id: machineId, swap_id: swap.id, explanation_id: id };
  const save = useSave(
    machineId,
    (version: number | null) => call("put", path, ends, { ...draft, version }),
    done,
  );
  const remove = useSave(machineId, () => call("delete", path, ends), done);
  const edit = (change: Partial<typeof draft>) => setDraft({ ...draft, ...change });
  return { draft, field: bind(draft, edit, refusedAt(save.error)), save, remove, done };
}

function ExplanationForm(props: FormProps) {
  const { draft, field, save, remove, done } = useExplanation(props);
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate(draft.version);
      }}
      className="card mt-2 space-y-3"
    >
      <TextField
        label="Suspected cause or limit"
        required
        placeholder="e.g. the drive caps this task"
        {...field("text")}
      />
      <TextField
        label="How it could be tested"
        placeholder="e.g. run it from memory and compare"
        {...field("test")}
      />
      <ChoiceField label="It is" choices={EXPLANATION_STATES} {...field("state")} />
      {draft.state !== "untested" && <NoteField label="What speaks for that" {...field("grounds")} />}
      <SaveProblem
        error={save.error ?? remove.error}
        onTakeTheirs={done}
        onKeepMine={(version) => save.mutate(version)}
      />
      <div className="flex flex-wrap gap-2">
        <Button look="main" type="submit" disabled={save.isPending}>
          Save it
        </Button>
        {props.recorded && (
          <Button onClick={() => remove.mutate(undefined)} disabled={remove.isPending}>
            Take it back
          </Button>
        )}
        <Button look="quiet" onClick={done}>
          Leave it
        </Button>
      </div>
    </form>
  );
}

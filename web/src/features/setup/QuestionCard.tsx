import { useState } from "react";

import { call, type Case, refusedAt } from "../../api/client";
import { bind } from "../../lib/bind";
import { useDraft } from "../../lib/draft";
import { formatCount, formatList } from "../../lib/format";
import { Button } from "../../ui/Button";
import { NoteField, TextField } from "../../ui/Field";
import { readMoney, writeMoney } from "../../lib/money";
import { useSave } from "../../job/api";
import { machineBody } from "../../job/machineBody";
import { SaveProblem } from "../../job/SaveProblem";

/** What is asked, by whom, and what would settle it: written down before anything is measured. */
export function QuestionCard({ job }: { job: Case }) {
  const { machine } = job;
  const [editing, setEditing] = useState(false);
  const told = [
    machine.asked_by && `asked by ${machine.asked_by}`,
    machine.use && `used for ${machine.use}`,
    machine.labour_rate && `labour ${machine.labour_rate} ${machine.currency} an hour`,
  ].filter(Boolean);
  return (
    <section>
      <div className="flex flex-wrap items-start justify-between gap-3">
        <h2 className="eyebrow mb-1">The question</h2>
        {!editing && (
          <Button look="quiet" onClick={() => setEditing(true)}>
            Edit the question
          </Button>
        )}
      </div>
      {editing ? (
        <QuestionForm job={job} onDone={() => setEditing(false)} />
      ) : (
        <>
          <h1 className="lead">{machine.question || sayMeasures(job.measures.map((m) => m.name))}</h1>
          {machine.settles && (
            <p className="mt-1">
              <span className="text-soft">It is settled by:</span> {machine.settles}
            </p>
          )}
          {told.length > 0 && <p className="mt-1 text-soft">{told.join(" · ")}</p>}
        </>
      )}
    </section>
  );
}

/** The question as it is typed, and its save. */
function useQuestion({ machine }: Case, onDone: () => void) {
  const mark = machine.decimal_mark;
  const [form, setForm, forget] = useDraft(`question.${machine.id}`, {
    version: machine.version,
    name: machine.name,
    owner: machine.owner,
    question: machine.question,
    settles: machine.settles,
    askedBy: machine.asked_by,
    use: machine.use,
    labour: writeMoney(machine.labour_rate, mark),
  });
  const done = () => {
    forget();
    onDone();
  };
  const save = useSave(
    machine.id,
    (version: number) => {
      const { name, owner, question, settles, askedBy, use, labour } = form;
      const answers = { name, owner, question, settles, asked_by: askedBy, use };
      const labour_rate = labour.trim() ? readMoney(labour, mark) : null;
      const body = { ...machineBody(machine), ...answers, labour_rate, version };
      return call("put", "/api/machines/{machine_id}", { machine_id: machine.id }, body);
    },
    done,
  );
  const edit = (change: Partial<typeof form>) => setForm({ ...form, ...change });
  return { version: form.version, field: bind(form, edit, refusedAt(save.error)), save, done };
}

function QuestionForm({ job, onDone }: { job: Case; onDone: () => void }) {
  const { version, field, save, done } = useQuestion(job, onDone);
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate(version);
      }}
      className="card space-y-4"
    >
      <NoteField label="The question: what should be better?" {...field("question")} />
      <NoteField label="What result would settle it?" {...field("settles")} />
      <div className="grid gap-4 sm:grid-cols-2">
        <TextField label="Asked by" {...field("askedBy", "asked_by")} />
        <TextField label="The machine is used for" {...field("use")} />
        <TextField label="Name of the machine" {...field("name")} />
        <TextField label="Owner" {...field("owner")} />
        <TextField
          label={`Labour, ${job.machine.currency} per hour`}
          inputMode="decimal"
          {...field("labour", "labour_rate")}
        />
      </div>
      <SaveProblem error={save.error} onTakeTheirs={done} onKeepMine={(version) => save.mutate(version)} />
      <div className="flex gap-2">
        <Button look="main" type="submit" disabled={save.isPending}>
          Save the question
        </Button>
        <Button onClick={done}>Leave as it was</Button>
      </div>
    </form>
  );
}

function sayMeasures(names: string[]): string {
  if (names.length === 0) return "Nothing to measure yet. What does this machine do all day?";
  return `${formatCount(names.length, "measure")}: ${formatList(names)}.`;
}

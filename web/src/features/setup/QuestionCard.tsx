import { type FormEvent, useState } from "react";

import { call, type Case, refusedAt } from "../../api/client";
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

function QuestionForm({ job, onDone }: { job: Case; onDone: () => void }) {
  const { machine } = job;
  const [form, setForm, forget] = useDraft(`question.${machine.id}`, {
    version: machine.version,
    name: machine.name,
    owner: machine.owner,
    question: machine.question,
    settles: machine.settles,
    askedBy: machine.asked_by,
    use: machine.use,
    labour: writeMoney(machine.labour_rate, machine.decimal_mark),
  });
  const done = () => {
    forget();
    onDone();
  };
  const save = useSave(
    machine.id,
    (version: number) =>
      call(
        "put",
        "/api/machines/{machine_id}",
        { machine_id: machine.id },
        {
          ...machineBody(machine),
          name: form.name,
          owner: form.owner,
          question: form.question,
          settles: form.settles,
          asked_by: form.askedBy,
          use: form.use,
          labour_rate: form.labour.trim() ? readMoney(form.labour, machine.decimal_mark) : null,
          version,
        },
      ),
    done,
  );
  const problem = refusedAt(save.error);
  const onSubmit = (event: FormEvent) => {
    event.preventDefault();
    save.mutate(form.version);
  };
  return (
    <form onSubmit={onSubmit} className="card space-y-4">
      <NoteField
        label="The question: what should be better?"
        value={form.question}
        onChange={(question) => setForm({ ...form, question })}
      />
      <NoteField
        label="What result would settle it?"
        value={form.settles}
        onChange={(settles) => setForm({ ...form, settles })}
      />
      <div className="grid gap-4 sm:grid-cols-2">
        <TextField
          label="Asked by"
          value={form.askedBy}
          onChange={(askedBy) => setForm({ ...form, askedBy })}
        />
        <TextField
          label="The machine is used for"
          value={form.use}
          onChange={(use) => setForm({ ...form, use })}
        />
        <TextField
          label="Name of the machine"
          value={form.name}
          problem={problem("name")}
          onChange={(name) => setForm({ ...form, name })}
        />
        <TextField label="Owner" value={form.owner} onChange={(owner) => setForm({ ...form, owner })} />
        <TextField
          label={`Labour, ${machine.currency} per hour`}
          inputMode="decimal"
          value={form.labour}
          problem={problem("labour_rate")}
          onChange={(labour) => setForm({ ...form, labour })}
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

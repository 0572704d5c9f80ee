import { useState } from "react";

import { call, type Case, refusedAt, type Vocabulary } from "../../api/client";
import { useDraft } from "../../lib/draft";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { type DecimalMark, writeValue } from "../../lib/number";
import { useSave } from "../../job/api";
import { figureName, sayImpossible, writeFigure } from "../../job/figures";
import { machineBody } from "../../job/machineBody";
import { valuesByKey } from "../../job/parts";
import { SaveProblem } from "../../job/SaveProblem";

interface Props {
  job: Case;
  vocabulary: Vocabulary;
}

/** What the machine has room for; from it the fit of every candidate follows. */
export function LimitsCard({ job, vocabulary }: Props) {
  const [editing, setEditing] = useState(false);
  const { limits } = job.machine;
  const known = vocabulary.limits.filter((figure) => limits[figure.key] != null);
  if (editing) return <LimitsForm job={job} vocabulary={vocabulary} onDone={() => setEditing(false)} />;
  return (
    <section className="mt-4 rounded-lg border border-line bg-note p-3">
      <p>
        <b className="font-semibold">Room for:</b>{" "}
        {known.length
          ? known
              .map(
                (figure) => `${figure.label} ${bare(figure, limits[figure.key], job.machine.decimal_mark)}`,
              )
              .join(" · ")
          : "not noted. Limits tell which candidate fits."}
      </p>
      <Button look="quiet" onClick={() => setEditing(true)}>
        Edit the limits
      </Button>
    </section>
  );
}

const bare = (
  figure: Vocabulary["limits"][number],
  value: string | number | boolean | null | undefined,
  mark: DecimalMark,
): string =>
  figure.kind === "text"
    ? String(value)
    : writeFigure({ ...figure, words: [figure.unit] }, value ?? "", mark);

function LimitsForm({ job, vocabulary, onDone }: Props & { onDone: () => void }) {
  const { machine } = job;
  const mark = machine.decimal_mark;
  const [form, setForm, forget] = useDraft(`limits.${machine.id}`, {
    version: machine.version,
    values: Object.fromEntries(
      vocabulary.limits.map(({ key }) => [key, writeValue(machine.limits[key], mark)]),
    ),
  });
  const done = () => {
    forget();
    onDone();
  };
  const read = valuesByKey(form.values, vocabulary.limits, mark);
  const save = useSave(
    machine.id,
    (version: number) => {
      const body = { ...machineBody(machine), limits: read, version };
      return call("put", "/api/machines/{machine_id}", { machine_id: machine.id }, body);
    },
    done,
  );
  const problem = refusedAt(save.error);
  const asked = (figure: Vocabulary["limits"][number]) => sayImpossible(read, [figure], mark);
  return (
    <section className="card mt-4 space-y-3">
      <h2 className="eyebrow">Limits of the machine: empty is unknown</h2>
      <div className="grid grid-cols-2 gap-3">
        {vocabulary.limits.map((figure) => (
          <TextField
            key={figure.key}
            label={figureName(figure.key, vocabulary.limits)}
            value={form.values[figure.key] ?? ""}
            problem={problem(`limits.${figure.key}`) ?? asked(figure)}
            onChange={(value) => setForm({ ...form, values: { ...form.values, [figure.key]: value } })}
          />
        ))}
      </div>
      <SaveProblem error={save.error} onTakeTheirs={done} onKeepMine={(version) => save.mutate(version)} />
      <div className="flex gap-2">
        <Button look="main" disabled={save.isPending} onClick={() => save.mutate(form.version)}>
          Save the limits
        </Button>
        <Button onClick={done}>Leave as they were</Button>
      </div>
    </section>
  );
}

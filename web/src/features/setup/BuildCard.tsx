import { useState } from "react";

import { type Build, call, type Case, refusedAt, type Vocabulary } from "../../api/client";
import { bind } from "../../lib/bind";
import { useDraft } from "../../lib/draft";
import { Button } from "../../ui/Button";
import { ChoiceField, TextField } from "../../ui/Field";
import { Note } from "../../ui/Note";
import { useSave } from "../../job/api";
import { describeRated, figureName } from "../../job/figures";
import { partDrafts, partName, partsOf, settingDrafts, valuesOf } from "../../job/parts";
import { PartsForm, SettingsForm } from "../../job/PartsForm";
import { SaveProblem } from "../../job/SaveProblem";

interface Props {
  job: Case;
  build: Build;
  vocabulary: Vocabulary;
}

const WEAR = [
  ["", "not said"],
  ["as new", "as new"],
  ["worn", "worn"],
  ["renewed", "renewed"],
] as const;

/** The build that the machine is now: its parts and settings; open to correction until it has runs. */
export function BuildCard({ job, build, vocabulary }: Props) {
  const [editing, setEditing] = useState(false);
  return (
    <section>
      <h2 className="eyebrow mb-3">Build {build.letter}, as it stands</h2>
      <p className="mb-3 text-lg font-semibold">
        {build.label}
        {build.wear && <span className="font-normal text-soft"> · {build.wear}</span>}
      </p>
      {editing ? (
        <BuildForm job={job} build={build} vocabulary={vocabulary} onDone={() => setEditing(false)} />
      ) : (
        <>
          <ul className="grid grid-cols-2 gap-2">
            {build.parts.map((part) => (
              <li key={part.id} className="rounded-lg border border-line bg-card p-3">
                <span className="eyebrow block">{part.role}</span>
                <span className="block font-semibold">{partName(part, build.parts)}</span>
                <span className="text-sm text-soft">
                  {describeRated(part, vocabulary, job.machine.decimal_mark) || "figures unknown"}
                </span>
              </li>
            ))}
          </ul>
          {build.parts.length === 0 && <p className="text-soft">No parts noted.</p>}
          <dl className="mt-4 grid grid-cols-[1fr_auto] gap-y-1">
            {Object.entries(build.settings).map(([name, value]) => (
              <div key={name} className="contents">
                <dt className="text-soft">{figureName(name, vocabulary.settings)}</dt>
                <dd className="font-semibold">{String(value)}</dd>
              </div>
            ))}
          </dl>
          <div className="mt-4 flex flex-wrap gap-3">
            {build.sealed && (
              <Note>
                <b className="font-semibold">Sealed:</b> build {build.letter} has runs, so its parts and
                settings stand. A swap makes the next build.
              </Note>
            )}
            <Button onClick={() => setEditing(true)}>
              {build.sealed ? "Rename it, or say how worn it is" : "Correct parts and settings"}
            </Button>
          </div>
        </>
      )}
    </section>
  );
}

/** A build as it is typed, and its save. */
function useBuild({ job, build, vocabulary, onDone }: Props & { onDone: () => void }) {
  const mark = job.machine.decimal_mark;
  const [form, setForm, forget] = useDraft(`build.${build.id}`, {
    version: build.version,
    label: build.label,
    wear: build.wear ?? ("" as const),
    parts: partDrafts(build, vocabulary, mark),
    settings: settingDrafts(build.settings, mark),
  });
  const done = () => {
    forget();
    onDone();
  };
  const save = useSave(
    job.machine.id,
    (version: number) =>
      call(
        "put",
        "/api/machines/{machine_id}/builds/{build_id}",
        { machine_id: job.machine.id, build_id: build.id },
        {
          label: form.label,
          // What is sealed is sent as it was recorded: only the name and the wear may change.
          parts: build.sealed ? build.parts : partsOf(form.parts, vocabulary, mark),
          settings: build.sealed ? build.settings : valuesOf(form.settings, vocabulary.settings, mark),
          wear: form.wear || null,
          version,
        },
      ),
    done,
  );
  const edit = (change: Partial<typeof form>) => setForm({ ...form, ...change });
  return { form, edit, done, save };
}

function BuildForm(props: Props & { onDone: () => void }) {
  const { job, build, vocabulary } = props;
  const mark = job.machine.decimal_mark;
  const { form, edit, done, save } = useBuild(props);
  const at = refusedAt(save.error);
  const field = bind(form, edit, at);
  return (
    <div className="space-y-4">
      <TextField label="Name of this build" {...field("label")} />
      <ChoiceField label="Wear: for jobs that bring back what was lost" choices={WEAR} {...field("wear")} />
      {!build.sealed && (
        <>
          <PartsForm
            parts={form.parts}
            settings={valuesOf(form.settings, vocabulary.settings, mark)}
            limits={job.machine.limits}
            vocabulary={vocabulary}
            mark={mark}
            onChange={(parts) => edit({ parts })}
          />
          <SettingsForm
            settings={form.settings}
            vocabulary={vocabulary}
            problemAt={(name) => at(`settings.${name}`)}
            onChange={(settings) => edit({ settings })}
          />
        </>
      )}
      <SaveProblem error={save.error} onTakeTheirs={done} onKeepMine={(version) => save.mutate(version)} />
      <div className="flex gap-2">
        <Button look="main" disabled={save.isPending} onClick={() => save.mutate(form.version)}>
          Save
        </Button>
        <Button onClick={done}>Leave as it was</Button>
      </div>
    </div>
  );
}

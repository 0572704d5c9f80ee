import { useState } from "react";

import { type Build, type Case, type Part, putBuild } from "../../api/client";
import { useDraft } from "../../lib/draft";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { Note } from "../../ui/Note";
import { useSave } from "../machine/api";
import { describeRated, settingName } from "../machine/model";
import { type PartDraft, partsOf, type SettingDraft, settingsOf } from "./model";
import { PartsForm, SettingsForm } from "./PartsForm";

/** The newest build: its parts and settings; open to correction until it has runs. */
export function BuildCard({ job, build }: { job: Case; build: Build }) {
  const [editing, setEditing] = useState(false);
  return (
    <section>
      <h2 className="eyebrow mb-3">Build {build.letter}, as it stands</h2>
      <p className="mb-3 text-lg font-semibold">{build.label}</p>
      {editing ? (
        <BuildForm job={job} build={build} onDone={() => setEditing(false)} />
      ) : (
        <>
          <ul className="grid grid-cols-2 gap-2">
            {build.parts.map((part) => (
              <li key={part.id} className="rounded-lg border border-line bg-card p-3">
                <span className="eyebrow block">{part.role}</span>
                <span className="block font-semibold">{part.label}</span>
                <span className="text-sm text-soft">{describeRated(part) || "figures unknown"}</span>
              </li>
            ))}
          </ul>
          {build.parts.length === 0 && <p className="text-soft">No parts noted.</p>}
          <dl className="mt-4 grid grid-cols-[1fr_auto] gap-y-1">
            {Object.entries(build.settings).map(([name, value]) => (
              <div key={name} className="contents">
                <dt className="text-soft">{settingName(name)}</dt>
                <dd className="font-semibold">{String(value)}</dd>
              </div>
            ))}
          </dl>
          <div className="mt-4">
            {build.sealed ? (
              <Note>
                <b className="font-semibold">Sealed:</b> build {build.letter} has runs. A swap makes the next
                build.
              </Note>
            ) : (
              <Button onClick={() => setEditing(true)}>Correct parts and settings</Button>
            )}
          </div>
        </>
      )}
    </section>
  );
}

interface FormProps {
  job: Case;
  build: Build;
  onDone: () => void;
}

function BuildForm({ job, build, onDone }: FormProps) {
  const [form, setForm, forget] = useDraft(`build.${build.id}`, {
    version: build.version,
    label: build.label,
    parts: build.parts.map((part): PartDraft => ({ ...part, noted: describeRated(part) })),
    settings: Object.entries(build.settings).map(([name, value]): SettingDraft => ({
      name,
      value: String(value),
    })),
  });
  const save = useSave(
    job.machine.id,
    () =>
      putBuild(job.machine.id, build.id, {
        label: form.label,
        parts: partsOf(form.parts).map((part) => keepTyped(part, build)),
        settings: settingsOf(form.settings),
        version: form.version,
      }),
    () => {
      forget();
      onDone();
    },
  );
  const onSave = () => save.mutate();
  return (
    <div className="space-y-4">
      <TextField
        label="Name of this build"
        value={form.label}
        onChange={(label) => setForm({ ...form, label })}
      />
      <PartsForm parts={form.parts} onChange={(parts) => setForm({ ...form, parts })} />
      <SettingsForm settings={form.settings} onChange={(settings) => setForm({ ...form, settings })} />
      {save.error && <Note alert>{save.error.message}</Note>}
      <div className="flex gap-2">
        <Button look="main" disabled={save.isPending} onClick={onSave}>
          Save
        </Button>
        <Button
          onClick={() => {
            forget();
            onDone();
          }}
        >
          Leave as it was
        </Button>
      </div>
    </div>
  );
}

/** Figures that were not touched keep the form in which they were recorded. */
function keepTyped(part: Part, build: Build): Part {
  const recorded = build.parts.find((other) => other.id === part.id);
  const untouched = recorded && part.rated.noted === (describeRated(recorded) || undefined);
  return untouched ? { ...part, rated: recorded.rated } : part;
}

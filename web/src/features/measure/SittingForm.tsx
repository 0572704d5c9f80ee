import { type FormEvent, useState } from "react";

import { type Case, putSitting, Refused, type Sitting } from "../../api/client";
import { useDraft } from "../../lib/draft";
import { newId } from "../../lib/ids";
import { readNumber, writeNumber } from "../../lib/number";
import { Button } from "../../ui/Button";
import { ChoiceField, TextField } from "../../ui/Field";
import { Note } from "../../ui/Note";
import { useSave } from "../machine/api";
import { buildName, newestBuild } from "../machine/model";

const PURPOSES = [
  ["plan", "as planned"],
  ["earlier", "an earlier one, counts before the swap"],
  ["trial", "a trial, does not count"],
  ["recheck", "a re-check, does not count"],
] as const satisfies readonly (readonly [Sitting["purpose"], string])[];

const CONDITIONS = [
  ["fan", "Fan mode"],
  ["power_limit_w", "Power limit, W"],
  ["power_source", "Power source"],
  ["since_power_on", "Since power-on"],
  ["other_load", "Other load"],
] as const;

interface Props {
  job: Case;
  /** The sitting to correct, or null to begin one. */
  sitting: Sitting | null;
  onDone: (sittingId: string) => void;
}

/** The conditions of a sitting, asked before the first run; what the last one held is filled in. */
export function SittingForm({ job, sitting, onDone }: Props) {
  const { machine } = job;
  const last = job.sittings.at(-1);
  const [form, setForm, forget] = useDraft(sitting ? `sitting.${sitting.id}` : `sitting.${machine.id}`, {
    id: sitting?.id ?? newId(),
    version: sitting?.version ?? null,
    build: sitting?.build ?? newestBuild(job)?.id ?? "",
    purpose: sitting?.purpose ?? "plan",
    ambient: sitting?.ambient_c == null ? "" : writeNumber(sitting.ambient_c, machine.decimal_mark),
    conditions: readConditions((sitting ?? last)?.conditions ?? {}),
  });
  const [problem, setProblem] = useState<string>();
  const save = useSave(
    machine.id,
    (ambient: number | null) =>
      putSitting(machine.id, form.id, {
        build: form.build,
        purpose: form.purpose,
        started_at: sitting?.started_at ?? new Date().toISOString(),
        ambient_c: ambient,
        conditions: Object.fromEntries(Object.entries(form.conditions).filter(([, value]) => value.trim())),
        version: form.version,
      }),
    () => {
      forget();
      onDone(form.id);
    },
  );
  const onSubmit = (event: FormEvent) => {
    event.preventDefault();
    const ambient = form.ambient.trim() ? readNumber(form.ambient, machine.decimal_mark) : null;
    const bad = form.ambient.trim() && ambient === null;
    setProblem(bad ? `Write a temperature like 22${machine.decimal_mark}5, or leave it empty.` : undefined);
    if (bad) return;
    save.mutate(ambient);
  };
  const refused = save.error instanceof Refused ? save.error.at("ambient_c") : undefined;
  return (
    <form onSubmit={onSubmit} className="grid gap-4 sm:grid-cols-2">
      <ChoiceField
        label="Build"
        value={form.build}
        choices={job.builds.map((build) => [build.id, buildName(build)] as const)}
        onChange={(build) => setForm({ ...form, build })}
      />
      <ChoiceField
        label="This sitting is"
        value={form.purpose}
        choices={PURPOSES}
        onChange={(purpose) => setForm({ ...form, purpose })}
      />
      <TextField
        label="Room temperature, °C"
        inputMode="decimal"
        autoFocus
        value={form.ambient}
        problem={problem ?? refused}
        onChange={(ambient) => setForm({ ...form, ambient })}
      />
      {CONDITIONS.map(([key, label]) => (
        <TextField
          key={key}
          label={label}
          value={form.conditions[key] ?? ""}
          onChange={(value) => setForm({ ...form, conditions: { ...form.conditions, [key]: value } })}
        />
      ))}
      <div className="space-y-3 sm:col-span-2">
        {save.error && !refused && <Note alert>{save.error.message}</Note>}
        <Button look="main" type="submit" disabled={save.isPending}>
          {sitting ? "Save conditions" : "Begin the sitting"}
        </Button>
      </div>
    </form>
  );
}

const readConditions = (conditions: Sitting["conditions"]): Record<string, string> =>
  Object.fromEntries(Object.entries(conditions).map(([key, value]) => [key, String(value ?? "")]));

/** Conditions as label and value, known ones first. */
export function listConditions(sitting: Sitting): [string, string][] {
  const known = new Map<string, string>(CONDITIONS);
  return Object.entries(readConditions(sitting.conditions)).map(([key, value]) => [
    known.get(key) ?? key.replaceAll("_", " "),
    value,
  ]);
}

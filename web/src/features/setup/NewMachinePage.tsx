import { useMutation, useQueryClient, useSuspenseQuery } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { useNavigate } from "react-router";

import { call, type Case, type MachineIn, refusedAt, type Vocabulary } from "../../api/client";
import { bind } from "../../lib/bind";
import { useDraft } from "../../lib/draft";
import { newId } from "../../lib/ids";
import { Button } from "../../ui/Button";
import { ChoiceField, NoteField, TextField } from "../../ui/Field";
import { Note } from "../../ui/Note";
import { TopBarHome } from "../../ui/TopBar";
import { DECIMAL_MARKS, type DecimalMark } from "../../lib/number";
import { readMoney, writeMoney } from "../../lib/money";
import { caseQuery, namesQuery, refreshBenches } from "../../job/api";
import { isOffered, measuresOf, fittedBuild } from "../../job/model";
import {
  type PartDraft,
  partDrafts,
  partsOf,
  type SettingDraft,
  settingDrafts,
  usualParts,
  valuesOf,
} from "../../job/parts";
import { PartsForm, SettingsForm } from "../../job/PartsForm";
import { useVocabulary } from "../../job/vocabulary";
import { workloadBody, workloadDraft } from "./model";

const emptyForm = () => ({
  id: newId(),
  build: newId(),
  /** Set once the machine itself was saved, so that a build refused after it can be mended. */
  version: null as number | null,
  name: "",
  owner: "",
  question: "",
  settles: "",
  currency: "EUR",
  labour: "",
  mark: "." as DecimalMark,
  buildLabel: "As received",
  parts: usualParts(),
  settings: [{ name: "threads", value: "" }] as SettingDraft[],
  limits: {} as Case["machine"]["limits"],
  /** The machine that parts, settings and limits were copied from; its workloads are copied on saving. */
  copiedFrom: "",
});

type Form = ReturnType<typeof emptyForm>;

/** What is typed of a new machine, and its save: the machine, its build, and the workloads that were copied. */
function useNewMachine(vocabulary: Vocabulary) {
  const [form, setForm, forget] = useDraft("new-machine", emptyForm());
  const navigate = useNavigate();
  const client = useQueryClient();
  const save = useMutation({
    mutationFn: async () => {
      const ends = { machine_id: form.id };
      const saved = await call("put", "/api/machines/{machine_id}", ends, newMachineBody(form));
      setForm({ ...form, version: saved.machine.version });
      if (saved.builds.length === 0) {
        await call(
          "put",
          "/api/machines/{machine_id}/builds/{build_id}",
          { ...ends, build_id: form.build },
          {
            label: form.buildLabel,
            parts: partsOf(form.parts, vocabulary, form.mark),
            settings: valuesOf(form.settings, vocabulary.settings, form.mark),
          },
        );
      }
      if (form.copiedFrom && saved.workloads.length === 0) {
        await copyWorkloads(await client.fetchQuery(caseQuery(form.copiedFrom)), form.id);
      }
    },
    onSuccess: async () => {
      forget();
      await refreshBenches(client);
      await navigate(`/machines/${form.id}/setup`);
    },
  });
  // What is typed while the other machine is fetched must not be lost.
  const latest = useRef(form);
  useEffect(() => {
    latest.current = form;
  }, [form]);
  const copy = async (id: string) => {
    const other = id ? await client.fetchQuery(caseQuery(id)) : undefined;
    const { current } = latest;
    setForm({ ...current, copiedFrom: "", ...(other && copied(other, current, vocabulary)) });
  };
  return { form, edit: (change: Partial<Form>) => setForm({ ...form, ...change }), save, copy };
}

const newMachineBody = (form: Form): MachineIn => ({
  name: form.name,
  owner: form.owner,
  question: form.question,
  settles: form.settles,
  asked_by: "",
  use: "",
  limits: form.limits,
  currency: form.currency.trim().toUpperCase(),
  labour_rate: form.labour.trim() ? readMoney(form.labour, form.mark) : null,
  decimal_mark: form.mark,
  time_zone: Intl.DateTimeFormat().resolvedOptions().timeZone,
  version: form.version,
});

/** What a new machine takes over from another one; nothing where that has no parts. */
function copied(other: Case, form: Form, vocabulary: Vocabulary): Partial<Form> {
  const build = fittedBuild(other);
  if (!build) return {};
  const { id, currency, decimal_mark: mark, labour_rate, owner, limits } = other.machine;
  return {
    copiedFrom: id,
    currency,
    mark,
    labour: writeMoney(labour_rate, mark),
    owner: form.owner || owner,
    parts: partDrafts(build, vocabulary, mark).map((part): PartDraft => ({ ...part, id: newId() })),
    settings: settingDrafts(build.settings, mark),
    limits,
  };
}

/** A new machine: name, question and its usual parts, in one sheet that the keyboard runs through. */
export function NewMachinePage() {
  const vocabulary = useVocabulary();
  const { form, edit, save, copy } = useNewMachine(vocabulary);
  const others = useSuspenseQuery(namesQuery).data.map(({ id, name }) => [id, name] as const);
  const field = bind(form, edit, refusedAt(save.error));
  return (
    <>
      <TopBarHome context="New machine" />
      <main className="mx-auto max-w-[1100px] p-6">
        <h1 className="lead mb-1">A new machine: what is it, and what hurts?</h1>
        <p className="mb-5 text-soft">
          Only the name and the currency are needed now. Typed entries are kept if you leave.
        </p>
        <form
          onSubmit={(event) => {
            event.preventDefault();
            save.mutate();
          }}
          className="space-y-5"
        >
          <div className="grid gap-4 md:grid-cols-[1.4fr_1.4fr_6rem_9rem_9rem]">
            <TextField label="Name" required autoFocus {...field("name")} />
            <TextField label="Owner" {...field("owner")} />
            <TextField label="Currency" required maxLength={3} {...field("currency")} />
            <TextField label="Labour, per hour" inputMode="decimal" {...field("labour", "labour_rate")} />
            <ChoiceField label="Decimal mark" choices={DECIMAL_MARKS} {...field("mark")} />
          </div>
          <div className="grid gap-4 md:grid-cols-2">
            <NoteField label="The question: what should be better?" {...field("question")} />
            <NoteField label="What result would settle it?" {...field("settles")} />
          </div>
          {others.length > 0 && (
            <div className="max-w-md">
              <ChoiceField
                label="Parts, limits and tasks as on"
                value={form.copiedFrom}
                choices={[["", "no other machine"] as const, ...others]}
                onChange={(id) => void copy(id)}
              />
            </div>
          )}
          <Parts form={form} edit={edit} vocabulary={vocabulary} at={refusedAt(save.error)} />
          {save.error && <Note alert>{save.error.message}</Note>}
          <Button look="main" type="submit" disabled={save.isPending}>
            Save, and choose what to measure
          </Button>
        </form>
      </main>
    </>
  );
}

interface PartsProps {
  form: Form;
  edit: (change: Partial<Form>) => void;
  vocabulary: Vocabulary;
  at: (field: string) => string | undefined;
}

/** The parts and settings of its first build. */
function Parts({ form, edit, vocabulary, at }: PartsProps) {
  return (
    <div className="grid gap-6 lg:grid-cols-[2fr_1fr]">
      <PartsForm
        parts={form.parts}
        settings={valuesOf(form.settings, vocabulary.settings, form.mark)}
        limits={form.limits}
        vocabulary={vocabulary}
        mark={form.mark}
        onChange={(parts) => edit({ parts })}
      />
      <div className="space-y-4">
        <SettingsForm
          settings={form.settings}
          vocabulary={vocabulary}
          problemAt={(name) => at(`settings.${name}`)}
          onChange={(settings) => edit({ settings })}
        />
        <TextField label="Call this first build" required {...bind(form, edit, at)("buildLabel", "label")} />
      </div>
    </div>
  );
}

/** The same workloads on another machine, with ids of their own. */
async function copyWorkloads(source: Case, machineId: string): Promise<void> {
  const mark = source.machine.decimal_mark;
  for (const workload of source.workloads.filter(isOffered)) {
    const recorded = measuresOf(source, workload.name).filter(isOffered);
    const ids = new Map(recorded.map((measure) => [measure.id, newId()]));
    const fresh = recorded.map((measure) => ({
      ...measure,
      id: ids.get(measure.id) ?? newId(),
      part_of: measure.part_of && (ids.get(measure.part_of) ?? null),
    }));
    const draft = { ...workloadDraft(workload, fresh, mark), id: newId(), version: null };
    await call(
      "put",
      "/api/machines/{machine_id}/workloads/{workload_id}",
      { machine_id: machineId, workload_id: draft.id },
      workloadBody(draft, fresh, workload.parameters, mark),
    );
  }
}

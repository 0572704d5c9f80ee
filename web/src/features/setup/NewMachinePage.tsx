import { useMutation, useQueryClient } from "@tanstack/react-query";
import type { FormEvent } from "react";
import { useNavigate } from "react-router";

import { putBuild, putMachine, Refused } from "../../api/client";
import { useDraft } from "../../lib/draft";
import { newId } from "../../lib/ids";
import { Button, ButtonLink } from "../../ui/Button";
import { ChoiceField, NoteField, TextField } from "../../ui/Field";
import { Note } from "../../ui/Note";
import { TopBar } from "../../ui/TopBar";
import { partsOf, settingsOf, usualParts } from "./model";
import { PartsForm, SettingsForm } from "./PartsForm";

const emptyForm = () => ({
  id: newId(),
  build: newId(),
  /** Set once the machine itself was saved, so that a build refused after it can be mended. */
  version: null as number | null,
  name: "",
  owner: "",
  question: "",
  currency: "EUR",
  labour: "",
  mark: "." as "." | ",",
  buildLabel: "As received",
  parts: usualParts(),
  settings: [{ name: "threads", value: "" }],
});

export function NewMachinePage() {
  const [form, setForm, forget] = useDraft("new-machine", emptyForm());
  const navigate = useNavigate();
  const client = useQueryClient();
  const save = useMutation({
    mutationFn: async () => {
      const machine = {
        name: form.name,
        owner: form.owner,
        question: form.question,
        currency: form.currency.trim().toUpperCase(),
        labour_rate: form.labour.trim() || null,
        decimal_mark: form.mark,
        time_zone: Intl.DateTimeFormat().resolvedOptions().timeZone,
        version: form.version,
      };
      const saved = await putMachine(form.id, machine);
      setForm({ ...form, version: saved.machine.version });
      const parts = partsOf(form.parts);
      if (saved.builds.length === 0) {
        await putBuild(form.id, form.build, {
          label: form.buildLabel,
          parts,
          settings: settingsOf(form.settings),
        });
      }
    },
    onSuccess: async () => {
      forget();
      await client.invalidateQueries({ queryKey: ["benches"] });
      await navigate(`/machines/${form.id}/setup`);
    },
  });
  const problem = (field: string) => (save.error instanceof Refused ? save.error.at(field) : undefined);
  const onSubmit = (event: FormEvent) => {
    event.preventDefault();
    save.mutate();
  };
  return (
    <>
      <TopBar context="">
        <span className="ml-auto">
          <ButtonLink look="quiet" to="/">
            All machines
          </ButtonLink>
        </span>
      </TopBar>
      <main className="mx-auto max-w-[1100px] p-6">
        <h1 className="lead mb-1">A new machine: what is it, and what hurts?</h1>
        <p className="mb-5 text-soft">
          Only the name and the currency are needed now. Typed entries are kept if you leave.
        </p>
        <form onSubmit={onSubmit} className="space-y-5">
          <div className="grid gap-4 md:grid-cols-[1.4fr_1.4fr_6rem_9rem_9rem]">
            <TextField
              label="Name"
              required
              autoFocus
              value={form.name}
              problem={problem("name")}
              onChange={(name) => setForm({ ...form, name })}
            />
            <TextField
              label="Owner"
              value={form.owner}
              problem={problem("owner")}
              onChange={(owner) => setForm({ ...form, owner })}
            />
            <TextField
              label="Currency"
              required
              maxLength={3}
              value={form.currency}
              problem={problem("currency")}
              onChange={(currency) => setForm({ ...form, currency })}
            />
            <TextField
              label="Labour, per hour"
              inputMode="decimal"
              value={form.labour}
              problem={problem("labour_rate")}
              onChange={(labour) => setForm({ ...form, labour })}
            />
            <ChoiceField
              label="Decimal mark"
              value={form.mark}
              choices={[
                [".", "point 1.5"],
                [",", "comma 1,5"],
              ]}
              onChange={(mark) => setForm({ ...form, mark })}
            />
          </div>
          <NoteField
            label="The question: what should be better, and from what on is it worth it?"
            value={form.question}
            problem={problem("question")}
            onChange={(question) => setForm({ ...form, question })}
          />
          <div className="grid gap-6 lg:grid-cols-[2fr_1fr]">
            <PartsForm parts={form.parts} onChange={(parts) => setForm({ ...form, parts })} />
            <div className="space-y-4">
              <SettingsForm
                settings={form.settings}
                onChange={(settings) => setForm({ ...form, settings })}
              />
              <TextField
                label="Call this first build"
                required
                value={form.buildLabel}
                problem={problem("label")}
                onChange={(buildLabel) => setForm({ ...form, buildLabel })}
              />
            </div>
          </div>
          {save.error && <Note alert>{save.error.message}</Note>}
          <Button look="main" type="submit" disabled={save.isPending}>
            Save, and choose what to measure
          </Button>
        </form>
      </main>
    </>
  );
}

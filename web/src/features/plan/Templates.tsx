import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { call, type Case, refusedAt, type Template } from "../../api/client";
import { bind } from "../../lib/bind";
import { newId } from "../../lib/ids";
import { Button } from "../../ui/Button";
import { Dialog } from "../../ui/Dialog";
import { NoteField, TextField } from "../../ui/Field";
import { Note } from "../../ui/Note";
import { useSave } from "../../job/api";
import { figureName } from "../../job/figures";
import { templatesQuery, useTemplates, useVocabulary } from "../../job/vocabulary";
import { planChanges, stepsOf, type StepTexts, stepTexts, templateBody } from "./model";

/** Plans and checklists by kind of change: lay one over the open plan, or keep one of your own. */
export function Templates({ job }: { job: Case }) {
  const templates = useTemplates();
  const [editing, setEditing] = useState<Template | "new" | null>(null);
  const [laid, setLaid] = useState<Template | null>(null);
  return (
    <section>
      <h2 className="eyebrow mb-2">Start from a template</h2>
      <ul className="space-y-1">
        {templates.map((template) => (
          <li key={template.id} className="border-b border-line pb-1">
            <div className="flex items-center gap-2">
              <Button look="quiet" onClick={() => setLaid(template)}>
                Use “{template.name}”…
              </Button>
              <span className="ml-auto text-sm text-soft">
                {template.sittings_a_side} × {template.runs_a_sitting}
              </span>
              {template.version !== null && (
                <Button
                  look="quiet"
                  aria-label={`Edit the template ${template.name}`}
                  onClick={() => setEditing(template)}
                >
                  Edit
                </Button>
              )}
            </div>
            {template.change === job.open_plan.plan.change && template.advice && (
              <p className="text-sm text-soft">{template.advice}</p>
            )}
          </li>
        ))}
      </ul>
      {laid && <LayOver job={job} template={laid} onClose={() => setLaid(null)} />}
      <div className="mt-3">
        <Button onClick={() => setEditing("new")}>Keep this plan as a template</Button>
      </div>
      {editing && (
        <TemplateDialog
          job={job}
          template={editing === "new" ? undefined : editing}
          base={templates.find((known) => known.change === job.open_plan.plan.change)}
          onClose={() => setEditing(null)}
        />
      )}
    </section>
  );
}

/** What a template would change of the plan, before it does. */
function LayOver({ job, template, onClose }: { job: Case; template: Template; onClose: () => void }) {
  const { plan, version } = job.open_plan;
  const asked = useQuery({
    queryKey: ["with template", job.machine.id, job.revision, template.id],
    queryFn: () =>
      call("get", "/api/machines/{machine_id}/plan/template/{template_id}", {
        machine_id: job.machine.id,
        template_id: template.id,
      }),
  });
  const use = useSave(
    job.machine.id,
    () =>
      call(
        "post",
        "/api/machines/{machine_id}/plan/template",
        { machine_id: job.machine.id },
        { template: template.id, version },
      ),
    onClose,
  );
  const { conditions } = useVocabulary();
  const conditionName = (key: string) => figureName(key, conditions);
  const nameOf = (id: string) => job.measures.find((measure) => measure.id === id)?.name ?? id;
  const changes = asked.data ? planChanges(plan, asked.data, nameOf, conditionName) : [];
  return (
    <Dialog title={`What “${template.name}” would change`} open onClose={onClose}>
      <div className="space-y-4">
        {asked.data && changes.length === 0 && <p>Nothing: the plan is so already.</p>}
        <dl className="grid grid-cols-[1fr_auto] gap-x-4 gap-y-1">
          {changes.map(([what, from, to]) => (
            <div key={what} className="contents">
              <dt className="text-soft">{what}</dt>
              <dd>
                {from} → <b className="font-semibold">{to}</b>
              </dd>
            </div>
          ))}
        </dl>
        {(asked.error ?? use.error) && <Note alert>{(asked.error ?? use.error)?.message}</Note>}
        <div className="flex gap-2">
          <Button look="main" autoFocus disabled={use.isPending} onClick={() => use.mutate(undefined)}>
            Lay it over the plan
          </Button>
          <Button onClick={onClose}>Leave the plan as it is</Button>
        </div>
      </div>
    </Dialog>
  );
}

interface DialogProps {
  job: Case;
  /** The own template that is edited, or undefined to keep the open plan as one. */
  template: Template | undefined;
  base: Template | undefined;
  onClose: () => void;
}

/** Keeps a template, or takes it off the list. */
function useTemplateSave({ job, template, base, onClose }: DialogProps) {
  const [id] = useState(() => template?.id ?? newId());
  const client = useQueryClient();
  const onSuccess = (fresh: Template[]) => {
    client.setQueryData(templatesQuery.queryKey, fresh);
    onClose();
  };
  const save = useMutation({
    mutationFn: ({ name, advice, texts }: Typed) => {
      const plan = template ? { ...job.open_plan.plan, ...template, measures: {} } : job.open_plan.plan;
      const version = template?.version ?? null;
      return call(
        "put",
        "/api/templates/{template_id}",
        { template_id: id },
        templateBody(name, plan, advice, stepsOf(texts), template ?? base, version),
      );
    },
    onSuccess,
  });
  const remove = useMutation({
    mutationFn: () => call("delete", "/api/templates/{template_id}", { template_id: id }),
    onSuccess,
  });
  return { save, remove, error: save.error ?? remove.error };
}

interface Typed {
  name: string;
  advice: string;
  texts: StepTexts;
}

function TemplateDialog(props: DialogProps) {
  const { template, base, onClose } = props;
  const [typed, setTyped] = useState<Typed>(() => ({
    name: template?.name ?? "",
    advice: template?.advice ?? "",
    texts: stepTexts((template ?? base)?.steps ?? []),
  }));
  const { save, remove, error } = useTemplateSave(props);
  const { texts } = typed;
  const edit = (change: Partial<Typed>) => setTyped({ ...typed, ...change });
  const field = bind(typed, edit, refusedAt(error));
  return (
    <Dialog title={template ? "Your template" : "Keep this plan as a template"} open onClose={onClose}>
      <div className="space-y-3">
        <TextField label="Name of the template" autoFocus {...field("name")} />
        <TextField label="Advice, shown beside it" {...field("advice")} />
        {(Object.keys(texts) as (keyof StepTexts)[]).map((stage) => (
          <NoteField
            key={stage}
            label={`Checklist, ${stage}: a step a line`}
            value={texts[stage]}
            onChange={(text) => edit({ texts: { ...texts, [stage]: text } })}
          />
        ))}
        {error && <Note alert>{error.message}</Note>}
        <div className="flex flex-wrap gap-2">
          <Button look="main" disabled={save.isPending} onClick={() => save.mutate(typed)}>
            Keep it
          </Button>
          <Button onClick={onClose}>Leave it</Button>
          {template && (
            <Button look="quiet" onClick={() => remove.mutate()}>
              Remove this template
            </Button>
          )}
        </div>
      </div>
    </Dialog>
  );
}

import { type FormEvent, useState } from "react";

import { type Case, type Measure, putPlan } from "../../api/client";
import { useDraft } from "../../lib/draft";
import { formatCount } from "../../lib/format";
import { Button } from "../../ui/Button";
import { ChoiceField, TextField } from "../../ui/Field";
import { Note } from "../../ui/Note";
import { useSave } from "../machine/api";
import { applyEdits, type PlanDraft, planDraft, type PlanEdits, type Problems, readPlan } from "./model";

const ROLES = [
  ["claim", "claim"],
  ["control", "control"],
  ["watch", "watch"],
] as const;

/** The plan for the next swap: what each measure is for, from where a change matters, how much is measured. */
export function PlanForm({ job }: { job: Case }) {
  const { plan, version } = job.open_plan;
  const [edits, setEdits, forget, changed] = useDraft<PlanEdits>(`plan.${job.machine.id}`, { measures: {} });
  const draft = applyEdits(planDraft(plan), edits);
  const [problems, setProblems] = useState<Problems>({});
  const save = useSave(
    job.machine.id,
    (body: PlanBody) => putPlan(job.machine.id, { ...body, version }),
    forget,
  );
  const onSubmit = (event: FormEvent) => {
    event.preventDefault();
    const read = readPlan(draft, plan);
    setProblems("problems" in read ? read.problems : {});
    if ("body" in read) save.mutate(read.body);
  };
  const edit = (id: string, change: Partial<PlanDraft["measures"][string]>) =>
    setEdits({ ...edits, measures: { ...edits.measures, [id]: { ...edits.measures[id], ...change } } });
  return (
    <form onSubmit={onSubmit}>
      <h2 className="eyebrow mb-2">The plan for the next swap · same on both sides</h2>
      <table className="w-full">
        <thead className="text-left text-soft">
          <tr className="border-b border-line">
            <th className="py-1 font-medium">Measure</th>
            <th className="w-32 px-1 font-medium">role</th>
            <th className="w-32 px-1 font-medium">matters from</th>
            <th className="w-28 px-1 font-medium">hoped for</th>
            <th className="w-20 px-1 font-medium">weight</th>
            <th className="w-24 px-1 font-medium">headline</th>
          </tr>
        </thead>
        <tbody>
          {job.measures.map((measure) => (
            <PlanRow
              key={measure.id}
              measure={measure}
              draft={draft}
              problems={problems}
              onEdit={(change) => edit(measure.id, change)}
              onHeadline={() => setEdits({ ...edits, headline: measure.id })}
            />
          ))}
        </tbody>
      </table>
      <div className="mt-4 flex flex-wrap items-end gap-4">
        <div className="w-36">
          <TextField
            label="Sittings a side"
            inputMode="decimal"
            value={draft.sittings}
            problem={problems.sittings}
            onChange={(sittings) => setEdits({ ...edits, sittings })}
          />
        </div>
        <div className="w-36">
          <TextField
            label="Runs a sitting"
            inputMode="decimal"
            value={draft.runs}
            problem={problems.runs}
            onChange={(runs) => setEdits({ ...edits, runs })}
          />
        </div>
        <Button look="main" type="submit" disabled={!changed || save.isPending}>
          {changed ? "Save the plan" : "Plan saved"}
        </Button>
        <p className="max-w-md pb-1 text-soft">{sayStrength(Number(draft.sittings))}</p>
      </div>
      {save.error && (
        <div className="mt-3">
          <Note alert>{save.error.message}</Note>
        </div>
      )}
    </form>
  );
}

type PlanBody = Extract<ReturnType<typeof readPlan>, { body: unknown }>["body"];

/** What so many sittings can show, in words that hold for any noise. */
function sayStrength(sittings: number): string {
  if (!Number.isInteger(sittings) || sittings < 1) return "";
  if (sittings === 1)
    return "One sitting a side gives a provisional verdict at best: a reboot alone can move readings.";
  if (sittings === 2) return "Two sittings a side are valid but weak; three see changes half as large.";
  return `${formatCount(sittings, "sitting")} a side: reboot between them, so that chance can be told from gain.`;
}

interface RowProps {
  measure: Measure;
  draft: PlanDraft;
  problems: Problems;
  onEdit: (change: Partial<PlanDraft["measures"][string]>) => void;
  onHeadline: () => void;
}

function PlanRow({ measure, draft, problems, onEdit, onHeadline }: RowProps) {
  const entry = draft.measures[measure.id];
  if (!entry) return null;
  const unit = measure.scale === "ratio" ? "%" : measure.unit_display;
  const at = (name: string) => problems[`${measure.id}.${name}`];
  return (
    <tr className="border-b border-line">
      <th scope="row" className="py-1 pr-2 text-left font-normal">
        {measure.name} <span className="text-soft">{measure.unit_display}</span>
      </th>
      <td className="p-1">
        <ChoiceField
          label={`Role of ${measure.name}`}
          hideLabel
          value={entry.role}
          choices={ROLES}
          onChange={(role) => onEdit({ role })}
        />
      </td>
      <td className="p-1">
        <UnitField
          label={`${measure.name} matters from, ${unit}`}
          unit={unit}
          value={entry.matters}
          problem={at("matters")}
          onChange={(matters) => onEdit({ matters })}
        />
      </td>
      <td className="p-1">
        <UnitField
          label={`${measure.name} hoped for, ${unit}`}
          unit={unit}
          value={entry.hoped}
          problem={at("hoped")}
          onChange={(hoped) => onEdit({ hoped })}
        />
      </td>
      <td className="p-1">
        <TextField
          label={`Weight of ${measure.name}`}
          hideLabel
          inputMode="decimal"
          value={entry.weight}
          problem={at("weight")}
          onChange={(weight) => onEdit({ weight })}
        />
      </td>
      <td className="px-1 text-center">
        <input
          type="radio"
          name="headline"
          aria-label={`${measure.name} is the headline`}
          className="size-6 accent-ink"
          checked={draft.headline === measure.id}
          onChange={onHeadline}
        />
      </td>
    </tr>
  );
}

interface UnitFieldProps {
  label: string;
  unit: string;
  value: string;
  problem: string | undefined;
  onChange: (value: string) => void;
}

function UnitField({ unit, ...field }: UnitFieldProps) {
  return (
    <div className="flex items-center gap-1">
      <TextField hideLabel inputMode="decimal" {...field} />
      <span aria-hidden className="w-9 shrink-0 text-sm text-soft">
        {unit}
      </span>
    </div>
  );
}

import { type FormEvent, useState } from "react";

import { call, type Case, type Measure, refusedAt, type Swap, type Vocabulary } from "../../api/client";
import { useDraft } from "../../lib/draft";
import { isWork } from "../../lib/work";
import { Button } from "../../ui/Button";
import { ChoiceField, TextField } from "../../ui/Field";
import { TableToTake } from "../../ui/TakeAlong";
import { Term } from "../../ui/Term";
import { useSave } from "../../job/api";
import { figureName } from "../../job/figures";
import { isOffered } from "../../job/model";
import { SaveProblem } from "../../job/SaveProblem";
import {
  applyEdits,
  CHANGES,
  DESIGNS,
  type MeasureEntry,
  NO_EDITS,
  ORDERS,
  PAIRINGS,
  type PlanBody,
  type PlanDraft,
  planDraft,
  type PlanEdits,
  type Problems,
  readPlan,
  sayCount,
  saySecondLook,
  STATISTICS,
} from "./model";

const ROLES = [
  ["claim", "claim"],
  ["control", "control"],
  ["watch", "watch"],
] as const;

interface Props {
  job: Case;
  /** The swap whose plan it is, or undefined for the open plan. */
  swap: Swap | undefined;
  vocabulary: Vocabulary;
  edited: EditedPlan;
}

/** A plan with what was typed over it and is not saved yet. */
export interface EditedPlan {
  draft: PlanDraft;
  edits: PlanEdits;
  setEdits: (edits: PlanEdits) => void;
  forget: () => void;
  changed: boolean;
}

export function usePlanEdits(job: Case, swap: Swap | undefined): EditedPlan {
  const plan = swap?.plan ?? job.open_plan.plan;
  const [edits, setEdits, forget, changed] = useDraft<PlanEdits>(
    `plan.${swap?.id ?? job.machine.id}`,
    NO_EDITS,
  );
  const draft = applyEdits(planDraft(plan, job.machine.decimal_mark), edits);
  return { draft, edits, setEdits, forget, changed };
}

/** The plan: what each measure is for, from where a change matters, how much is measured and under which conditions. */
export function PlanForm({ job, swap, vocabulary, edited }: Props) {
  const { plan, version } = swap ? { plan: swap.plan, version: swap.plan_version } : job.open_plan;
  const { draft, edits, setEdits, forget, changed } = edited;
  const [reason, setReason] = useState("");
  const [problems, setProblems] = useState<Problems>({});
  const save = useSave(
    job.machine.id,
    ({ body, over }: { body: PlanBody; over: number }) =>
      swap
        ? call(
            "put",
            "/api/machines/{machine_id}/swaps/{swap_id}/plan",
            { machine_id: job.machine.id, swap_id: swap.id },
            { ...body, reason, version: over },
          )
        : call(
            "put",
            "/api/machines/{machine_id}/plan",
            { machine_id: job.machine.id },
            { ...body, version: over },
          ),
    () => {
      forget();
      setReason("");
    },
  );
  const send = (over: number) => {
    const read = readPlan(draft, plan, vocabulary, job.machine.decimal_mark);
    setProblems("problems" in read ? read.problems : {});
    if ("body" in read) save.mutate({ body: read.body, over });
  };
  const onSubmit = (event: FormEvent) => {
    event.preventDefault();
    send(version);
  };
  const at = (field: string) => problems[field] ?? refusedAt(save.error)(SENT_AS[field] ?? field);
  const set = (change: PlanEdits["fields"]) => setEdits({ ...edits, fields: { ...edits.fields, ...change } });
  const edit = (id: string, change: Partial<MeasureEntry>) =>
    setEdits({ ...edits, measures: { ...edits.measures, [id]: { ...edits.measures[id], ...change } } });
  const moved = Object.entries(edits.measures).some(([, entry]) => "matters" in entry || "hoped" in entry);
  const text = (key: "sittings" | "second" | "runs" | "warmUps" | "rest" | "soak", label: string) => (
    <TextField
      label={label}
      inputMode="decimal"
      value={draft[key]}
      problem={at(key)}
      onChange={(value) => set({ [key]: value })}
    />
  );
  return (
    <form onSubmit={onSubmit} className="space-y-6">
      <TableToTake name={`${job.machine.name}, measures of the plan`}>
        <div id="plan-measures" className="overflow-x-auto">
          <table className="w-full">
            <thead className="text-left text-soft">
              <tr className="border-b border-line">
                <th className="py-1 font-medium">Measure</th>
                <th className="w-28 px-1 font-medium">role</th>
                <th className="w-28 px-1 font-medium">
                  <Term name="matters from" />
                </th>
                <th className="w-28 px-1 font-medium">hoped for</th>
                <th className="w-16 px-1 font-medium">weight</th>
                <th className="w-32 px-1 font-medium">read as</th>
                <th className="w-20 px-1 font-medium">
                  <Term name="headline" />
                </th>
              </tr>
            </thead>
            <tbody>
              {job.measures.map((measure) => (
                <PlanRow
                  key={measure.id}
                  measure={measure}
                  entry={draft.measures[measure.id]}
                  isHeadline={draft.headline === measure.id}
                  problems={problems}
                  onEdit={(change) => edit(measure.id, change)}
                  onHeadline={() => set({ headline: measure.id })}
                />
              ))}
            </tbody>
          </table>
        </div>
      </TableToTake>
      <section>
        <h2 className="eyebrow mb-2">How much, and in which order</h2>
        <div id="plan-counts" className="grid grid-cols-2 gap-3 sm:grid-cols-6">
          {text("sittings", "Sittings a side")}
          {text("second", "Second look at")}
          {text("runs", "Runs a sitting")}
          {text("warmUps", "Warm-up runs")}
          {text("rest", "Rest, min")}
          {text("soak", "Soak, min")}
        </div>
        {job.workloads.length > 1 && (
          <details className="mt-2" open={Object.values(draft.repeats).some((count) => count.trim())}>
            <summary className="flex min-h-11 cursor-pointer items-center text-soft">
              Jobs that are repeated more or less often
            </summary>
            <div className="grid grid-cols-2 gap-3 sm:grid-cols-4">
              {job.workloads.filter(isOffered).map(({ id, name }) => (
                <TextField
                  key={id}
                  label={`Runs of ${name}`}
                  inputMode="decimal"
                  placeholder={draft.runs}
                  value={draft.repeats[name] ?? ""}
                  problem={at(`repeats.${name}`) ?? at(`runs.${name}`)}
                  onChange={(count) => setEdits({ ...edits, repeats: { ...edits.repeats, [name]: count } })}
                />
              ))}
            </div>
          </details>
        )}
        <div className="mt-3 grid gap-3 sm:grid-cols-2 xl:grid-cols-4">
          <ChoiceField
            label="What is to be changed"
            value={draft.change}
            choices={CHANGES}
            onChange={(change) => set({ change })}
          />
          <ChoiceField
            label="Order"
            value={draft.order}
            choices={ORDERS}
            problem={at("order")}
            onChange={(order) => set({ order })}
          />
          <ChoiceField
            label="Design"
            value={draft.design}
            choices={DESIGNS}
            problem={at("design")}
            onChange={(design) => set({ design })}
          />
          <ChoiceField
            label="Runs are paired"
            value={draft.pairBy}
            choices={PAIRINGS}
            problem={at("pair_by")}
            onChange={(pairBy) => set({ pairBy })}
          />
        </div>
        <div className="mt-2 text-sm text-soft">
          What is a <Term name="sitting" />, a <Term name="look" />, a <Term name="soak" />,{" "}
          <Term name="paired by">paired by</Term>, a <Term name="claim" />, a <Term name="control" />, a{" "}
          <Term name="watch" />?
        </div>
        <p className="mt-2 text-soft">
          {sayCount(Number(draft.sittings))} {saySecondLook(Number(draft.sittings), draft.second)}
        </p>
      </section>
      <section>
        <h2 className="eyebrow mb-2">Hold these on both sides</h2>
        <div className="grid grid-cols-2 gap-3 sm:grid-cols-4 xl:grid-cols-5">
          {vocabulary.conditions.map((figure) => (
            <TextField
              key={figure.key}
              label={figureName(figure.key, vocabulary.conditions)}
              value={draft.conditions[figure.key] ?? ""}
              problem={at(`conditions.${figure.key}`)}
              onChange={(value) =>
                setEdits({ ...edits, conditions: { ...edits.conditions, [figure.key]: value } })
              }
            />
          ))}
        </div>
      </section>
      {swap && moved && (
        <div className="max-w-xl">
          <TextField
            label="Why the margin or the hope changes now (kept, with today’s date)"
            value={reason}
            problem={at("reason")}
            onChange={setReason}
          />
        </div>
      )}
      <SaveProblem error={save.error} onTakeTheirs={forget} onKeepMine={send} />
      <div className="flex flex-wrap gap-3">
        <Button look="main" type="submit" disabled={!changed || save.isPending}>
          {changed ? "Save the plan" : "Plan saved"}
        </Button>
        {changed && <Button onClick={forget}>Leave it as it stands</Button>}
      </div>
    </form>
  );
}

/** What the server calls a field otherwise. */
const SENT_AS: Record<string, string> = { second: "at_most" };

interface RowProps {
  measure: Measure;
  entry: MeasureEntry | undefined;
  isHeadline: boolean;
  problems: Problems;
  onEdit: (change: Partial<MeasureEntry>) => void;
  onHeadline: () => void;
}

function PlanRow({ measure, entry, isHeadline, problems, onEdit, onHeadline }: RowProps) {
  if (!entry) return null;
  const unit = measure.difference_display;
  const at = (name: string) => problems[`${measure.id}.${name}`];
  return (
    <tr className="border-b border-line">
      <th scope="row" className={`py-1 pr-2 text-left font-normal ${measure.part_of ? "pl-4" : ""}`}>
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
          label={`${measure.name} hoped for, ${unit}${isWork(measure) ? " more speed" : ""}`}
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
      <td className="p-1">
        <ChoiceField
          label={`${measure.name} is read as`}
          hideLabel
          value={entry.statistic}
          choices={STATISTICS}
          onChange={(statistic) => onEdit({ statistic })}
        />
      </td>
      <td className="px-1 text-center">
        <input
          type="radio"
          name="headline"
          aria-label={`${measure.name} is the headline`}
          className="size-6 accent-ink"
          checked={isHeadline}
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

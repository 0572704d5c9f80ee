import { useState } from "react";

import { call, type Case, type Measure, refusedAt, type Swap, type Vocabulary } from "../../api/client";
import { bind } from "../../lib/bind";
import { useDraft } from "../../lib/draft";
import { isWork } from "../../lib/work";
import { Button } from "../../ui/Button";
import { ChoiceField, TextField } from "../../ui/Field";
import { TableToTake } from "../../ui/TakeAlong";
import { Term } from "../../ui/Term";
import { Tick } from "../../ui/Tick";
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
  wholeFrom,
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

/** The save of what was typed over a plan, and what of it can't be read. */
function usePlanSave({ job, swap, vocabulary, edited: { draft, forget } }: Props) {
  const { plan, version } = swap ? { plan: swap.plan, version: swap.plan_version } : job.open_plan;
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
  const send = (over = version) => {
    const read = readPlan(draft, plan, vocabulary, job.machine.decimal_mark);
    setProblems("problems" in read ? read.problems : {});
    if ("body" in read) save.mutate({ body: read.body, over });
  };
  const at = (field: string) => problems[field] ?? refusedAt(save.error)(SENT_AS[field] ?? field);
  return { save, send, at, reason, setReason };
}

/** The plan: what each measure is for, from where a change matters, how much is measured and under which conditions. */
export function PlanForm(props: Props) {
  const { job, swap, vocabulary, edited } = props;
  const { edits, forget, changed } = edited;
  const { save, send, at, reason, setReason } = usePlanSave(props);
  const moved = Object.values(edits.measures).some((entry) => "matters" in entry || "hoped" in entry);
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        send();
      }}
      className="space-y-6"
    >
      <Roles job={job} edited={edited} at={at} />
      <HowMuch job={job} edited={edited} at={at} />
      {swap && <Whole job={job} swap={swap} edited={edited} />}
      <Held vocabulary={vocabulary} edited={edited} at={at} />
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

interface PartProps {
  edited: EditedPlan;
  /** Why a field was refused, by the form's or the server's name of it. */
  at: (field: string) => string | undefined;
}

const editFields =
  ({ edits, setEdits }: EditedPlan) =>
  (change: PlanEdits["fields"]) =>
    setEdits({ ...edits, fields: { ...edits.fields, ...change } });

/** What each measure is for, from where a change of it matters, and what is hoped for. */
function Roles({ job, edited, at }: PartProps & { job: Case }) {
  const { draft, edits, setEdits } = edited;
  const edit = (id: string, change: Partial<MeasureEntry>) =>
    setEdits({ ...edits, measures: { ...edits.measures, [id]: { ...edits.measures[id], ...change } } });
  return (
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
                at={at}
                onEdit={(change) => edit(measure.id, change)}
                onHeadline={() => editFields(edited)({ headline: measure.id })}
              />
            ))}
          </tbody>
        </table>
      </div>
    </TableToTake>
  );
}

const COUNTS = [
  ["sittings", "Sittings a side"],
  ["second", "Second look at"],
  ["runs", "Runs a sitting"],
  ["warmUps", "Warm-up runs"],
  ["rest", "Rest, min"],
  ["soak", "Soak, min"],
] as const;

function HowMuch({ job, edited, at }: PartProps & { job: Case }) {
  const { draft } = edited;
  const set = editFields(edited);
  return (
    <section>
      <h2 className="eyebrow mb-2">How much, and in which order</h2>
      <div id="plan-counts" className="grid grid-cols-2 gap-3 sm:grid-cols-6">
        {COUNTS.map(([key, label]) => (
          <TextField
            key={key}
            label={label}
            inputMode="decimal"
            value={draft[key]}
            problem={at(key)}
            onChange={(value) => set({ [key]: value })}
          />
        ))}
      </div>
      {job.workloads.length > 1 && <Repeats job={job} edited={edited} at={at} />}
      <Order edited={edited} at={at} />
      <div className="mt-2 text-sm text-soft">
        What is a <Term name="sitting" />, a <Term name="look" />, a <Term name="soak" />,{" "}
        <Term name="paired by">paired by</Term>, a <Term name="claim" />, a <Term name="control" />, a{" "}
        <Term name="watch" />?
      </div>
      <p className="mt-2 text-soft">
        {sayCount(Number(draft.sittings))} {saySecondLook(Number(draft.sittings), draft.second)}
      </p>
    </section>
  );
}

function Repeats({ job, edited: { draft, edits, setEdits }, at }: PartProps & { job: Case }) {
  return (
    <details className="mt-2" open={Object.values(draft.repeats).some((count) => count.trim())}>
      <summary className="flex min-h-11 cursor-pointer items-center text-soft">
        Tasks that are repeated more or less often
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
  );
}

function Order({ edited, at }: PartProps) {
  const { draft } = edited;
  const set = editFields(edited);
  return (
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
  );
}

/** Whether the whole, from the first build to the one after, is judged beside the step. */
function Whole({ job, swap, edited }: { job: Case; swap: Swap; edited: EditedPlan }) {
  const from = wholeFrom(job, swap);
  if (from === null) return null;
  const letter = (id: string) => job.builds.find((build) => build.id === id)?.letter ?? "?";
  const whole =
    from === swap.before
      ? `the whole job too, build ${letter(from)} against its last one`
      : `the whole too, build ${letter(from)} against build ${letter(swap.after)}`;
  return (
    <section>
      <Tick
        label={`Judge ${whole}`}
        checked={edited.draft.wholeFrom !== null}
        onChange={(checked) => editFields(edited)({ wholeFrom: checked ? from : null })}
      />
      <p className="text-sm text-soft">
        The headline’s step and its whole are then judged together: each has to be a little clearer than
        alone.
      </p>
    </section>
  );
}

function Held({ vocabulary, edited, at }: PartProps & { vocabulary: Vocabulary }) {
  const { draft, edits, setEdits } = edited;
  return (
    <section>
      <h2 className="eyebrow mb-2">Hold these on both sides</h2>
      <div className="grid grid-cols-2 gap-3 sm:grid-cols-4 xl:grid-cols-5">
        {vocabulary.conditions.map(({ key }) => (
          <TextField
            key={key}
            label={figureName(key, vocabulary.conditions)}
            value={draft.conditions[key] ?? ""}
            problem={at(`conditions.${key}`)}
            onChange={(value) => setEdits({ ...edits, conditions: { ...edits.conditions, [key]: value } })}
          />
        ))}
      </div>
    </section>
  );
}

/** What the server calls a field otherwise. */
const SENT_AS: Record<string, string> = { second: "at_most" };

interface RowProps {
  measure: Measure;
  entry: MeasureEntry | undefined;
  isHeadline: boolean;
  at: (field: string) => string | undefined;
  onEdit: (change: Partial<MeasureEntry>) => void;
  onHeadline: () => void;
}

function PlanRow({ measure, entry, isHeadline, at, onEdit, onHeadline }: RowProps) {
  if (!entry) return null;
  const { id, name } = measure;
  const unit = measure.difference_display;
  const field = bind(entry, onEdit, (key) => at(`${id}.${key}`));
  return (
    <tr className="border-b border-line">
      <th scope="row" className={`py-1 pr-2 text-left font-normal ${measure.part_of ? "pl-4" : ""}`}>
        {name} <span className="text-soft">{measure.unit_display}</span>
      </th>
      <td className="p-1">
        <ChoiceField label={`Role of ${name}`} hideLabel choices={ROLES} {...field("role")} />
      </td>
      <td className="p-1">
        <UnitField label={`${name} matters from, ${unit}`} unit={unit} {...field("matters")} />
      </td>
      <td className="p-1">
        <UnitField
          label={`${name} hoped for, ${unit}${isWork(measure) ? " more speed" : ""}`}
          unit={unit}
          {...field("hoped")}
        />
      </td>
      <td className="p-1">
        <TextField label={`Weight of ${name}`} hideLabel inputMode="decimal" {...field("weight")} />
      </td>
      <td className="p-1">
        <ChoiceField label={`${name} is read as`} hideLabel choices={STATISTICS} {...field("statistic")} />
      </td>
      <td className="px-1 text-center">
        <input
          type="radio"
          name="headline"
          aria-label={`${name} is the headline`}
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

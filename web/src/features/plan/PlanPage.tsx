import { useQuery } from "@tanstack/react-query";
import { useDeferredValue, useEffect, useState } from "react";
import { useSearchParams } from "react-router";

import { call, type Case, type Plan, type PlanView, type Swap, type Vocabulary } from "../../api/client";
import { formatCount, formatTime } from "../../lib/format";
import { ButtonLink } from "../../ui/Button";
import { Note } from "../../ui/Note";
import { isWork } from "../../lib/work";
import { TableToTake } from "../../ui/TakeAlong";
import { useCase } from "../../job/api";
import { currentSwap } from "../../job/model";
import { wordedOf, sayMinutes, strongest } from "../../job/planWords";
import { useJob, useVocabulary } from "../../job/vocabulary";
import { readPlan } from "./model";
import { PlanForm, usePlanEdits } from "./PlanForm";
import { Templates } from "./Templates";

/** The plan as it is typed, with what it takes and could show; as it is saved where nothing is typed over it. */
function usePlanView(job: Case, swap: Swap | undefined, vocabulary: Vocabulary) {
  const view = useJob(job.machine.id);
  const edited = usePlanEdits(job, swap);
  const saved = swap?.plan ?? job.open_plan.plan;
  const read = readPlan(edited.draft, saved, vocabulary, job.machine.decimal_mark);
  const typed = useDeferredValue(edited.changed && "body" in read ? read.body : null);
  const { data: preview } = useQuery({
    queryKey: ["plan preview", job.machine.id, swap?.id, job.revision, typed],
    queryFn: () =>
      call(
        "post",
        "/api/machines/{machine_id}/plan/preview",
        { machine_id: job.machine.id },
        { plan: typed ?? saved, swap: swap?.id ?? null },
      ),
    enabled: typed !== null,
    placeholderData: (last) => last,
  });
  const kept = view.swaps.find((known) => known.swap === swap?.id)?.plan ?? view.plan;
  const isPreview = typed !== null && preview !== undefined;
  const plan: Plan = isPreview ? { ...saved, ...typed } : saved;
  return { edited, isPreview, plan, planView: isPreview ? preview : kept };
}

/** How it will be measured, the same on both sides, and what that takes and could show. */
export function PlanPage() {
  const job = useCase();
  const vocabulary = useVocabulary();
  const [params] = useSearchParams();
  const swap = job.swaps.find((known) => known.id === params.get("swap")) ?? currentSwap(job);
  const [wanted, setWanted] = useState<string | null>(null);
  const [isOpen, setIsOpen] = useState(false);
  // The field that a sentence is changed by is there once its sheet is open.
  useEffect(() => {
    if (wanted) document.getElementById(wanted)?.querySelector<HTMLElement>("input")?.focus();
  }, [wanted]);
  const { edited, isPreview, plan, planView } = usePlanView(job, swap, vocabulary);
  if (job.measures.length === 0) return <NothingPlanned />;
  return (
    <main className="grid xl:grid-cols-[1fr_23rem]">
      <div className="min-w-0 p-5">
        <p className="eyebrow mb-1">
          {swap ? `The plan of “${swap.label}”` : "The plan for the next swap"} · same on both sides
          {isPreview && " · as typed, not saved yet"}
        </p>
        <h1 className="lead mb-4">{sayPlan(job, plan, planView)}</h1>
        <Sentences job={job} plan={plan} view={planView} onChange={setWanted} />
        <details
          className="mt-4"
          open={wanted !== null || isOpen}
          onToggle={(event) => setIsOpen(event.currentTarget.open)}
        >
          <summary className="flex min-h-11 cursor-pointer items-center font-semibold">
            Change the plan: roles, margins, counts, order, conditions
          </summary>
          <PlanForm key={swap?.id ?? "open"} job={job} swap={swap} vocabulary={vocabulary} edited={edited} />
        </details>
      </div>
      <aside className="space-y-5 border-line bg-card p-5 xl:min-h-[calc(100vh-3.5rem)] xl:border-l">
        <TimeAndStrength job={job} plan={plan} view={planView} />
        <Questions view={planView} />
        {swap ? <MarginEdits job={job} swap={swap} /> : <Templates job={job} />}
        <ButtonLink look="quiet" to="../setup">
          Back to Set up
        </ButtonLink>
      </aside>
    </main>
  );
}

function Questions({ view }: { view: PlanView }) {
  if (view.questions.length === 0) return null;
  return (
    <section className="space-y-2">
      <h2 className="eyebrow">Questions to this plan</h2>
      {view.questions.map((question) => (
        <Note key={question.code + (question.about ?? "")}>{question.message}</Note>
      ))}
    </section>
  );
}

interface SentencesProps {
  job: Case;
  plan: Plan;
  view: PlanView;
  onChange: (field: string) => void;
}

/** The plan as it is said: what is measured, how often, what that takes and could show; each with a way to change it. */
function Sentences({ job, plan, view, onChange }: SentencesProps) {
  const sentences = [
    { field: "plan-measures", about: "what it is judged by", sentence: sayJudgedBy(job, plan) },
    { field: "plan-counts", about: "how often it is measured", sentence: sayHowOften(plan) },
    { field: "plan-counts", about: "what it takes", sentence: sayTakes(view) },
  ];
  return (
    <ul className="max-w-3xl space-y-2 text-[1.05rem]">
      {sentences.map(({ field, about, sentence }) => (
        <li key={about}>
          {sentence}{" "}
          <button
            type="button"
            aria-label={`Change ${about}`}
            className="min-h-6 font-semibold underline underline-offset-4"
            onClick={() => onChange(field)}
          >
            change
          </button>
        </li>
      ))}
    </ul>
  );
}

function sayJudgedBy({ measures, builds }: Case, plan: Plan): string {
  const headline = measures.find((measure) => measure.id === plan.headline);
  if (!headline) return "No measure decides yet: name the one that the change is judged by.";
  const { matters_from, hoped_for } = plan.measures[headline.id] ?? {};
  const named = (role: string) =>
    measures.filter((measure) => plan.measures[measure.id]?.role === role).map(({ name }) => name);
  const others = named("claim").filter((name) => name !== headline.name);
  const controls = named("control");
  const unit = headline.difference_display;
  const more = isWork(headline) ? " more speed" : "";
  const hope = hoped_for ? `; hoped for are ${hoped_for} ${unit}${more}` : "";
  return [
    `${headline.name} decides, from ${matters_from ?? "?"} ${unit} on${hope}.`,
    ...(others.length ? [`Claims too: ${others.join(", ")}.`] : []),
    controls.length ? `Should not move: ${controls.join(", ")}.` : "Nothing stands by as a control.",
    ...builds
      .filter((build) => build.id === plan.judge_whole)
      .map((build) => `The whole since build ${build.letter} is judged too.`),
  ].join(" ");
}

function sayHowOften(plan: Plan): string {
  const sittings = formatCount(plan.sittings_a_side ?? 1, "sitting");
  const runs = formatCount(plan.runs_a_sitting ?? 1, "run");
  const second = plan.at_most ? `; where that leaves it open, up to ${plan.at_most} sittings` : "";
  return `${sittings} a side, ${runs} each${sayRepeats(plan)}, a restart between${second}.`;
}

function sayTakes({ time }: PlanView): string {
  const alone =
    time.unattended_a_side === null
      ? "; how long the tasks run is not noted."
      : `, ${sayMinutes(time.unattended_a_side)} unattended.`;
  return `At the bench: ${sayMinutes(time.at_hand_a_side)} of hands a side${alone}`;
}

const sayRepeats = (plan: Plan): string => {
  const others = Object.entries(plan.runs).map(([name, count]) => `${count} of ${name}`);
  return others.length ? ` (${others.join(", ")})` : "";
};

function NothingPlanned() {
  return (
    <main className="p-6">
      <h1 className="lead mb-4">Nothing to plan yet: say first what the machine does all day.</h1>
      <ButtonLink look="main" to="../setup">
        Go to Set up
      </ButtonLink>
    </main>
  );
}

/** The plan's first sentence: how much, how long, and what that could show. */
function sayPlan(job: Case, plan: Plan, view: PlanView): string {
  const many = `${formatCount(plan.sittings_a_side ?? 1, "sitting")} of ${formatCount(plan.runs_a_sitting ?? 1, "run")} a side`;
  const time =
    view.time.minutes_a_side === null ? "" : `, ${sayMinutes(view.time.minutes_a_side)} at the bench`;
  const strength = strongest(view, plan.headline ?? null);
  const measure = strength && job.measures.find((known) => known.id === strength.measure);
  if (!strength || !measure) return `${many}${time}. What that could show is not known before two sittings.`;
  return `${many}${time}: ${measure.name} would show from ${view.worded[strength.measure]?.detectable ?? "?"}.`;
}

function TimeAndStrength({ job, plan, view }: { job: Case; plan: Plan; view: PlanView }) {
  const { time } = view;
  const twoLooks = wordedOf(view, plan.headline ?? null)?.two_looks;
  return (
    <section>
      <h2 className="eyebrow mb-2">How long, and what it could show</h2>
      <dl className="grid grid-cols-[1fr_auto] gap-y-1.5">
        <dt className="text-soft">One sitting</dt>
        <dd className="text-right font-semibold">{sayMinutes(time.minutes_a_sitting)}</dd>
        <dt className="text-soft">One side</dt>
        <dd className="text-right font-semibold">{sayMinutes(time.minutes_a_side)}</dd>
        <dt className="text-soft">of it at hand</dt>
        <dd className="text-right font-semibold">{sayMinutes(time.at_hand_a_side)}</dd>
        <dt className="text-soft">unattended</dt>
        <dd className="text-right font-semibold">{sayMinutes(time.unattended_a_side)}</dd>
      </dl>
      {time.unknown.length > 0 && (
        <p className="mt-1 text-sm text-soft">
          Not noted: minutes a run of {time.unknown.join(", ")}. Set up has a field for it.
        </p>
      )}
      {view.strengths.length > 0 && <Strengths job={job} view={view} />}
      {twoLooks && <p className="mt-2">{twoLooks}</p>}
      {view.strengths.some((strength) => strength.sittings_needed === null) && (
        <p className="mt-1 text-sm text-soft">
          Where more than twenty sittings would be needed, the measure scatters too much for its margin.
        </p>
      )}
    </section>
  );
}

/** The gain that each measure could show, by sittings a side. */
function Strengths({ job, view }: { job: Case; view: PlanView }) {
  return (
    <TableToTake name={`${job.machine.name}, what the plan could show`}>
      <table className="mt-3 w-full text-sm tabular-nums">
        <caption className="mb-1 text-left text-soft">Gain it could show, by sittings a side</caption>
        <thead className="text-soft">
          <tr className="border-b border-line">
            {["planned", "3", "4", "5"].map((head) => (
              <th key={head} scope="col" className="py-1 pl-2 text-right font-medium first:pl-0">
                {head}
              </th>
            ))}
          </tr>
        </thead>
        {view.strengths.map((strength) => (
          <tbody key={strength.measure} className="border-b border-line">
            <tr>
              <th scope="rowgroup" colSpan={4} className="pt-1 text-left font-normal">
                {job.measures.find((measure) => measure.id === strength.measure)?.name}
              </th>
            </tr>
            <tr>
              {(["detectable", "with_three", "with_four", "with_five"] as const).map((name) => (
                <td
                  key={name}
                  className="pb-1 pl-2 text-right whitespace-nowrap first:pl-0 first:font-semibold"
                >
                  {view.worded[strength.measure]?.[name]}
                </td>
              ))}
            </tr>
          </tbody>
        ))}
      </table>
    </TableToTake>
  );
}

function MarginEdits({ job, swap }: { job: Case; swap: Swap }) {
  if (swap.margin_edits.length === 0) return null;
  return (
    <section>
      <h2 className="eyebrow mb-2">Changed after the swap was planned</h2>
      <ul className="space-y-2">
        {swap.margin_edits.map((edit) => (
          <li key={edit.at + edit.measure + edit.field}>
            <span className="font-semibold">
              {job.measures.find((measure) => measure.id === edit.measure)?.name},{" "}
              {edit.field === "matters_from" ? "matters from" : "hoped for"}: {edit.old ?? "–"} →{" "}
              {edit.new ?? "–"}
            </span>
            <span className="block text-sm text-soft">
              {formatTime(edit.at, job.machine.time_zone)}
              {edit.late ? ", after readings were there" : ", before any after-run"}: {edit.reason}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

import type { Case, Job, PlanView } from "../../api/client";
import { formatCount } from "../../lib/format";
import { ButtonLink } from "../../ui/Button";
import { Note } from "../../ui/Note";
import { currentSwap } from "../../job/model";
import { wordedOf, sayMinutes, strongest } from "../../job/planWords";

/** What is planned in three figures; the plan itself has a sheet of its own. */
export function PlanSummary({ job, view }: { job: Case; view: Job }) {
  const swap = currentSwap(job);
  const plan = swap?.plan ?? job.open_plan.plan;
  const planView = view.swaps.find((known) => known.swap === swap?.id)?.plan ?? view.plan;
  const worded = wordedOf(planView, plan.headline ?? null);
  const strength = strongest(planView, plan.headline ?? null);
  const figures = [
    [`${plan.sittings_a_side ?? 1} × ${plan.runs_a_sitting ?? 1}`, "sittings × runs a side"],
    [
      sayMinutes(planView.time.at_hand_a_side),
      planView.time.unattended_a_side === null
        ? "with somebody there, a side"
        : `with somebody there, a side; ${sayMinutes(planView.time.unattended_a_side)} by itself`,
    ],
    [worded?.detectable ?? "not known yet", "smallest gain it can show"],
  ] as const;
  return (
    <section>
      <h2 className="eyebrow mb-2">The plan{plan.change ? ` · change of the ${plan.change}` : ""}</h2>
      <div className="card">
        <dl className="grid gap-4 sm:grid-cols-3">
          {figures.map(([figure, name]) => (
            <div key={name} className="flex flex-col-reverse">
              <dt className="text-soft">{name}</dt>
              <dd className="text-[1.6rem] font-semibold">{figure}</dd>
            </div>
          ))}
        </dl>
        <p className="mt-2 text-soft">
          {strength
            ? `From ${formatCount(strength.noise.sittings, "sitting")} so far.`
            : "Two sittings on one build tell how far readings move by themselves, and so what can be shown."}
          {planView.time.unknown.length > 0 &&
            ` How long ${planView.time.unknown.join(", ")} takes is not noted.`}
        </p>
        <Questions view={planView} />
        <div className="mt-3 flex flex-wrap gap-3">
          <ButtonLink to="plan">Open the plan</ButtonLink>
          <ButtonLink look="main" to="../measure">
            Go and measure
          </ButtonLink>
        </div>
      </div>
    </section>
  );
}

/** What is asked about the plan. */
function Questions({ view }: { view: PlanView }) {
  if (view.questions.length === 0) return null;
  return (
    <div className="mt-3 space-y-2">
      {view.questions.map((question) => (
        <Note key={question.code + (question.about ?? "")}>{question.message}</Note>
      ))}
    </div>
  );
}

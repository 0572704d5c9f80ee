import { useSuspenseQuery } from "@tanstack/react-query";
import { useRef } from "react";
import { useSearchParams } from "react-router";

import type { Case, Comparison, Swap } from "../../api/client";
import { ButtonLink } from "../../ui/Button";
import { Term } from "../../ui/Term";
import { type Evidence, useCase, useRuns } from "../machine/api";
import { comparisonQuery } from "../machine/comparison";
import { Ladder } from "../machine/Ladder";
import { nextStep, stateOf, today } from "../machine/model";
import { leadMeasure, sayBundle, sayLosses, sayNoLoss, sayRecognition } from "../machine/says";
import { useShown } from "../machine/shown";
import { Board } from "./Board";
import { Detail } from "./Detail";
import { Explanations } from "./Explanations";
import { MeasureOn } from "./MeasureOn";
import { sayBasis, sayComparison, sayControls, sayLook } from "./model";
import { Traits } from "./Traits";
import { TypedRight } from "./TypedRight";

/** What the measurements prove of one swap. */
export function JudgePage() {
  const job = useCase();
  const [params] = useSearchParams();
  const swap = job.swaps.find((other) => other.id === params.get("swap")) ?? job.swaps.at(-1);
  if (!swap) return <NoSwap job={job} />;
  return <Asked job={job} swap={swap} />;
}

function Asked({ job, swap }: { job: Case; swap: Swap }) {
  const comparison = useSuspenseQuery(comparisonQuery(job.machine.id, swap.before, swap.after)).data;
  return (
    <TypedRight job={job} comparison={comparison}>
      <Judgement job={job} swap={swap} comparison={comparison} />
    </TypedRight>
  );
}

function NoSwap({ job }: { job: Case }) {
  const next = nextStep(stateOf(job, today()));
  return (
    <main className="p-6">
      <h1 className="lead mb-4">No swap yet, so there is nothing to judge.</h1>
      <ButtonLink look="main" to={`../${next.station}`}>
        {next.text}
      </ButtonLink>
    </main>
  );
}

function Judgement({ job, swap, comparison }: { job: Case; swap: Swap; comparison: Comparison }) {
  const [params, setParams] = useSearchParams();
  const runs = useRuns(job.machine.id, { build: [swap.before, swap.after] });
  const evidence: Evidence = { ...job, runs };
  const lead = leadMeasure(comparison, job.measures);
  const chosen = job.measures.find(
    (measure) => measure.id === params.get("measure") && comparison.measures[measure.id],
  );
  const measure = chosen ?? lead;
  const bundle = sayBundle(comparison);
  const losses = sayLosses(comparison, job.measures);
  const noLoss = sayNoLoss(comparison);
  const controls = sayControls(comparison, job.measures);
  useShown(job.machine.id, comparison);
  const look = sayLook(comparison, job.measures);
  const detail = useRef<HTMLElement>(null);
  const onSelect = (id: string) => {
    setParams({ swap: swap.id, measure: id }, { replace: true });
    // On a tablet the detail stands below the board: bring it up, or choosing would seem to do nothing.
    const top = detail.current?.getBoundingClientRect().top ?? 0;
    if (top > 0.8 * window.innerHeight) detail.current?.scrollIntoView();
  };
  return (
    <div className="grid lg:grid-cols-[13rem_1fr] xl:grid-cols-[13rem_1fr_19rem]">
      <aside aria-label="Builds" className="order-last border-line p-4 lg:order-none lg:border-r">
        <Ladder job={job} before={swap.before} after={swap.after} to={(other) => `?swap=${other.id}`} />
      </aside>
      <main className="min-w-0 p-4">
        <h1 className="lead mb-1">{sayComparison(comparison, job.measures)}</h1>
        <p className="mb-3 text-soft">
          {sayBasis(comparison, job)}
          {look && <span className="block text-ink">{look}</span>}
          {bundle && <b className="block font-semibold text-ink">{bundle}</b>}
          {losses && <b className="block font-semibold text-loss">▼ {losses}</b>}
          {noLoss && <span className="block">{noLoss}</span>}
          {controls && <span className="block">{controls}</span>}
          {sayRecognition(swap).map((line) => (
            <span key={line} className="block font-medium text-ink">
              {line}
            </span>
          ))}
        </p>
        <MeasureOn key={swap.id} job={job} swap={swap} comparison={comparison} />
        <div className="overflow-x-auto" tabIndex={0} role="region" aria-label="Verdict board">
          <Board job={evidence} comparison={comparison} selected={measure?.id} onSelect={onSelect} />
        </div>
        <div className="mt-2 text-sm text-soft">
          What is <Term name="settled" />, a <Term name="claim" />, a <Term name="control" />, a{" "}
          <Term name="watch" />, a <Term name="look" />, a <Term name="sitting" />?
        </div>
        {Object.values(comparison.measures).some((result) => result.within_floor) && (
          <p className="mt-2 text-sm text-soft">
            “Within its scatter”, in grey: unchanged, this machine differs by as much from sitting to sitting.
          </p>
        )}
        <Traits job={job} comparison={comparison} />
        <Explanations key={swap.id} job={job} swap={swap} />
      </main>
      <aside
        ref={detail}
        aria-label="The chosen measure"
        className="border-line bg-card p-4 lg:col-span-2 xl:col-span-1 xl:min-h-[calc(100vh-3.5rem)] xl:border-l"
      >
        {measure && <Detail job={evidence} comparison={comparison} measure={measure} />}
      </aside>
    </div>
  );
}

import { useSuspenseQuery } from "@tanstack/react-query";
import { useRef } from "react";
import { Link, useSearchParams } from "react-router";

import type { Build, Case, Comparison } from "../../api/client";
import { ButtonLink } from "../../ui/Button";
import { ChartToTake, TableToTake } from "../../ui/TakeAlong";
import { Term } from "../../ui/Term";
import { type MachineRecord, useCase, useRuns } from "../../job/api";
import { comparisonQuery } from "../../job/comparison";
import { buildName, nextStep, stateOf, swapsBetween, today } from "../../job/model";
import { leadMeasure } from "../../job/says";
import { toBeGiven, useLooked, useShown } from "../../job/shown";
import { Board } from "./Board";
import { BoardPicture } from "./BoardPicture";
import { useBringUp } from "./bringUp";
import { Detail } from "./Detail";
import { Explanations } from "./Explanations";
import { Heat } from "./Heat";
import { MeasureOn } from "./MeasureOn";
import { Traits } from "./Traits";
import { TypedRight } from "./TypedRight";

/** Two builds to compare: those named in the address, else those of a swap, else of the newest one. */
export interface Pair {
  before: string;
  after: string;
}

/** What the measurements prove of one swap, or of any two builds. */
export function JudgePage() {
  const job = useCase();
  const [params] = useSearchParams();
  const swap = job.swaps.find((other) => other.id === params.get("swap")) ?? job.swaps.at(-1);
  if (!swap) return <NoSwap job={job} />;
  const named = (key: string) => job.builds.find((build) => build.id === params.get(key))?.id;
  const [before, after] = [named("before") ?? swap.before, named("after") ?? swap.after];
  const pair = before === after ? { before: swap.before, after: swap.after } : { before, after };
  return <Asked key={`${pair.before} ${pair.after}`} job={job} pair={pair} />;
}

function Asked({ job, pair }: { job: Case; pair: Pair }) {
  const comparison = useSuspenseQuery(comparisonQuery(job.machine.id, pair.before, pair.after)).data;
  return (
    <TypedRight job={job} comparison={comparison}>
      <Judgement job={job} comparison={comparison} />
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

function Judgement({ job, comparison }: { job: Case; comparison: Comparison }) {
  const [params, setParams] = useSearchParams();
  const { before, after } = comparison;
  const runs = useRuns(job.machine.id, { build: [before, after] });
  const record: MachineRecord = { ...job, runs };
  const swaps = swapsBetween(job, before, after);
  const own = swaps.length === 1 && swaps[0]?.before === before ? swaps[0] : undefined;
  const lead = leadMeasure(comparison, job.measures);
  const chosen = job.measures.find(
    (measure) => measure.id === params.get("measure") && comparison.measures[measure.id],
  );
  const measure = chosen ?? lead;
  useShown(job.machine.id, comparison);
  // What a verdict is given of was seen by that: no call besides.
  useLooked(job, own && toBeGiven(comparison).length === 0 ? own.id : "");
  const [board, detail] = [useRef<HTMLElement>(null), useRef<HTMLElement>(null)];
  const bringUp = useBringUp(board, detail);
  const onSelect = (id: string) => {
    setParams((old) => ({ ...Object.fromEntries(old), measure: id }), { replace: true });
    bringUp();
  };
  return (
    <div className="grid xl:grid-cols-[1fr_20rem]">
      <main ref={board} className="min-w-0 p-4">
        <PairLine job={job} comparison={comparison} />
        <Head comparison={comparison} />
        {own && <MeasureOn key={own.id} job={job} swap={own} comparison={comparison} />}
        <TableToTake name={`${job.machine.name}, verdicts`}>
          <div className="overflow-x-auto" tabIndex={0} role="region" aria-label="Verdict board">
            <Board job={record} comparison={comparison} selected={measure?.id} onSelect={onSelect} />
          </div>
        </TableToTake>
        <ChartToTake
          name={`${job.machine.name}: ${sayPair(job, comparison)}`}
          caption={captionOf(comparison)}
        >
          <div hidden>
            <BoardPicture job={job} comparison={comparison} />
          </div>
        </ChartToTake>
        <div className="mt-2 text-sm text-soft">
          What is <Term name="settled" />, a <Term name="claim" />, a <Term name="control" />, a{" "}
          <Term name="watch" />, a <Term name="look" />, a <Term name="sitting" />?
        </div>
        <Heat job={job} comparison={comparison} />
        <Beside comparison={comparison} />
        {own && <Explanations key={own.id} job={job} swap={own} />}
        <ForTheNext job={job} comparison={comparison} />
      </main>
      <aside
        ref={detail}
        aria-label="The chosen measure"
        className="border-line bg-card p-4 xl:min-h-[calc(100vh-3.5rem)] xl:border-l"
      >
        {measure && <Detail job={record} comparison={comparison} measure={measure} />}
      </aside>
    </div>
  );
}

const sayPair = (job: Case, { before, after }: Comparison): string =>
  [before, after]
    .map((id) => job.builds.find((build) => build.id === id))
    .map((build) => (build ? `${build.letter} · ${build.label}` : "?"))
    .join(" → ");

/** What a picture of the board says in words: what got worse, the headline, and all that bears on it. */
const captionOf = ({ worded, beside, measures, lead }: Comparison): (string | null)[] => [
  worded.losses,
  worded.rest,
  worded.bundle,
  `Bars: ${worded.measures[lead ?? ""]?.level ?? "95 %"} intervals; shaded: too small to matter; right is better. ${beside.basis}.`,
  Object.values(measures).some((result) => result.provisional) ? "*: provisional." : null,
  ...beside.waivers,
];

/** Which two builds are compared: chosen in a line, with the way to the whole since the first one. */
function PairLine({ job, comparison }: { job: Case; comparison: Comparison }) {
  const [params, setParams] = useSearchParams();
  const { before, after } = comparison;
  const measured = job.builds.filter((build) => build.sealed || build.id === before || build.id === after);
  const first = job.builds[0];
  const choose = (pair: Partial<Pair>) => {
    const kept = { before, after, ...pair };
    const swap = job.swaps.find((known) => known.before === kept.before && known.after === kept.after);
    const asked = params.get("measure");
    setParams({ ...(swap ? { swap: swap.id } : kept), ...(asked && { measure: asked }) });
  };
  return (
    <div className="mb-2 flex flex-wrap items-center gap-2">
      <BuildChoice
        label="Build before"
        side="before"
        builds={measured}
        other={after}
        value={before}
        onChange={(id) => choose({ before: id })}
      />
      <span aria-hidden>→</span>
      <BuildChoice
        label="Build after"
        side="after"
        builds={measured}
        other={before}
        value={after}
        onChange={(id) => choose({ after: id })}
      />
      {first && first.id !== before && first.id !== after && first.sealed && (
        <button
          type="button"
          className="min-h-11 px-2 font-semibold underline underline-offset-4"
          onClick={() => choose({ before: first.id })}
        >
          since {first.letter}
        </button>
      )}
      <Link to="../ladder" className="flex min-h-11 items-center px-2 text-soft underline underline-offset-4">
        all builds
      </Link>
      <span className="ml-auto text-right text-soft">{comparison.beside.basis}</span>
    </div>
  );
}

interface ChoiceProps {
  label: string;
  side: "before" | "after";
  builds: Build[];
  other: string;
  value: string;
  onChange: (id: string) => void;
}

function BuildChoice({ label, side, builds, other, value, onChange }: ChoiceProps) {
  return (
    <label className="inline-flex items-center">
      <span className="sr-only">{label}</span>
      <select
        className={`field w-auto max-w-64 font-semibold ${side === "before" ? "text-before" : "text-after"}`}
        value={value}
        onChange={(event) => onChange(event.target.value)}
      >
        {builds
          .filter((build) => build.id !== other)
          .map((build) => (
            <option key={build.id} value={build.id}>
              {buildName(build)}, {side}
            </option>
          ))}
      </select>
    </label>
  );
}

/** The first sentences: what got worse, what works now, the headline; then what bears on all of it. */
function Head({ comparison }: { comparison: Comparison }) {
  const { losses, rest, bundle, counts, look, controls } = comparison.worded;
  const plain = [counts, look, controls];
  const { waivers } = comparison.beside;
  return (
    <>
      <h1 className="lead mb-1">
        {losses && <span className="block text-loss">▼ {losses}</span>}
        {rest}
      </h1>
      <div className="mb-3">
        {bundle && <p className="font-semibold">{bundle}</p>}
        <p className="text-soft">{plain.filter(Boolean).join(" ")}</p>
        {waivers.map((line) => (
          <p key={line} className="font-medium">
            {line}
          </p>
        ))}
      </div>
    </>
  );
}

/** What no reading shows and nobody may forget: drawbacks, nuisances, and how the machine was found. */
function Beside({ comparison }: { comparison: Comparison }) {
  const { drawbacks, found } = comparison.beside;
  const lines = [
    ...drawbacks.map((line) => ["Drawback", line] as const),
    ...found.map((line) => ["Found", line] as const),
  ];
  if (lines.length === 0) return null;
  return (
    <section className="mt-4" aria-labelledby="beside">
      <h2 id="beside" className="eyebrow mb-1">
        Beside the readings
      </h2>
      <ul>
        {lines.map(([kind, line]) => (
          <li key={kind + line}>
            {kind === "Drawback" && <b className="font-semibold">Drawback: </b>}
            {line}
          </li>
        ))}
      </ul>
    </section>
  );
}

/** What a customer never asks. */
function ForTheNext({ job, comparison }: { job: Case; comparison: Comparison }) {
  const hasFloor = Object.values(comparison.measures).some((result) => result.within_floor);
  if (comparison.trends.length === 0 && !hasFloor) return null;
  return (
    <details className="mt-4">
      <summary className="flex min-h-11 cursor-pointer items-center font-semibold">
        For the next technician
      </summary>
      {hasFloor && (
        <p className="text-soft">
          “Within its scatter”, in grey: unchanged, this machine differs by as much from sitting to sitting.
        </p>
      )}
      <Traits job={job} comparison={comparison} />
    </details>
  );
}

import { useSuspenseQueries, useSuspenseQuery } from "@tanstack/react-query";
import { Link } from "react-router";

import type { Build, Case, Comparison, Job } from "../../api/client";
import { formatCount, formatDay, formatTime } from "../../lib/format";
import { ButtonLink } from "../../ui/Button";
import { TableToTake } from "../../ui/TakeAlong";
import { Verdict } from "../../ui/Verdict";
import { useCase } from "../../job/api";
import { comparisonQuery, comparisonsQuery } from "../../job/comparison";
import { HandedOut } from "../../job/HandedOut";
import { layLadder, type Rung } from "../../job/ladder";
import { sittingsOf, tally } from "../../job/model";
import { isToBeJudged, leadMeasure } from "../../job/says";
import { useLooked } from "../../job/shown";
import { useJob } from "../../job/vocabulary";
import { LaneGraph, ROW_PX } from "./LaneGraph";
import { historyColumns } from "./model";

/** All jobs done on a machine: every build with what its step brought, and every measure through all of them. */
export function LadderPage() {
  const job = useCase();
  const view = useJob(job.machine.id);
  const rungs = layLadder(job);
  const steps = useSuspenseQuery(comparisonsQuery(job.machine.id)).data;
  useLooked(job);
  const first = job.builds[0];
  const totals = useSuspenseQueries({
    queries: rungs
      .slice(1)
      .filter((rung) => first && rung.build.sealed && rung.parent !== 0)
      .map((rung) => comparisonQuery(job.machine.id, first?.id ?? "", rung.build.id)),
  }).map((query) => query.data);
  return (
    <main className="space-y-8 p-5">
      <section>
        <h1 className="lead mb-4">{sayLadder(job)}</h1>
        <div className="overflow-x-auto">
          <div className="flex min-w-[56rem]">
            <LaneGraph rungs={rungs} fitted={job.fitted} />
            <ol className="flex-1">
              {rungs.map((rung) => (
                <RungRow
                  key={rung.build.id}
                  job={job}
                  view={view}
                  rung={rung}
                  steps={steps}
                  totals={totals}
                />
              ))}
            </ol>
          </div>
        </div>
      </section>
      <div className="flex flex-wrap items-start gap-x-12 gap-y-6">
        <History job={job} view={view} />
        <Rechecks job={job} />
        <HandedOut job={job} />
      </div>
      <ButtonLink look="quiet" to="../setup">
        Back to Set up
      </ButtonLink>
    </main>
  );
}

function sayLadder(job: Case): string {
  const closed = job.swaps.filter((swap) => swap.state === "closed").length;
  if (job.builds.length < 2) return `${job.machine.name} is as it was described: no swap yet.`;
  const fitted = job.builds.find((build) => build.id === job.fitted);
  return `${job.machine.name}: ${formatCount(job.builds.length, "build")}, ${formatCount(closed, "swap")} done; it is build ${fitted?.letter ?? "?"} now.`;
}

interface RowProps {
  job: Case;
  view: Job;
  rung: Rung;
  steps: Comparison[];
  totals: Comparison[];
}

function RungRow({ job, view, rung, steps, totals }: RowProps) {
  const { build, swap } = rung;
  const step = swap && steps[job.swaps.indexOf(swap)];
  const total = totals.find((comparison) => comparison.after === build.id);
  const first = job.builds[0];
  return (
    <li
      className="grid grid-cols-[12rem_1fr_16rem_16rem_8rem] items-center gap-3 border-b border-line"
      style={{ height: ROW_PX }}
    >
      <BuildCell job={job} build={build} />
      <SwapCell job={job} view={view} rung={rung} />
      <Gain job={job} comparison={step} name="this step" to={`../judge?swap=${swap?.id ?? ""}`} />
      <Gain
        job={job}
        comparison={total}
        name={`since ${first?.letter ?? ""}`}
        to={`../judge?before=${first?.id ?? ""}&after=${build.id}`}
      />
      <span className="text-right">{swap?.net_written}</span>
    </li>
  );
}

function BuildCell({ job, build }: { job: Case; build: Build }) {
  const { sittings, runs } = tally(job, build.id);
  // When it was first measured: what is worn is so by a date.
  const first = sittingsOf(job, build.id)[0]?.started_at;
  return (
    <div className="min-w-0">
      <span className="block truncate font-semibold">
        {build.letter} · {build.label}
      </span>
      <span className="text-sm text-soft">
        {runs ? `${formatCount(sittings, "sitting")} · ${formatCount(runs, "run")}` : "not measured yet"}
        {build.wear && ` · ${build.wear}`}
        {first && ` · ${formatDay(first.slice(0, 10))}`}
      </span>
    </div>
  );
}

function SwapCell({ job, view, rung: { swap, returns } }: Pick<RowProps, "job" | "view" | "rung">) {
  const changes = view.swaps.find((known) => known.swap === swap?.id)?.changes ?? [];
  return (
    <div className="min-w-0">
      {swap ? (
        <>
          <Link to={`../judge?swap=${swap.id}`} className="block truncate font-semibold hover:underline">
            {swap.label}
          </Link>
          <span className="block truncate text-sm text-soft">
            {changes.length > 1 ? `bundle: ${changes.join(", ")}` : changes.join(", ")}
            {swap.closed_at && ` · ${formatTime(swap.closed_at, job.machine.time_zone)}`}
          </span>
        </>
      ) : (
        <span className="text-soft">the first build</span>
      )}
      {returns.map((back) => (
        <span key={back.id} className="block truncate text-sm text-soft">
          ↩ {back.label}
        </span>
      ))}
    </div>
  );
}

interface GainProps {
  job: Case;
  comparison: Comparison | undefined;
  name: string;
  /** Where the whole of it stands. */
  to: string;
}

/** The headline's change of one step, or since the first build, with its interval and verdict. */
function Gain({ job, comparison, name, to }: GainProps) {
  const lead = comparison && leadMeasure(comparison, job.measures);
  const result = lead && comparison.measures[lead.id];
  const worded = lead && comparison.worded.measures[lead.id];
  if (!lead || !result || !worded || result.estimate === null) return <span />;
  if (isToBeJudged(result))
    return (
      <Link to={to} className="text-soft underline underline-offset-4">
        {lead.name}, {name}: complete, judge it
      </Link>
    );
  const { change, interval } = worded;
  return (
    <div className="min-w-0">
      <Link to={to} className="block truncate hover:underline">
        <b className="font-semibold">{change}</b>{" "}
        <span className="text-sm text-soft">
          {name}, {lead.name}
        </span>
      </Link>
      {interval && <span className="block truncate text-sm text-soft">{interval}</span>}
      <Verdict verdict={result.verdict} provisional={result.provisional} />
    </div>
  );
}

/** Dates to measure a build again. */
function Rechecks({ job }: { job: Case }) {
  if (job.rechecks.length === 0) return null;
  return (
    <section>
      <h2 className="eyebrow mb-2">To be measured again</h2>
      <ul className="space-y-2">
        {job.rechecks.map((recheck) => (
          <li key={recheck.id}>
            <b className="font-semibold">{formatDay(recheck.due_on)}</b>, build{" "}
            {job.builds.find((build) => build.id === recheck.build)?.letter}: {recheck.note || "same plan"}
            {recheck.done && <span className="text-soft"> (done)</span>}
          </li>
        ))}
      </ul>
    </section>
  );
}

/** Every measure through all builds; stages that lack data for it stay empty. */
function History({ job, view }: { job: Case; view: Job }) {
  const columns = historyColumns(job, view);
  const upkeep = [...view.worded.steps, ...view.worded.recovered, ...view.worded.wear];
  if (view.history.length === 0) return null;
  return (
    <section>
      <h2 className="eyebrow mb-2">
        Every measure through all builds: mean of its sittings, all runs that count
      </h2>
      <TableToTake name={`${job.machine.name}, history`}>
        <div className="overflow-x-auto">
          <table>
            <thead className="text-soft">
              <tr className="border-b border-line">
                <th className="py-1 pr-4 text-left font-medium">Measure</th>
                {columns.map((column) => (
                  <th key={column.key} className="px-3 text-right font-medium">
                    {column.letter}
                    {column.recheck && " again"}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {view.history.map((line, row) => (
                <HistoryRow
                  key={line.measure}
                  name={job.measures.find(({ id }) => id === line.measure)?.name}
                  line={line}
                  worded={view.worded.history[row]}
                  columns={columns}
                />
              ))}
            </tbody>
          </table>
        </div>
      </TableToTake>
      <p className="mt-2 text-sm text-soft">
        Judge takes as many runs from each sitting of both sides, so its means may differ in the last digit.
      </p>
      {upkeep.length > 0 && (
        <ul className="mt-3 space-y-1">
          {upkeep.map((line) => (
            <li key={line}>{line}</li>
          ))}
        </ul>
      )}
    </section>
  );
}

interface HistoryProps {
  name: string | undefined;
  line: Job["history"][number];
  worded: Job["worded"]["history"][number] | undefined;
  columns: ReturnType<typeof historyColumns>;
}

function HistoryRow({ name, line, worded, columns }: HistoryProps) {
  return (
    <tr className="border-b border-line">
      <th scope="row" className="py-1.5 pr-4 text-left font-normal">
        {name} <span className="text-soft">{worded?.unit}</span>
      </th>
      {columns.map((column) => {
        const place = line.points.findIndex(
          (known) => known.build === column.build && known.recheck === column.recheck,
        );
        return (
          <td key={column.key} className="px-3 text-right">
            {worded?.means[place] ?? "–"}
          </td>
        );
      })}
    </tr>
  );
}

import { useSuspenseQuery } from "@tanstack/react-query";
import { Link, useSearchParams } from "react-router";

import type { Case, Comparison, CostLine, Swap } from "../../api/client";
import { ValueChart } from "../../charts/ValueChart";
import { formatMoney } from "../../lib/format";
import { ButtonLink } from "../../ui/Button";
import { Note } from "../../ui/Note";
import { Verdict } from "../../ui/Verdict";
import { useCase } from "../machine/api";
import { comparisonsQuery } from "../machine/comparison";
import { nextStep, stateOf, today } from "../machine/model";
import { asGiven, isToBeJudged } from "../machine/says";
import { claimsOf, isIncome, leadOf, sayBetterValue, sayMakeup, sayNotDrawn, valuePoints } from "./model";

/** What a swap cost net, what it bought, and what each unit of money bought. */
export function BillPage() {
  const job = useCase();
  const [params] = useSearchParams();
  const comparisons = useSuspenseQuery(comparisonsQuery(job.machine.id)).data.map(asGiven);
  const chosen = job.swaps.findIndex((swap) => swap.id === params.get("swap"));
  const index = chosen >= 0 ? chosen : job.swaps.length - 1;
  const [swap, comparison] = [job.swaps[index], comparisons[index]];
  if (!swap || !comparison) {
    const next = nextStep(stateOf(job, today()));
    return (
      <main className="p-6">
        <h1 className="lead mb-4">No swap yet, so there is no bill.</h1>
        <ButtonLink look="main" to={`../${next.station}`}>
          {next.text}
        </ButtonLink>
      </main>
    );
  }
  const { bundle, known_losses: losses, known_no_loss: noLoss } = comparison.said;
  const lead = leadOf(job, comparison);
  const notDrawn = sayNotDrawn(job, comparisons);
  return (
    <main className="p-5">
      <h1 className="lead mb-1">{comparison.said.bill.sentence}</h1>
      <p className="mb-4 text-soft">
        {bundle && (
          <b className="block font-semibold text-ink">{bundle} What they brought belongs to the bundle.</b>
        )}
        {losses && <b className="block font-semibold text-loss">▼ {losses}</b>}
        {noLoss && <span className="block">{noLoss}</span>}
      </p>
      {lead && isToBeJudged(lead.result) && (
        <p className="mb-4">
          <ButtonLink look="main" to={`../judge?swap=${swap.id}`}>
            Judge it
          </ButtonLink>
        </p>
      )}
      <div className="grid items-start gap-4 lg:grid-cols-[31rem_1fr]">
        <section className="card space-y-5">
          <PerTen job={job} comparison={comparison} />
          <Account swap={swap} currency={job.machine.currency} />
        </section>
        <div className="space-y-4">
          <section className="card space-y-3">
            <Bought job={job} comparison={comparison} />
            <Overall job={job} swap={swap} comparison={comparison} />
          </section>
          <section className="card">
            <h2 className="eyebrow mb-2">Gain of each swap’s headline over its net cost</h2>
            <ValueChart
              points={valuePoints(job, comparisons)}
              currency={job.machine.currency}
              width={800}
              height={300}
              label={`Gain against net cost for ${job.swaps.length} swaps; the same figures stand in the table below`}
            />
            {notDrawn && <p className="mt-2 text-sm wrap-anywhere text-soft">{notDrawn}</p>}
          </section>
          <section className="card">
            <SwapTable job={job} comparisons={comparisons} current={swap.id} />
            <BetterValue job={job} comparison={comparison} />
          </section>
        </div>
      </div>
    </main>
  );
}

function Account({ swap, currency }: { swap: Swap; currency: string }) {
  return (
    <div>
      <h2 className="eyebrow mb-1">What it cost</h2>
      <table className="w-full">
        <tbody>
          {swap.costs.map((line, index) => (
            <tr key={index} className="border-b border-line">
              <th scope="row" className="py-1.5 text-left font-normal">
                {line.label}
                <span className="block text-sm text-soft">{describeLine(line, currency)}</span>
              </th>
              <td className="text-right align-top whitespace-nowrap pt-1.5">
                {isIncome(line) && "−"}
                {formatMoney(line.amount)}
                {line.currency !== currency && ` ${line.currency}`}
              </td>
            </tr>
          ))}
          <tr className="border-t-2 border-ink font-bold">
            <th scope="row" className="pt-2 text-left">
              Net cost
            </th>
            <td className="pt-2 text-right whitespace-nowrap">
              {swap.net_cost === null ? "not given" : formatMoney(swap.net_cost, currency)}
            </td>
          </tr>
        </tbody>
      </table>
      {swap.costs.length === 0 && (
        <p className="mt-2 text-soft">No cost lines yet. What cost nothing gets a line of 0.00.</p>
      )}
      <ButtonLink look="quiet" to={`../swap?swap=${swap.id}`}>
        Edit the cost lines
      </ButtonLink>
    </div>
  );
}

function describeLine(line: CostLine, currency: string): string {
  const range =
    line.low != null && line.high != null
      ? `, between ${formatMoney(line.low)} and ${formatMoney(line.high)}`
      : "";
  const rate =
    line.currency !== currency && line.rate
      ? `, at ${line.rate}${line.rate_date ? ` of ${line.rate_date}` : ""}`
      : "";
  return `${line.kind}${range}${rate}`;
}

function Bought({ job, comparison }: { job: Case; comparison: Comparison }) {
  return (
    <div>
      <h2 className="eyebrow mb-1">What it bought</h2>
      <table className="w-full">
        <thead className="text-soft">
          <tr className="border-b border-line">
            <th className="text-left font-medium">Claim</th>
            <th className="px-2 text-right font-medium">change</th>
            <th className="px-2 text-right font-medium">for 10 {comparison.bill.currency}</th>
            <th className="text-right font-medium">verdict</th>
          </tr>
        </thead>
        <tbody>
          {claimsOf(job, comparison).map(({ measure, result }) => (
            <tr key={measure.id} className="border-b border-line">
              <th scope="row" className="py-1 text-left font-normal wrap-anywhere">
                {measure.name}
              </th>
              <td className="px-2 text-right whitespace-nowrap">
                {comparison.said.measures[measure.id]?.change}
              </td>
              <td className="px-2 text-right whitespace-nowrap">{comparison.said.bill.values[measure.id]}</td>
              <td className="py-1 text-right">
                <Verdict
                  verdict={result.verdict}
                  provisional={result.provisional && result.verdict !== "untested"}
                />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function PerTen({ job, comparison }: { job: Case; comparison: Comparison }) {
  const { bill } = comparison;
  const lead = leadOf(job, comparison);
  const isRatio = bill.gain_per_10 !== null;
  const { interval } = comparison.said.bill;
  return (
    <div>
      <p className="flex flex-wrap items-baseline gap-x-3">
        <b className="text-3xl font-bold tracking-tight" data-testid="per-ten">
          {comparison.said.bill.per_10}
        </b>
        {isRatio && (
          <span className="wrap-anywhere text-soft">
            of {lead?.measure.name} for every 10 {bill.currency}
          </span>
        )}
      </p>
      {isRatio && interval && <p className="text-soft">{interval}</p>}
      {isRatio && Number(bill.net_cost) < 10 && (
        <div className="mt-2">
          <Note>
            So small a cost makes the figure per 10 large: read it as the sentence above says, the change for{" "}
            {formatMoney(bill.net_cost ?? "", bill.currency)}.
          </Note>
        </div>
      )}
    </div>
  );
}

/** All claims of work together, last, and only where the plan gives weights. */
function Overall({ job, swap, comparison }: { job: Case; swap: Swap; comparison: Comparison }) {
  const { overall } = comparison.said;
  if (!overall || comparison.overall.measures.length < 2) return null;
  return (
    <p className="text-sm wrap-anywhere text-soft">
      All work together: <b className="font-semibold text-ink">{overall}</b>, a figure without a verdict.{" "}
      {sayMakeup(job, swap, comparison)}
    </p>
  );
}

function BetterValue({ job, comparison }: { job: Case; comparison: Comparison }) {
  const lines = sayBetterValue(job, comparison);
  if (lines.length === 0) return null;
  return (
    <div className="mt-4">
      <h2 className="eyebrow mb-1">Value against the other swaps</h2>
      <ul className="space-y-1">
        {lines.map((line) => (
          <li key={line}>{line}</li>
        ))}
      </ul>
    </div>
  );
}

interface TableProps {
  job: Case;
  comparisons: Comparison[];
  current: string;
}

function SwapTable({ job, comparisons, current }: TableProps) {
  return (
    <table className="w-full">
      <thead className="text-left text-soft">
        <tr className="border-b border-line">
          <th className="py-1 font-medium">Swap</th>
          <th className="text-right font-medium">net {job.machine.currency}</th>
          <th className="pl-4 font-medium">headline</th>
          <th className="text-right font-medium">per 10 {job.machine.currency}</th>
          <th className="pl-4 font-medium">verdict</th>
        </tr>
      </thead>
      <tbody>
        {job.swaps.map((swap, index) => {
          const comparison = comparisons[index];
          const lead = comparison && leadOf(job, comparison);
          return comparison ? (
            <tr key={swap.id} className={`border-b border-line ${swap.id === current ? "bg-note" : ""}`}>
              <th scope="row" className="text-left font-normal">
                <Link
                  to={`?swap=${swap.id}`}
                  className="flex min-h-10 items-center wrap-anywhere underline"
                  aria-current={swap.id === current ? "true" : undefined}
                >
                  {swap.label}
                </Link>
              </th>
              <td className="text-right whitespace-nowrap">
                {swap.net_cost === null ? "not given" : formatMoney(swap.net_cost)}
              </td>
              <td className="pl-4 wrap-anywhere">{lead && `${lead.measure.name}, ${lead.said.change}`}</td>
              <td className="text-right font-semibold">{comparison.said.bill.per_10}</td>
              <td className="py-1 pl-4">
                {lead && <Verdict verdict={lead.result.verdict} provisional={lead.result.provisional} />}
              </td>
            </tr>
          ) : null;
        })}
      </tbody>
    </table>
  );
}

import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { type SetURLSearchParams, useSearchParams } from "react-router";

import type { Case, Reckoning, Swap } from "../../api/client";
import { ValueChart } from "../../charts/ValueChart";
import { valuePoints } from "../../charts/valuePoints";
import { ButtonLink } from "../../ui/Button";
import { Note } from "../../ui/Note";
import { ChartToTake, TableToTake } from "../../ui/TakeAlong";
import { useCase } from "../../job/api";
import { nextStep, stateOf, today } from "../../job/model";
import { Account } from "./Account";
import { reckoningQuery } from "./api";
import { Bought } from "./Bought";
import { HowItIsUsed } from "./HowItIsUsed";
import {
  reportAddress,
  type Setting,
  settingOf,
  switchesOf,
  type Switches as SwitchesSet,
  USUAL_YEARS,
} from "./model";
import { Options } from "./Options";
import { Switches } from "./Switches";
import { WholeLadder } from "./WholeLadder";

const PICTURE = "Bars: the intervals of gain and cost; hollow: not settled, provisional or only expected.";

/** What a swap cost net, what it bought, and what each unit of money bought. */
export function BillPage() {
  const job = useCase();
  const [params] = useSearchParams();
  const swap = job.swaps.find(({ id }) => id === params.get("swap")) ?? job.swaps.at(-1);
  if (swap) return <Bill job={job} swap={swap} />;
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

function Bill({ job, swap }: { job: Case; swap: Swap }) {
  const [params, setParams] = useSearchParams();
  const switches = switchesOf(params);
  const { data, error } = useQuery({
    ...reckoningQuery(job.machine.id, swap.before, swap.after, switches.years || USUAL_YEARS),
    placeholderData: keepPreviousData,
  });
  if (error) throw new Error("The bill could not be made up.", { cause: error });
  if (!data) return <main className="p-6 text-soft">Making up the bill…</main>;
  const all = { job, swap, data, setting: settingOf(data, switches) };
  return (
    <main className="p-5">
      <Lead {...all} />
      <div className="grid items-start gap-4 lg:grid-cols-[30rem_1fr]">
        <div className="space-y-4">
          <Cost {...all} switches={switches} onSwitch={setParams} />
          <HowItIsUsed key={job.machine.version} job={job} payback={all.setting.payback} />
          {all.setting.whole && <WholeLadder whole={all.setting.whole} />}
        </div>
        <div className="space-y-4">
          <WhatItBought {...all} />
          <BetterWays {...all} />
          <HeldBack lines={[...data.causes, ...data.limits]} />
        </div>
      </div>
    </main>
  );
}

interface Made {
  job: Case;
  swap: Swap;
  data: Reckoning;
  setting: Setting;
}

/** What is known of it in a sentence, and what must not be overlooked. */
function Lead({ swap, data, setting: { bill, account } }: Made) {
  return (
    <>
      <h1 className="lead mb-1">{bill.sentence}</h1>
      <div className="mb-4 text-soft">
        {data.bundle && (
          <b className="block font-semibold text-ink">
            {data.bundle} What they brought belongs to the bundle.
          </b>
        )}
        {account.unpaid.map((line) => (
          <b key={line} className="block font-semibold text-ink">
            {line}
          </b>
        ))}
        {data.losses && <b className="block font-semibold text-loss">▼ {data.losses}</b>}
        {data.no_loss && <span className="block">{data.no_loss}</span>}
      </div>
      {data.to_judge && (
        <p className="mb-4">
          <ButtonLink look="main" to={`../judge?swap=${swap.id}`}>
            Judge it
          </ButtonLink>
        </p>
      )}
    </>
  );
}

type CostProps = Made & { switches: SwitchesSet; onSwitch: SetURLSearchParams };

/** What each unit of money bought, and the account behind it. */
function Cost({ job, swap, data, setting: { bill, account }, switches, onSwitch }: CostProps) {
  return (
    <section className="card space-y-4">
      <div>
        <p className="flex flex-wrap items-baseline gap-x-3">
          <b className="text-3xl font-bold tracking-tight" data-testid="per-ten">
            {bill.per_10}
          </b>
          {bill.interval && (
            <span className="wrap-anywhere text-soft">
              of {data.lead_name} for every 10 {job.machine.currency}
            </span>
          )}
        </p>
        {bill.interval && <p className="text-soft">{bill.interval}</p>}
        {bill.hint && (
          <div className="mt-2">
            <Note>{bill.hint}</Note>
          </div>
        )}
      </div>
      <TableToTake name={`${job.machine.name}, ${data.label}, what it cost`}>
        <Account account={account} />
      </TableToTake>
      <Switches reckoning={data} switches={switches} onChange={onSwitch} />
      <div className="flex flex-wrap items-center gap-5">
        <ButtonLink look="main" to={reportAddress(swap.id, switches)}>
          Report for the owner
        </ButtonLink>
        <ButtonLink look="quiet" to={`../swap?swap=${swap.id}`}>
          Edit the cost lines
        </ButtonLink>
      </div>
    </section>
  );
}

function WhatItBought({ job, data, setting }: Made) {
  return (
    <section className="card space-y-3">
      <h2 className="eyebrow">What it bought</h2>
      <TableToTake name={`${job.machine.name}, ${data.label}, what it bought`}>
        <Bought claims={setting.claims} currency={job.machine.currency} />
      </TableToTake>
      {setting.room.map((line) => (
        <p key={line}>{line}</p>
      ))}
      {data.overall && <p className="text-sm wrap-anywhere text-soft">{data.overall}</p>}
    </section>
  );
}

/** Every way to spend money, drawn and listed. */
function BetterWays({ job, swap, data, setting }: Made) {
  const { currency } = job.machine;
  const points = valuePoints(setting.options);
  return (
    <section className="card">
      <h2 className="eyebrow mb-2">
        Is there a better way to spend it?{" "}
        {data.lead_name && <span className="normal-case">{data.lead_name} against net cost</span>}
      </h2>
      <ChartToTake
        name={`${job.machine.name}: ${data.lead_name ?? "gain"} against net cost`}
        caption={[
          ...[setting.bill.sentence, setting.bill.interval, data.losses, data.bundle],
          ...[setting.not_drawn, PICTURE],
        ]}
      >
        <ValueChart
          points={points}
          currency={currency}
          unit={data.unit_of_gain}
          width={800}
          height={300}
          label={`Gain against net cost of ${points.length} ways to spend money; the same figures stand in the table below`}
        />
      </ChartToTake>
      {setting.not_drawn && <p className="mt-2 text-sm wrap-anywhere text-soft">{setting.not_drawn}</p>}
      <TableToTake name={`${job.machine.name}, ways to spend money`}>
        <Options setting={setting} current={swap.id} currency={currency} boughtIn={data.bought_in} />
      </TableToTake>
      {data.better.length > 0 && <Lines lines={data.better} className="mt-3" />}
    </section>
  );
}

function HeldBack({ lines }: { lines: string[] }) {
  if (lines.length === 0) return null;
  return (
    <section className="card">
      <h2 className="eyebrow mb-1">What holds the machine back now</h2>
      <Lines lines={lines} />
    </section>
  );
}

function Lines({ lines, className = "" }: { lines: string[]; className?: string }) {
  return (
    <ul className={`space-y-1 ${className}`}>
      {lines.map((line) => (
        <li key={line} className="wrap-anywhere">
          {line}
        </li>
      ))}
    </ul>
  );
}

import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useSearchParams } from "react-router";

import {
  type Case,
  closeSitting,
  putSetAside,
  type Run,
  type Sitting,
  type Workload,
} from "../../api/client";
import { formatTime } from "../../lib/format";
import { useKeys } from "../../lib/keys";
import { Button, ButtonLink } from "../../ui/Button";
import { Dialog } from "../../ui/Dialog";
import { TextField } from "../../ui/Field";
import { Note } from "../../ui/Note";
import { Foreseen } from "../machine/Foreseen";
import { runsQuery, useCase, useRuns, useSave } from "../machine/api";
import { isEmptied, measuresOf, planFor, sittingsOf, standingBuild, swapInto } from "../machine/model";
import { useJob, useVocabulary } from "../machine/vocabulary";
import { Edits } from "./Edits";
import { chooseWorkload, sayNext, sayPlace, whereNext } from "./model";
import { RunSheet } from "./RunSheet";
import { listConditions, SittingForm } from "./SittingForm";
import { Timers } from "./Timers";
import { useSheet } from "./useSheet";

/** The bench: one sitting at a time, its run sheet and the conditions it holds. */
export function MeasurePage() {
  const job = useCase();
  const [params, setParams] = useSearchParams();
  const [form, setForm] = useState<"new" | "edit" | null>(null);
  const build = standingBuild(job);
  const wanted = params.get("sitting");
  const sitting = wanted
    ? job.sittings.find((other) => other.id === wanted)
    : build && sittingsOf(job, build.id).at(-1);
  const client = useQueryClient();
  const runs = useRuns(job.machine.id, ofSitting(sitting));
  const workload = chooseWorkload(job, runs, params.get("workload"));
  const next = sitting ? whereNext(job, sitting) : null;
  useKeys({ n: () => setForm("new") });
  if (!build || !workload) return <NothingToMeasure hasBuild={Boolean(build)} />;
  if (wanted && !sitting) return <NoSuchSitting />;
  // The sheet stays with the sitting that was begun or corrected, whatever the machine is now.
  const onDone = (done: string) => {
    setForm(null);
    // One that was just begun has no runs: nothing is to be waited for.
    const { queryKey } = runsQuery(job.machine.id, { sitting: [done] });
    if (!job.sittings.some((known) => known.id === done)) client.setQueryData(queryKey, []);
    setParams({ sitting: done });
  };
  return (
    <main className="grid xl:grid-cols-[1fr_22rem]">
      {sitting ? (
        <SittingSheet
          key={`${sitting.id} ${workload.id}`}
          job={job}
          runs={runs}
          sitting={sitting}
          workload={workload}
        />
      ) : (
        <section className="p-5">
          <h1 className="lead mb-1">Build {build.letter} is not measured yet: begin its first sitting.</h1>
          <p className="mb-5 text-soft">
            A sitting is one unbroken stretch at the bench. A reboot or a new day begins another.
          </p>
          <div className="max-w-2xl">
            <SittingForm job={job} sitting={null} onDone={onDone} />
          </div>
        </section>
      )}
      <aside className="space-y-5 border-line bg-card p-5 xl:min-h-[calc(100vh-3.5rem)] xl:border-l">
        <Reminders job={job} build={sitting?.build ?? build.id} />
        {sitting && (
          <>
            <Closing job={job} sitting={sitting} />
            <Conditions job={job} sitting={sitting} onEdit={() => setForm("edit")} />
            <div className="grid gap-2">
              {next && (
                <ButtonLink look="main" to={next.to}>
                  {next.text}
                </ButtonLink>
              )}
              <Button look={next ? "plain" : "main"} onClick={() => setForm("new")}>
                {next ? "Begin another sitting" : "Begin the next sitting"}{" "}
                <kbd className="font-sans text-sm opacity-75">N</kbd>
              </Button>
            </div>
          </>
        )}
        {sitting && <Edits job={job} sitting={sitting} runs={runs} />}
        <SittingList job={job} current={sitting} />
        <AgentHint job={job} />
      </aside>
      <Dialog
        title={form === "edit" ? "Conditions of this sitting" : "A new sitting"}
        open={form !== null}
        onClose={() => setForm(null)}
      >
        <SittingForm job={job} sitting={form === "edit" && sitting ? sitting : null} onDone={onDone} />
      </Dialog>
    </main>
  );
}

function NothingToMeasure({ hasBuild }: { hasBuild: boolean }) {
  return (
    <main className="p-6">
      <h1 className="lead mb-4">
        {hasBuild
          ? "Nothing to measure yet: say first what the machine does all day."
          : "This machine has no parts yet: describe it first."}
      </h1>
      <ButtonLink look="main" to="../setup">
        Go to Set up
      </ButtonLink>
    </main>
  );
}

/** Never another sitting in its place: what is typed would go there. */
function NoSuchSitting() {
  return (
    <main className="p-6">
      <h1 className="lead mb-4">That sitting is not among those of this machine, or is still being saved.</h1>
      <ButtonLink look="main" to="../measure">
        Go to the newest sitting
      </ButtonLink>
    </main>
  );
}

const ofSitting = (sitting: Sitting | undefined) => (sitting ? { sitting: [sitting.id] } : {});

interface SheetProps {
  job: Case;
  runs: Run[];
  sitting: Sitting;
  workload: Workload;
}

function SittingSheet({ job, runs, sitting, workload }: SheetProps) {
  const [params, setParams] = useSearchParams();
  const [marking, setMarking] = useState<number | null>(null);
  const measures = measuresOf(job, workload.name);
  const sheet = useSheet(job, runs, sitting, workload, measures);
  const plan = planFor(job, sitting.build);
  const made = runs.filter((run) => run.workload === workload.name && !isEmptied(run));
  const warmUps = Math.max(plan.warm_ups, made.filter((run) => run.warm_up).length);
  useKeys({ x: () => setMarking(sheet.rows.findLast((row) => row.run ?? row.entry)?.position ?? 1) });
  const stay = (id: string) => setParams({ sitting: sitting.id, workload: id }, { replace: true });
  return (
    <section className="min-w-0 p-5">
      <h1 className="lead mb-1">{sayPlace(job, runs, sitting, workload)}</h1>
      <p className="mb-4 text-soft">
        {sayNext(job, sitting, plan)}
        {warmUps > 0 && ` Warm-up runs are kept and never counted.`}
      </p>
      <div role="group" aria-label="Workloads" className="mb-4 flex flex-wrap gap-2">
        {job.workloads.map((other) => (
          <button
            key={other.id}
            type="button"
            aria-pressed={other.id === workload.id}
            className="min-h-11 rounded-lg border border-edge bg-card px-4 aria-pressed:border-ink aria-pressed:bg-ink aria-pressed:text-paper"
            onClick={() => stay(other.id)}
          >
            {other.name}
          </button>
        ))}
      </div>
      {sheet.isLost && (
        <div className="mb-3">
          <Note alert>
            <b className="font-semibold">The server does not answer.</b> Type on: everything is kept in this
            browser and sent by itself when the server is back.
          </Note>
        </div>
      )}
      <Timers plan={plan} runs={made.length} />
      {/* A sitting that another device begins must not slip under the hands of who types here. */}
      <div onFocus={() => params.get("sitting") ?? stay(workload.id)}>
        <RunSheet job={job} sheet={sheet} measures={measures} marking={marking} onMark={setMarking} />
      </div>
      <div className="mt-3 flex flex-wrap items-center gap-3">
        <Button disabled={!sheet.canUndo} onClick={sheet.undo}>
          Undo <kbd className="font-sans text-sm text-soft">Ctrl Z</kbd>
        </Button>
        <p className="text-soft">
          Enter moves on. A column or block from a spreadsheet can be pasted into any field. Times may be
          typed as 1:52{job.machine.decimal_mark}4.
        </p>
      </div>
    </section>
  );
}

/** What was left open at the swap, and where this side departs from the one before: said before runs are taken. */
function Reminders({ job, build }: { job: Case; build: string }) {
  const view = useJob(job.machine.id);
  const swap = swapInto(job, build);
  const swapView = view.swaps.find((known) => known.swap === swap?.id);
  if (!swap || !swapView) return null;
  const open = swap.steps.filter((step) => step.done_at === null);
  const unseen = swap.recognitions.filter((line) => line.result === null && !line.seen);
  const unanswered = swap.recognitions.filter((line) => line.result === null && line.seen);
  return (
    <>
      {(open.length > 0 || unseen.length > 0 || unanswered.length > 0 || swap.state === "open") && (
        <Note>
          <b className="font-semibold">
            {swap.state === "open" ? "The case is still open." : "Left open at the swap:"}
          </b>
          <ul className="list-disc pl-4">
            {open.map((step) => (
              <li key={step.id}>{step.text}</li>
            ))}
            {unanswered.map((line) => (
              <li key={line.id}>
                {line.what}: {line.seen} instead of {line.expected}. Will it do?
              </li>
            ))}
            {unseen.map((line) => (
              <li key={line.id}>not looked at: {line.what}</li>
            ))}
          </ul>
          <ButtonLink look="quiet" to={`../swap?swap=${swap.id}`}>
            {swapView.measured_after ? "See what was done" : "Finish it at the bench"}
          </ButtonLink>
        </Note>
      )}
      {swapView.departures.length > 0 && (
        <section>
          <h2 className="eyebrow mb-2">Not as on the before-side</h2>
          <dl className="space-y-1">
            {swapView.departures.map((departure) => (
              <div key={departure.what}>
                <dt className="text-soft">{departure.what}</dt>
                <dd>
                  <span className="text-before">{departure.before}</span> →{" "}
                  <span className="font-semibold text-after">{departure.after}</span>
                </dd>
              </div>
            ))}
          </dl>
        </section>
      )}
    </>
  );
}

/** An open sitting can be done; a closed one says what it still takes, and can be set aside. */
function Closing({ job, sitting }: { job: Case; sitting: Sitting }) {
  const [asking, setAsking] = useState(false);
  const [reason, setReason] = useState("");
  const close = useSave(job.machine.id, () => closeSitting(job.machine.id, sitting.id), noop);
  const aside = useSave(
    job.machine.id,
    () => putSetAside(job.machine.id, sitting.id, reason),
    () => setAsking(false),
  );
  if (sitting.closed_at === null)
    return (
      <section>
        <Button className="w-full" disabled={close.isPending} onClick={() => close.mutate(undefined)}>
          Sitting done
        </Button>
        <p className="mt-1 text-sm text-soft">
          Until then readings may be corrected freely. After that a correction is named beside the verdict.
        </p>
        {close.error && <Note alert>{close.error.message}</Note>}
      </section>
    );
  if (sitting.set_aside !== null)
    return (
      <Note>
        <b className="font-semibold">Set aside:</b> {sitting.set_aside.reason}. It stays listed
        {sitting.set_aside.over ? "." : ", and verdicts are given with it and without."}
      </Note>
    );
  return (
    <section>
      <p>
        <b className="font-semibold">Closed {formatTime(sitting.closed_at, job.machine.time_zone)}.</b> It
        takes no further runs. What is corrected here now stays visible, and the verdict is the more cautious
        one of before and after.
      </p>
      <Button look="quiet" onClick={() => setAsking(true)}>
        Set this sitting aside…
      </Button>
      <Dialog title="Set this sitting aside" open={asking} onClose={() => setAsking(false)}>
        <form
          className="space-y-4"
          onSubmit={(event) => {
            event.preventDefault();
            aside.mutate(undefined);
          }}
        >
          <p className="text-soft">
            The verdict is then the more cautious one of with it and without it: this can take a verdict away,
            and never bring one. Where the old part is gone, a sitting before the swap can’t be made good.
          </p>
          <Foreseen job={job} sitting={sitting.id} />
          <TextField label="Why it does not count" required autoFocus value={reason} onChange={setReason} />
          {aside.error && <Note alert>{aside.error.message}</Note>}
          <Button look="main" type="submit" disabled={aside.isPending}>
            Set it aside
          </Button>
        </form>
      </Dialog>
    </section>
  );
}

const noop = () => undefined;

function Conditions({ job, sitting, onEdit }: { job: Case; sitting: Sitting; onEdit: () => void }) {
  const ambient =
    sitting.ambient_c === null
      ? "not noted"
      : `${sitting.ambient_c.toFixed(1).replace(".", job.machine.decimal_mark)} °C`;
  const vocabulary = useVocabulary();
  const departures = useJob(job.machine.id).conditions[sitting.id] ?? [];
  const lines = [
    ["Room temperature", ambient],
    ...listConditions(sitting, vocabulary, job.machine.decimal_mark),
  ] as const;
  return (
    <section>
      <h2 className="eyebrow mb-2">Conditions held</h2>
      <dl className="grid grid-cols-[1fr_auto] gap-x-3 gap-y-1.5">
        {lines.map(([label, value]) => (
          <div key={label} className="contents">
            <dt className="text-soft">{label}</dt>
            <dd className="text-right font-semibold">{value}</dd>
          </div>
        ))}
      </dl>
      {departures.length > 0 && (
        <Note>
          <b className="font-semibold">Not as planned:</b> {departures.join("; ")}.
        </Note>
      )}
      <Button look="quiet" onClick={onEdit}>
        Correct the conditions
      </Button>
    </section>
  );
}

function SittingList({ job, current }: { job: Case; current: Sitting | undefined }) {
  const [, setParams] = useSearchParams();
  if (job.sittings.length === 0) return null;
  return (
    <section>
      <h2 className="eyebrow mb-2">Sittings so far</h2>
      <ul className="max-h-64 overflow-auto" tabIndex={0} aria-label="Sittings so far">
        {job.builds.flatMap((build) =>
          sittingsOf(job, build.id).map((sitting, index) => (
            <li key={sitting.id}>
              <button
                type="button"
                aria-current={sitting.id === current?.id ? "true" : undefined}
                className="flex min-h-11 w-full items-center justify-between gap-2 rounded-md px-2 text-left hover:bg-note aria-[current]:bg-note aria-[current]:font-semibold"
                onClick={() => setParams({ sitting: sitting.id })}
              >
                <span>
                  {build.letter} {index + 1}
                  {sitting.purpose !== "plan" && ` · ${sitting.purpose}`}
                  {sitting.set_aside !== null && " · set aside"}
                  {sitting.closed_at === null && " · open"}
                </span>
                <span className="text-soft">{formatTime(sitting.started_at, job.machine.time_zone)}</span>
              </button>
            </li>
          )),
        )}
      </ul>
    </section>
  );
}

function AgentHint({ job }: { job: Case }) {
  const command = `lynxbill bench run --server ${window.location.origin} --machine ${job.machine.id} --repeats ${planFor(job, standingBuild(job)?.id ?? "").runs_a_sitting ?? 5}`;
  return (
    <section>
      <h2 className="eyebrow mb-2">Let the bench agent measure</h2>
      <p className="mb-2 text-soft">On the machine under test; its runs appear here as they finish.</p>
      <code className="block rounded-md border border-line bg-paper p-2 text-sm wrap-anywhere select-all">
        {command}
      </code>
    </section>
  );
}

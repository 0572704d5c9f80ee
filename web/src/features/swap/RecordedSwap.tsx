import { useState } from "react";

import { call, type Case, type RecheckIn, type Swap, type SwapView } from "../../api/client";
import { bind } from "../../lib/bind";
import { formatCount, formatDay, formatList } from "../../lib/format";
import { newId } from "../../lib/ids";
import { Button, ButtonLink } from "../../ui/Button";
import { DateField, TextField } from "../../ui/Field";
import { Note } from "../../ui/Note";
import { useSave } from "../../job/api";
import { buildOf } from "../../job/model";
import { sayRecognition } from "../../job/says";
import { Account } from "./Account";
import { Checklist } from "./Checklist";
import { wordsOf } from "./model";
import { RecognitionList } from "./RecognitionList";
import { Starts } from "./Starts";
import { SwapDay } from "./SwapDay";
import { TeardownNotes } from "./TeardownNotes";

interface Props {
  job: Case;
  swap: Swap;
  view: SwapView;
}

/** A swap whose case is closed: what was changed stands; the rest may be finished until the first run after it. */
export function RecordedSwap({ job, swap, view }: Props) {
  return (
    <div className="space-y-5">
      <h1 className="lead">
        {swap.label}: {swap.net_written}.
      </h1>
      <Differences job={job} swap={swap} view={view} />
      <Record swap={swap} view={view} />
      <Casework job={job} swap={swap} isFixed={view.measured_after} />
      <Account job={job} swap={swap} />
      {!view.measured_after && <SwapDay job={job} swap={swap} />}
      <div className="flex flex-wrap gap-3">
        {!view.measured_after && <Reopen job={job} swap={swap} />}
        <ButtonLink to={`../bill?swap=${swap.id}`}>See the bill</ButtonLink>
        <ButtonLink to={`../setup/plan?swap=${swap.id}`}>See its plan</ButtonLink>
      </div>
      <Rechecks job={job} swap={swap} />
    </div>
  );
}

/** Until something is measured after it, what was done can be done over. */
function Reopen({ job, swap }: { job: Case; swap: Swap }) {
  const save = useSave(
    job.machine.id,
    () =>
      call(
        "post",
        "/api/machines/{machine_id}/swaps/{swap_id}/reopen",
        { machine_id: job.machine.id, swap_id: swap.id },
        { version: swap.version },
      ),
    () => undefined,
  );
  return (
    <>
      <Button disabled={save.isPending} onClick={() => save.mutate(undefined)}>
        {wordsOf(swap).reopen}
      </Button>
      {save.error && <Note alert>{save.error.message}</Note>}
    </>
  );
}

/** What was done while the case was open; where it stands, only what there is of it. */
function Casework({ job, swap, isFixed }: { job: Case; swap: Swap; isFixed: boolean }) {
  const has = (things: unknown[]) => !isFixed || things.length > 0;
  return (
    <div className="grid items-start gap-5 lg:grid-cols-[1fr_20rem]">
      <div className="min-w-0 space-y-5">
        {has(swap.steps) && <Checklist job={job} swap={swap} isFixed={isFixed} />}
        <TeardownNotes job={job} swap={swap} />
      </div>
      <div className="space-y-5">
        {has(swap.recognitions) && <RecognitionList job={job} swap={swap} isFixed={isFixed} />}
        {has(swap.starts) && <Starts job={job} swap={swap} isFixed={isFixed} />}
      </div>
    </div>
  );
}

function Differences({ job, swap, view }: Props) {
  const [before, after] = [buildOf(job, swap.before), buildOf(job, swap.after)];
  const side = (title: string, labels: string[], tone: string) => (
    <div className={`card border-l-4 ${tone}`}>
      <h2 className="eyebrow mb-1">{title}</h2>
      <p className="font-semibold">{labels.length ? formatList(labels) : "nothing"}</p>
    </div>
  );
  const parts = view.differences.filter((difference) => difference.kind !== "setting");
  const settings = view.differences.filter((difference) => difference.kind === "setting");
  return (
    <div className="grid gap-3 md:grid-cols-4">
      {side(
        `Came out of build ${before?.letter ?? "?"}`,
        parts.flatMap((difference) => difference.before ?? []),
        "border-l-before",
      )}
      {side(
        `Went into build ${after?.letter ?? "?"}`,
        parts.flatMap((difference) => difference.after ?? []),
        "border-l-after",
      )}
      {side(
        "Settings",
        settings.map((d) => `${d.name} ${d.before ?? "–"} → ${d.after ?? "–"}`),
        "border-l-line",
      )}
      {side("Also touched", swap.side_changes, "border-l-line")}
    </div>
  );
}

/** What happened on the way that the report has to say. */
function Record({ swap, view }: { swap: Swap; view: SwapView }) {
  const open = swap.steps.filter((step) => step.done_at === null);
  const failed = swap.starts.filter((start) => !start.booted);
  const rework = failed.reduce((sum, start) => sum + start.rework_min, 0);
  const worded = [
    swap.gate_reason &&
      `Begun before the baseline was complete: ${swap.gate_reason}. ${swap.gate_missing.join(" ")}`,
    open.length > 0 && `${formatCount(open.length, "step")} left open; the checklist below says which.`,
    failed.length > 0 &&
      `${formatCount(failed.length, "failed start")}, ${rework} min of rework: ${failed.map((start) => start.note).join("; ")}.`,
    ...sayRecognition(swap),
    ...view.questions.map((question) => question.message),
    ...view.departures.map((d) => `${d.what}: ${d.before} before, ${d.after} after.`),
  ].filter(Boolean);
  if (worded.length === 0) return null;
  return (
    <Note>
      <ul className="list-disc space-y-1 pl-4">
        {worded.map((line) => (
          <li key={String(line)}>{line}</li>
        ))}
      </ul>
    </Note>
  );
}

/** Dates to measure the build again, months later, under a copy of its plan. */
function Rechecks({ job, swap }: { job: Case; swap: Swap }) {
  const save = useRecheckSave(job);
  const kept = job.rechecks.filter((recheck) => recheck.build === swap.after);
  return (
    <section className="card">
      <h2 className="eyebrow mb-2">Measure this build again</h2>
      <ul>
        {kept.map(({ id, build, due_on, note, done, version, plan }) => (
          <li key={id} className="flex flex-wrap items-center gap-3">
            <span className="font-semibold">{formatDay(due_on)}</span>
            <span>{note}</span>
            <span className="text-soft">
              {formatCount(plan.sittings_a_side ?? 1, "sitting")} of {plan.runs_a_sitting ?? 1} runs
            </span>
            <Button
              look="quiet"
              onClick={() => save.mutate({ id, body: { build, due_on, note, done: !done, version } })}
            >
              {done ? "Done; take that back" : "It is done"}
            </Button>
          </li>
        ))}
      </ul>
      {save.error && <Note alert>{save.error.message}</Note>}
      <NewRecheck job={job} swap={swap} />
    </section>
  );
}

const useRecheckSave = (job: Case, onSaved: () => void = () => undefined) =>
  useSave(
    job.machine.id,
    ({ id, body }: { id: string; body: RecheckIn }) =>
      call(
        "put",
        "/api/machines/{machine_id}/rechecks/{recheck_id}",
        { machine_id: job.machine.id, recheck_id: id },
        body,
      ),
    onSaved,
  );

const NO_RECHECK = { due_on: "", note: "" };

function NewRecheck({ job, swap }: { job: Case; swap: Swap }) {
  const [typed, setTyped] = useState(NO_RECHECK);
  const save = useRecheckSave(job, () => setTyped(NO_RECHECK));
  const field = bind(typed, (change) => setTyped({ ...typed, ...change }));
  return (
    <>
      <div className="mt-2 flex flex-wrap items-end gap-3">
        <div className="w-44">
          <DateField label="On" {...field("due_on")} />
        </div>
        <div className="min-w-56 flex-1">
          <TextField label="To find out" placeholder="e.g. has the paste aged?" {...field("note")} />
        </div>
        <Button
          disabled={!typed.due_on || save.isPending}
          onClick={() => save.mutate({ id: newId(), body: { build: swap.after, ...typed, done: false } })}
        >
          Set the date, with a copy of the plan
        </Button>
      </div>
      {save.error && <Note alert>{save.error.message}</Note>}
    </>
  );
}

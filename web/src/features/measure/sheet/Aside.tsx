import { useState } from "react";
import { useSearchParams } from "react-router";

import { call, type Case, type Sitting } from "../../../api/client";
import { formatCount, formatTime } from "../../../lib/format";
import { writeValue } from "../../../lib/number";
import { Button, ButtonLink } from "../../../ui/Button";
import { Dialog } from "../../../ui/Dialog";
import { TextField } from "../../../ui/Field";
import { Note } from "../../../ui/Note";
import { useSave } from "../../../job/api";
import { WhatIf } from "../../../job/WhatIf";
import { sittingsOf, swapInto } from "../../../job/model";
import { useJob, useVocabulary } from "../../../job/vocabulary";
import { listConditions } from "../sitting/sitting";

/** What was left open at the swap, and where this side departs from the one before: said before runs are taken. */
export function Reminders({ job, build }: { job: Case; build: string }) {
  const view = useJob(job.machine.id);
  const swap = swapInto(job, build);
  const swapView = view.swaps.find((known) => known.swap === swap?.id);
  if (!swap || !swapView) return null;
  const left = [
    ...swap.steps.filter((step) => step.done_at === null).map((step) => step.text),
    ...swap.recognitions
      .filter((line) => line.result === null)
      .map(({ what, seen, expected }) =>
        seen ? `${what}: ${seen} instead of ${expected}. Will it do?` : `not looked at: ${what}`,
      ),
  ];
  return (
    <>
      {(left.length > 0 || swap.state === "open") && (
        <Note>
          <details>
            <summary className="cursor-pointer">
              <b className="font-semibold">
                {swap.state === "open" ? "The case is still open" : "Left open at the swap"}
                {left.length > 0 && `: ${formatCount(left.length, "thing")}.`}
              </b>
            </summary>
            <ul className="list-disc pl-4">
              {left.map((text) => (
                <li key={text}>{text}</li>
              ))}
            </ul>
          </details>
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

/** A closed sitting says what it still takes, and can be set aside. */
export function Closed({ job, sitting }: { job: Case; sitting: Sitting }) {
  const [asking, setAsking] = useState(false);
  const [reason, setReason] = useState("");
  const aside = useSave(
    job.machine.id,
    () =>
      call(
        "put",
        "/api/machines/{machine_id}/sittings/{sitting_id}/set-aside",
        { machine_id: job.machine.id, sitting_id: sitting.id },
        { reason },
      ),
    () => setAsking(false),
  );
  if (sitting.closed_at === null) return null;
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
          <WhatIf job={job} sitting={sitting.id} />
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

export function Conditions({ job, sitting, onEdit }: { job: Case; sitting: Sitting; onEdit: () => void }) {
  const ambient =
    sitting.ambient_c === null
      ? "not noted"
      : `${writeValue(sitting.ambient_c, job.machine.decimal_mark)} °C`;
  const vocabulary = useVocabulary();
  const departures = useJob(job.machine.id).conditions[sitting.id] ?? [];
  const lines = [
    ["Room temperature", ambient],
    ...listConditions(sitting, vocabulary, job.machine.decimal_mark),
  ] as const;
  return (
    <section>
      <h2 className="eyebrow mb-2">Conditions held</h2>
      <dl className="grid grid-cols-[auto_1fr] gap-x-3 gap-y-1.5">
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

export function SittingList({ job, current }: { job: Case; current: Sitting | undefined }) {
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

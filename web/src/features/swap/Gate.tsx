import { useState } from "react";

import { call, type Case, type Lack, Refused, refusedAt, type Swap } from "../../api/client";
import { formatCount } from "../../lib/format";
import { Button, ButtonLink } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { Note } from "../../ui/Note";
import { useSave } from "../../job/api";
import { buildOf, tally } from "../../job/model";
import { wordsOf } from "./model";

/** The gate before the old part leaves: what the baseline still lacks, and the way on. */
export function Gate({ job, swap, lacks }: { job: Case; swap: Swap; lacks: Lack[] }) {
  const [reason, setReason] = useState("");
  const before = buildOf(job, swap.before);
  const open = useSave(
    job.machine.id,
    () =>
      call(
        "post",
        "/api/machines/{machine_id}/swaps/{swap_id}/open",
        { machine_id: job.machine.id, swap_id: swap.id },
        { reason, version: swap.version },
      ),
    () => undefined,
  );
  const remove = useSave(
    job.machine.id,
    () =>
      call("delete", "/api/machines/{machine_id}/swaps/{swap_id}", {
        machine_id: job.machine.id,
        swap_id: swap.id,
      }),
    () => undefined,
  );
  const { sittings, runs } = tally(job, swap.before);
  const missing = lacks.filter((lack) => !lack.hint);
  const ready = missing.length === 0;
  const error = open.error ?? remove.error;
  const words = wordsOf(swap);
  return (
    <section className="card space-y-3" aria-label="Baseline gate">
      {ready ? (
        <p>
          <b className="font-semibold">The baseline is complete:</b> {formatCount(sittings, "sitting")},{" "}
          {formatCount(runs, "run")} on build {before?.letter}. {words.ready}
        </p>
      ) : (
        <>
          <p>
            <b className="font-semibold">{words.missing}</b>
          </p>
          <ul className="list-disc pl-5">
            {missing.map((lack) => (
              <li key={lack.message}>{lack.message}</li>
            ))}
          </ul>
          <div className="max-w-xl">
            <TextField
              label="Going on without it, because (kept in the report)"
              value={reason}
              problem={refusedAt(open.error)("reason")}
              onChange={setReason}
            />
          </div>
        </>
      )}
      {lacks
        .filter((lack) => lack.hint)
        .map((lack) => (
          <p key={lack.message} className="text-soft">
            {lack.code === "goes_by" ? lack.message : `A hint: ${lack.message}`}
          </p>
        ))}
      <div className="flex flex-wrap gap-3">
        {!ready && (
          <ButtonLink look="main" to="../measure">
            Measure what is missing
          </ButtonLink>
        )}
        <Button
          look={ready ? "main" : "plain"}
          autoFocus={ready}
          disabled={open.isPending}
          onClick={() => open.mutate(undefined)}
        >
          {ready ? words.begin : `${words.begin} all the same`}
        </Button>
        <Button look="quiet" disabled={remove.isPending} onClick={() => remove.mutate(undefined)}>
          Take this plan back
        </Button>
      </div>
      {error && !(error instanceof Refused && error.at("reason")) && <Note alert>{error.message}</Note>}
    </section>
  );
}

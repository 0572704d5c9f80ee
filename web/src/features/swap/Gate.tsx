import { useState } from "react";

import { call, type Case, type Lack, refusedAt, type Swap } from "../../api/client";
import { formatCount } from "../../lib/format";
import { Button, ButtonLink } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { Note } from "../../ui/Note";
import { useSave } from "../../job/api";
import { buildOf, tally } from "../../job/model";
import { wordsOf } from "./model";

/** Opens the case, or takes the plan of the swap back. */
function useGate(machine_id: string, swap: Swap, reason: string) {
  const ends = { machine_id, swap_id: swap.id };
  const open = useSave(
    machine_id,
    () =>
      call("post", "/api/machines/{machine_id}/swaps/{swap_id}/open", ends, {
        reason,
        version: swap.version,
      }),
    () => undefined,
  );
  const remove = useSave(
    machine_id,
    () => call("delete", "/api/machines/{machine_id}/swaps/{swap_id}", ends),
    () => undefined,
  );
  return { open, remove, error: open.error ?? remove.error };
}

/** The gate before the old part leaves: what the baseline still lacks, and the way on. */
export function Gate({ job, swap, lacks }: { job: Case; swap: Swap; lacks: Lack[] }) {
  const [reason, setReason] = useState("");
  const { open, remove, error } = useGate(job.machine.id, swap, reason);
  const ready = lacks.every((lack) => lack.hint);
  const words = wordsOf(swap);
  return (
    <section className="card space-y-3" aria-label="Baseline gate">
      {ready ? (
        <Complete job={job} swap={swap} />
      ) : (
        <>
          <Missing swap={swap} lacks={lacks} />
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
      {error && !refusedAt(error)("reason") && <Note alert>{error.message}</Note>}
    </section>
  );
}

function Complete({ job, swap }: { job: Case; swap: Swap }) {
  const { sittings, runs } = tally(job, swap.before);
  return (
    <p>
      <b className="font-semibold">The baseline is complete:</b> {formatCount(sittings, "sitting")},{" "}
      {formatCount(runs, "run")} on build {buildOf(job, swap.before)?.letter}. {wordsOf(swap).ready}
    </p>
  );
}

function Missing({ swap, lacks }: { swap: Swap; lacks: Lack[] }) {
  return (
    <>
      <p>
        <b className="font-semibold">{wordsOf(swap).missing}</b>
      </p>
      <ul className="list-disc pl-5">
        {lacks
          .filter((lack) => !lack.hint)
          .map((lack) => (
            <li key={lack.message}>{lack.message}</li>
          ))}
      </ul>
    </>
  );
}

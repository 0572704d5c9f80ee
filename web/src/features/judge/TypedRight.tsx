import { useSuspenseQueries } from "@tanstack/react-query";
import type { ReactNode } from "react";

import { call, type Case, type Comparison } from "../../api/client";
import { Button, ButtonLink } from "../../ui/Button";
import { Note } from "../../ui/Note";
import { doubtsQuery, useSave } from "../../job/api";
import type { Unsent } from "../../job/desk";
import { useUnsent } from "../../job/unsent";
import { UnsentNote } from "../../job/UnsentNote";

interface Props {
  job: Case;
  comparison: Comparison;
  /** The verdicts. */
  children: ReactNode;
}

/** Giving the verdict closes the sittings that it rests on: what stands off in them is asked first, while mending is free. */
export function TypedRight({ job, comparison, children }: Props) {
  const { closes } = comparison;
  const asked = useSuspenseQueries({
    queries: closes.map((sitting) => doubtsQuery(job.machine.id, sitting)),
  });
  const doubts = asked.flatMap(({ data }) => data);
  const close = useSave(
    job.machine.id,
    async () => {
      let fresh = job;
      for (const sitting of closes)
        fresh = await call("post", "/api/machines/{machine_id}/sittings/{sitting_id}/close", {
          machine_id: job.machine.id,
          sitting_id: sitting,
        });
      return fresh;
    },
    () => undefined,
  );
  const unsent = useUnsent(closes);
  if (unsent.length > 0) return <NotSaved job={job} unsent={unsent} />;
  if (doubts.length === 0) return children;
  const nameOf = (id: string) => job.measures.find((measure) => measure.id === id)?.name;
  const readings = doubts.length === 1 ? "one reading" : `${doubts.length} readings`;
  return (
    <main className="mx-auto max-w-[44rem] p-6">
      <h1 className="lead mb-1">All runs are there. Before the verdict: is {readings} typed right?</h1>
      <p className="mb-4 text-soft">
        The verdict closes the sitting. Until then a correction is free; after it, it stays beside the
        verdict.
      </p>
      <ul className="mb-5 space-y-2">
        {doubts.map(({ run, measure, message }) => (
          <li key={run + measure}>
            <Note>
              <b className="font-semibold">{nameOf(measure)}:</b> {message}
            </Note>
          </li>
        ))}
      </ul>
      {close.error && <Note alert>{close.error.message}</Note>}
      <div className="flex flex-wrap gap-3">
        <ButtonLink look="main" to="../measure">
          Back to the sheet
        </ButtonLink>
        <Button disabled={close.isPending} onClick={() => close.mutate(undefined)}>
          All is typed right: judge
        </Button>
      </div>
    </main>
  );
}

function NotSaved({ job, unsent }: { job: Case; unsent: Unsent[] }) {
  return (
    <main className="mx-auto max-w-[44rem] p-6">
      <h1 className="lead mb-4">Before the verdict: not all that was typed is saved.</h1>
      <UnsentNote job={job} unsent={unsent} lead="The verdict closes the sitting, so it waits for:" />
      <div className="mt-4">
        <ButtonLink look="main" to="../measure">
          Back to the sheet
        </ButtonLink>
      </div>
    </main>
  );
}

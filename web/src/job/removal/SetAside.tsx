import { type FormEvent, useState } from "react";

import type { Case } from "../../api/client";
import { Button } from "../../ui/Button";
import { Dialog } from "../../ui/Dialog";
import { TextField } from "../../ui/Field";
import { Note } from "../../ui/Note";
import { useSave } from "../api";

/** Sets something aside or takes it back (no reason), and answers the machine as it stands then. */
export type SaveAside = (reason: string | null) => Promise<Case>;

interface Props {
  job: Case;
  /** What is set aside, as it stands in a sentence: "this workload". */
  what: string;
  /** What that means of it. */
  means: string;
  save: SaveAside;
  onDone?: () => void;
}

/** Sets aside what can't be removed any more, with a reason that stays beside it. */
export function SetAside({ job, what, means, save, onDone }: Props) {
  const [open, setOpen] = useState(false);
  const [reason, setReason] = useState("");
  const aside = useSave(job.machine.id, save, () => {
    setOpen(false);
    setReason("");
    onDone?.();
  });
  const onSubmit = (event: FormEvent) => {
    event.preventDefault();
    event.stopPropagation();
    aside.mutate(reason.trim());
  };
  return (
    <>
      <Button look="quiet" onClick={() => setOpen(true)}>
        Set {what} aside…
      </Button>
      <Dialog title={`Set ${what} aside`} open={open} onClose={() => setOpen(false)}>
        <form onSubmit={onSubmit} className="space-y-4">
          <p>{means}</p>
          <TextField label="Why it is set aside" required autoFocus value={reason} onChange={setReason} />
          {aside.error && <Note alert>{aside.error.message}</Note>}
          <Button look="main" type="submit" disabled={aside.isPending || !reason.trim()}>
            Set it aside
          </Button>
        </form>
      </Dialog>
    </>
  );
}

/** Something that was set aside. */
export interface Aside {
  id: string;
  name: string;
  reason: string;
  save: SaveAside;
}

/** What was set aside, each with its reason; it can be taken back. */
export function AsideList({ job, things }: { job: Case; things: Aside[] }) {
  if (things.length === 0) return null;
  return (
    <section className="mt-2">
      <h3 className="text-soft">Set aside</h3>
      <ul>
        {things.map((thing) => (
          <AsideLine key={thing.id} job={job} thing={thing} />
        ))}
      </ul>
    </section>
  );
}

function AsideLine({ job, thing: { name, reason, save } }: { job: Case; thing: Aside }) {
  const back = useSave(job.machine.id, save, () => undefined);
  return (
    <li className="flex flex-wrap items-center gap-x-4 wrap-anywhere">
      <span>
        <b className="font-semibold">{name}</b>: {reason}
      </span>
      <Button
        look="quiet"
        aria-label={`Take ${name} back`}
        disabled={back.isPending}
        onClick={() => back.mutate(null)}
      >
        Take it back
      </Button>
      {back.error && <Note alert>{back.error.message}</Note>}
    </li>
  );
}

import { type FormEvent, useState } from "react";

import { call, type Case, type Comparison, type Swap } from "../../api/client";
import { Button, ButtonLink } from "../../ui/Button";
import { Dialog } from "../../ui/Dialog";
import { ChoiceField, TextField } from "../../ui/Field";
import { Note } from "../../ui/Note";
import { useSave } from "../../job/api";
import { leadMeasure } from "../../job/says";

const SIDES = [
  ["both sides", "both sides"],
  ["after-side", "the after-side alone: the old part does not come back"],
] as const;
const MOST_ATTEMPTS = 3;

interface Props {
  job: Case;
  swap: Swap;
  comparison: Comparison;
}

/** What can be done where the headline is not settled: more sittings, or measuring the comparison over. */
export function MeasureOn({ job, swap, comparison }: Props) {
  const [open, setOpen] = useState(false);
  const lead = leadMeasure(comparison, job.measures);
  const result = lead && comparison.measures[lead.id];
  if (!result || result.verdict !== "not_settled" || swap.state === "planned") return null;
  const settling = comparison.worded.measures[lead.id]?.settling;
  return (
    <div className="mb-3 flex flex-wrap items-center gap-3 rounded-lg border border-line bg-card p-3">
      <p className="min-w-60 flex-1">
        <b className="font-semibold">What would settle it?</b>{" "}
        <span className="text-soft">{settling ?? "More sittings, or measuring it over."}</span>
      </p>
      <div className="flex flex-wrap gap-2">
        <ButtonLink look="main" to="../measure">
          Measure more
        </ButtonLink>
        {comparison.attempt < MOST_ATTEMPTS && (
          <Button onClick={() => setOpen(true)}>Measure it over…</Button>
        )}
      </div>
      <Dialog title="Measure this comparison over" open={open} onClose={() => setOpen(false)}>
        <OverForm job={job} swap={swap} onDone={() => setOpen(false)} />
      </Dialog>
    </div>
  );
}

function OverForm({ job, swap, onDone }: { job: Case; swap: Swap; onDone: () => void }) {
  const [reason, setReason] = useState("");
  const [sides, setSides] = useState<(typeof SIDES)[number][0]>("both sides");
  const save = useSave(
    job.machine.id,
    () =>
      call(
        "post",
        "/api/machines/{machine_id}/swaps/{swap_id}/attempts",
        { machine_id: job.machine.id, swap_id: swap.id },
        { reason, sides, version: swap.version },
      ),
    onDone,
  );
  const onSubmit = (event: FormEvent) => {
    event.preventDefault();
    save.mutate(undefined);
  };
  return (
    <form onSubmit={onSubmit} className="space-y-4">
      <p className="text-soft">
        The sittings so far are set aside with your reason and stay listed. Every level is halved each time,
        so a false gain stays as unlikely as it was; three attempts are all.
      </p>
      <ChoiceField label="Which sides" value={sides} choices={SIDES} onChange={setSides} />
      <TextField
        label="Why it is measured over"
        required
        autoFocus
        value={reason}
        onChange={(value) => setReason(value)}
      />
      {save.error && <Note alert>{save.error.message}</Note>}
      <Button look="main" type="submit" disabled={save.isPending}>
        Set them aside, and begin anew
      </Button>
    </form>
  );
}

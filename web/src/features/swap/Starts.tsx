import { type FormEvent, useState } from "react";

import { call, type Case, refusedAt, type Swap } from "../../api/client";
import { formatTime } from "../../lib/format";
import { newId } from "../../lib/ids";
import { readNumber } from "../../lib/number";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { Note } from "../../ui/Note";
import { useSave } from "../../job/api";

/** Every attempt to start after the swap; failed ones with what it was and the time that mending took. */
export function Starts({ job, swap, isFixed = false }: { job: Case; swap: Swap; isFixed?: boolean }) {
  const [failing, setFailing] = useState(false);
  const started = useSave(
    job.machine.id,
    () =>
      call(
        "put",
        "/api/machines/{machine_id}/swaps/{swap_id}/starts/{start_id}",
        { machine_id: job.machine.id, swap_id: swap.id, start_id: newId() },
        {
          at: new Date().toISOString(),
          booted: true,
          note: "",
          rework_min: 0,
        },
      ),
    () => undefined,
  );
  return (
    <section>
      <h2 className="eyebrow mb-2">Starts</h2>
      <ul className="mb-2 space-y-1">
        {swap.starts.map((start) => (
          <li key={start.id}>
            <span className="font-semibold">{start.booted ? "✓ started" : "✕ did not start"}</span>{" "}
            <span className="text-soft">
              {formatTime(start.at, job.machine.time_zone)}
              {start.note && `: ${start.note}`}
              {start.rework_min > 0 && `, ${start.rework_min} min of rework`}
            </span>
          </li>
        ))}
      </ul>
      {isFixed ? null : failing ? (
        <Failed job={job} swap={swap} onDone={() => setFailing(false)} />
      ) : (
        <div className="flex flex-wrap gap-2">
          <Button disabled={started.isPending} onClick={() => started.mutate(undefined)}>
            It started
          </Button>
          <Button onClick={() => setFailing(true)}>It did not start</Button>
        </div>
      )}
      {started.error && <Note alert>{started.error.message}</Note>}
    </section>
  );
}

function Failed({ job, swap, onDone }: { job: Case; swap: Swap; onDone: () => void }) {
  const [note, setNote] = useState("");
  const [minutes, setMinutes] = useState("");
  const [asked, setAsked] = useState(false);
  const mark = job.machine.decimal_mark;
  const rework = minutes.trim() ? readNumber(minutes, mark) : 0;
  const save = useSave(
    job.machine.id,
    () =>
      call(
        "put",
        "/api/machines/{machine_id}/swaps/{swap_id}/starts/{start_id}",
        { machine_id: job.machine.id, swap_id: swap.id, start_id: newId() },
        {
          at: new Date().toISOString(),
          booted: false,
          note,
          rework_min: rework ?? 0,
        },
      ),
    onDone,
  );
  const onSubmit = (event: FormEvent) => {
    event.preventDefault();
    setAsked(true);
    if (rework !== null) save.mutate(undefined);
  };
  return (
    <form onSubmit={onSubmit} className="space-y-2">
      <TextField
        label="What kept it from starting"
        autoFocus
        value={note}
        problem={refusedAt(save.error)("note")}
        onChange={setNote}
      />
      <TextField
        label="Minutes of rework"
        inputMode="decimal"
        value={minutes}
        problem={asked && rework === null ? `Write minutes like 2${mark}5, or leave it empty.` : undefined}
        onChange={setMinutes}
      />
      {save.error && <Note alert>{save.error.message}</Note>}
      <div className="flex gap-2">
        <Button type="submit">Keep it</Button>
        <Button onClick={onDone}>Leave it</Button>
      </div>
    </form>
  );
}

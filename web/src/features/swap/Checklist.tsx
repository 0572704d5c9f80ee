import { Fragment, type FormEvent, useEffect, useRef, useState } from "react";

import { call, type Case, type Step, type Swap } from "../../api/client";
import { formatTime } from "../../lib/format";
import { newId } from "../../lib/ids";
import { Button } from "../../ui/Button";
import { ChoiceField, TextField } from "../../ui/Field";
import { Note } from "../../ui/Note";
import { Tick } from "../../ui/Tick";
import { useSave } from "../../job/api";

const STAGES = [
  ["before opening", "Before opening"],
  ["case open", "While the case is open"],
  ["first start", "First start"],
] as const;

interface ChecklistProps {
  job: Case;
  swap: Swap;
  /** The build after has runs: what was ticked before them stands. */
  isFixed?: boolean;
}

/** What is easily forgotten, ticked with its time; steps can be added and taken off. */
export function Checklist({ job, swap, isFixed = false }: ChecklistProps) {
  const [editing, setEditing] = useState(false);
  const machineId = job.machine.id;
  const tick = useSave(
    machineId,
    ({ step, done }: { step: Step; done: boolean }) =>
      call(
        "put",
        "/api/machines/{machine_id}/swaps/{swap_id}/steps/{step_id}",
        { machine_id: machineId, swap_id: swap.id, step_id: step.id },
        {
          stage: step.stage,
          text: step.text,
          done,
          version: step.version,
        },
      ),
    () => undefined,
  );
  const remove = useSave(
    machineId,
    (id: string) =>
      call("delete", "/api/machines/{machine_id}/swaps/{swap_id}/steps/{step_id}", {
        machine_id: machineId,
        swap_id: swap.id,
        step_id: id,
      }),
    () => undefined,
  );
  const open = swap.steps.filter((step) => step.done_at === null);
  const all = useSave(
    machineId,
    () =>
      call("post", "/api/machines/{machine_id}/swaps/{swap_id}/steps/done", {
        machine_id: machineId,
        swap_id: swap.id,
      }),
    // The ticks are behind: on to what the machine shows, or out of the case.
    () => (document.getElementById("all-seen") ?? document.getElementById("close-case"))?.focus(),
  );
  // The cursor is at the first step that is left as soon as the case is open.
  const section = useRef<HTMLElement>(null);
  const isOpen = !isFixed && swap.state === "open";
  useEffect(() => {
    if (isOpen) section.current?.querySelector<HTMLElement>("[role=checkbox][aria-checked=false]")?.focus();
  }, [isOpen]);
  const error = tick.error ?? remove.error ?? all.error;
  return (
    <section ref={section} className="card">
      {STAGES.map(([stage, title]) => {
        const steps = swap.steps.filter((step) => step.stage === stage);
        if (steps.length === 0) return null;
        return (
          <Fragment key={stage}>
            <h2 className="eyebrow mt-3 mb-1 first:mt-0">{title}</h2>
            <ul>
              {steps.map((step) => (
                <li key={step.id} className="flex items-center gap-2 border-b border-line">
                  {isFixed ? (
                    <span className={`py-2 ${step.done_at ? "text-soft" : "font-medium"}`}>
                      {step.done_at ? "✓" : "left open:"} {step.text}
                    </span>
                  ) : (
                    <Tick
                      label={step.text}
                      checked={step.done_at !== null}
                      onChange={(done) => tick.mutate({ step, done })}
                    />
                  )}
                  {step.done_at && (
                    <span className="ml-auto text-sm whitespace-nowrap text-soft">
                      {formatTime(step.done_at, job.machine.time_zone)}
                    </span>
                  )}
                  {editing && (
                    <Button
                      look="quiet"
                      className="ml-auto"
                      aria-label={`Take off: ${step.text}`}
                      onClick={() => remove.mutate(step.id)}
                    >
                      Take off
                    </Button>
                  )}
                </li>
              ))}
            </ul>
          </Fragment>
        );
      })}
      {swap.steps.length === 0 && (
        <p className="text-soft">No checklist yet. Add what you don’t want to forget.</p>
      )}
      {!isFixed && swap.state === "open" && open.length > 1 && (
        <Button className="mr-3 mt-3" disabled={all.isPending} onClick={() => all.mutate(undefined)}>
          All {open.length} that are left are done
        </Button>
      )}
      {error && <Note alert>{error.message}</Note>}
      {isFixed ? null : editing ? (
        <NewStep job={job} swap={swap} onDone={() => setEditing(false)} />
      ) : (
        <Button look="quiet" onClick={() => setEditing(true)}>
          Change the checklist
        </Button>
      )}
    </section>
  );
}

function NewStep({ job, swap, onDone }: { job: Case; swap: Swap; onDone: () => void }) {
  const [text, setText] = useState("");
  const [stage, setStage] = useState<Step["stage"]>("case open");
  const save = useSave(
    job.machine.id,
    () =>
      call(
        "put",
        "/api/machines/{machine_id}/swaps/{swap_id}/steps/{step_id}",
        { machine_id: job.machine.id, swap_id: swap.id, step_id: newId() },
        { stage, text, done: false },
      ),
    () => setText(""),
  );
  const onSubmit = (event: FormEvent) => {
    event.preventDefault();
    if (text.trim()) save.mutate(undefined);
  };
  return (
    <form onSubmit={onSubmit} className="mt-3 grid gap-2 sm:grid-cols-[1fr_12rem_auto_auto] sm:items-end">
      <TextField label="Another step" value={text} maxLength={200} onChange={setText} />
      <ChoiceField label="When" value={stage} choices={STAGES} onChange={setStage} />
      <Button type="submit">Add it</Button>
      <Button onClick={onDone}>Done</Button>
    </form>
  );
}

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

/** Ticks steps, one or all that are left, and takes them off. */
function useSteps(machine_id: string, swap: Swap) {
  const ends = { machine_id, swap_id: swap.id };
  const tick = useSave(
    machine_id,
    ({ step: { id, stage, text, version }, done }: { step: Step; done: boolean }) =>
      call(
        "put",
        "/api/machines/{machine_id}/swaps/{swap_id}/steps/{step_id}",
        { ...ends, step_id: id },
        { stage, text, done, version },
      ),
    () => undefined,
  );
  const remove = useSave(
    machine_id,
    (step_id: string) =>
      call("delete", "/api/machines/{machine_id}/swaps/{swap_id}/steps/{step_id}", { ...ends, step_id }),
    () => undefined,
  );
  const all = useSave(
    machine_id,
    () => call("post", "/api/machines/{machine_id}/swaps/{swap_id}/steps/done", ends),
    // The ticks are behind: on to what the machine shows, or out of the case.
    () => (document.getElementById("all-seen") ?? document.getElementById("close-case"))?.focus(),
  );
  return { tick, remove, all, error: tick.error ?? remove.error ?? all.error };
}

/** What is easily forgotten, ticked with its time; steps can be added and taken off. */
export function Checklist({ job, swap, isFixed = false }: ChecklistProps) {
  const [editing, setEditing] = useState(false);
  const { tick, remove, all, error } = useSteps(job.machine.id, swap);
  const open = swap.steps.filter((step) => step.done_at === null);
  // The cursor is at the first step that is left as soon as the case is open.
  const section = useRef<HTMLElement>(null);
  const isOpen = !isFixed && swap.state === "open";
  useEffect(() => {
    if (isOpen) section.current?.querySelector<HTMLElement>("[role=checkbox][aria-checked=false]")?.focus();
  }, [isOpen]);
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
                <StepLine
                  key={step.id}
                  step={step}
                  zone={job.machine.time_zone}
                  onTick={isFixed ? null : (done) => tick.mutate({ step, done })}
                  onTakeOff={editing ? () => remove.mutate(step.id) : null}
                />
              ))}
            </ul>
          </Fragment>
        );
      })}
      {swap.steps.length === 0 && (
        <p className="text-soft">No checklist yet. Add what you don’t want to forget.</p>
      )}
      {isOpen && open.length > 1 && (
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

interface LineProps {
  step: Step;
  zone: string;
  /** Null where what was ticked stands. */
  onTick: ((done: boolean) => void) | null;
  onTakeOff: (() => void) | null;
}

function StepLine({ step, zone, onTick, onTakeOff }: LineProps) {
  return (
    <li className="flex items-center gap-2 border-b border-line">
      {onTick ? (
        <Tick label={step.text} checked={step.done_at !== null} onChange={onTick} />
      ) : (
        <span className={`py-2 ${step.done_at ? "text-soft" : "font-medium"}`}>
          {step.done_at ? "✓" : "left open:"} {step.text}
        </span>
      )}
      {step.done_at && (
        <span className="ml-auto text-sm whitespace-nowrap text-soft">{formatTime(step.done_at, zone)}</span>
      )}
      {onTakeOff && (
        <Button look="quiet" className="ml-auto" aria-label={`Take off: ${step.text}`} onClick={onTakeOff}>
          Take off
        </Button>
      )}
    </li>
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

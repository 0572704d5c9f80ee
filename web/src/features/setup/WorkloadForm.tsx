import { useState } from "react";

import { call, type Case, type PartRole, refusedAt } from "../../api/client";
import { bind } from "../../lib/bind";
import { useDraft } from "../../lib/draft";
import { type DecimalMark, readNumber } from "../../lib/number";
import { Button } from "../../ui/Button";
import { Chips } from "../../ui/Chips";
import { NoteField, TextField } from "../../ui/Field";
import { Note } from "../../ui/Note";
import { useSave } from "../../job/api";
import { measuresOf } from "../../job/model";
import { removeMeasure, removeWorkload } from "../../job/removal/removal";
import { SetAside } from "../../job/removal/SetAside";
import { SaveProblem } from "../../job/SaveProblem";
import { putMeasureAside, putWorkloadAside } from "./aside";
import { MeasureFields } from "./MeasureFields";
import { emptyMeasure, type MeasureDraft, measureProblem, workloadBody, type WorkloadDraft } from "./model";
import { readParameters, sayUnreadCount, writeParameters } from "./parameters";
import { LOADED, Target } from "./Target";

interface Props {
  job: Case;
  initial: WorkloadDraft;
  onDone: () => void;
}

/** What is typed of a workload, and its save. */
function useWorkload({ job, initial, onDone }: Props) {
  const machineId = job.machine.id;
  const mark = job.machine.decimal_mark;
  const recorded = job.workloads.find((workload) => workload.id === initial.id);
  // By what was opened, not by what is recorded by now: the news of the save may come before its answer.
  const key = `workload.${initial.version === null ? machineId : initial.id}`;
  const [draft, setDraft, forget] = useDraft(key, initial);
  const done = () => {
    forget();
    onDone();
  };
  const save = useSave(
    machineId,
    (version: number | null) => {
      const measures = recorded ? measuresOf(job, recorded.name) : [];
      const body = workloadBody({ ...draft, version }, measures, recorded?.parameters ?? {}, mark);
      return call(
        "put",
        "/api/machines/{machine_id}/workloads/{workload_id}",
        { machine_id: machineId, workload_id: draft.id },
        body,
      );
    },
    done,
  );
  /** The whole workload, or one figure of it. */
  const remove = useSave(
    machineId,
    (measure: string | null) =>
      measure === null ? removeWorkload(machineId, draft.id) : removeMeasure(machineId, draft.id, measure),
    done,
  );
  const [asked, setAsked] = useState(false);
  const refused = refusedAt(save.error);
  const unread: Record<string, string | undefined> = {
    minutes_a_run:
      asked && draft.minutes.trim() && readNumber(draft.minutes, mark) === null
        ? `Write minutes like 2${mark}5, or leave it empty.`
        : undefined,
    parameters: sayUnreadCount(draft.held, mark),
  };
  const send = () => {
    setAsked(true);
    const isUnread = draft.minutes.trim() && readNumber(draft.minutes, mark) === null;
    if (isUnread || unread["parameters"]) return;
    if (!draft.measures.some((measure) => measureProblem(measure, mark))) save.mutate(draft.version);
  };
  const edit = (change: Partial<WorkloadDraft>) => setDraft({ ...draft, ...change });
  const at = (field: string) => unread[field] ?? refused(field);
  return { job, recorded, draft, edit, done, save, send, remove, asked, at, field: bind(draft, edit, at) };
}

export type WorkloadState = ReturnType<typeof useWorkload>;

/** One workload: how it is done, what it loads, and what is read off it. */
export function WorkloadForm(props: Props) {
  const state = useWorkload(props);
  const { job, recorded, draft, field, save, remove } = state;
  const mark = job.machine.decimal_mark;
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        state.send();
      }}
      className="card mt-2 w-full space-y-3"
    >
      <Doing state={state} />
      {draft.measures.map((measure, index) => (
        <OneMeasure key={measure.id} state={state} measure={measure} index={index} />
      ))}
      <NoteField label="How it is done: file, steps, what is timed or judged" {...field("card")} />
      <TextField
        label="Held the same in every run: sizes, counts, presets"
        placeholder="e.g. 40 photos, queue depth = 8, preset = fine"
        hint={sayHeld(draft.held, mark)}
        {...field("held", "parameters")}
      />
      {recorded && (
        <div className="sm:w-96">
          <TextField
            label="Version"
            hint={
              recorded.frozen
                ? "It has runs: what is held and the target stay, or it is another version."
                : ""
            }
            {...field("workloadVersion", "workload_version")}
          />
        </div>
      )}
      {remove.error && <Note alert>{remove.error.message}</Note>}
      <SaveProblem
        error={save.error}
        onTakeTheirs={state.done}
        onKeepMine={(version) => save.mutate(version)}
      />
      <Ends state={state} />
    </form>
  );
}

/** What the machine does, on which part, and how long that takes. */
function Doing({ state: { job, draft, edit, field } }: { state: WorkloadState }) {
  return (
    <>
      <div className="grid gap-3 sm:grid-cols-[2fr_1fr_9rem]">
        <TextField
          label="The task"
          required
          autoFocus={job.measures.length > 0}
          placeholder="e.g. Render the day’s map tiles"
          {...field("name")}
        />
        <Target job={job} target={draft.target} loads={draft.loads} onChange={(target) => edit({ target })} />
        <TextField
          label="Minutes a run"
          inputMode="decimal"
          placeholder="not known"
          {...field("minutes", "minutes_a_run")}
        />
      </div>
      <div>
        <span className="mb-1 block text-soft">It loads</span>
        <Chips
          label="It loads"
          choices={LOADED}
          chosen={draft.loads}
          onChange={(loads) => edit({ loads: loads as PartRole[] })}
        />
      </div>
    </>
  );
}

/** What a kind decides of a measure, by the names that the server gives it. */
const FIXED = ["unit", "scale", "kind", "better", "of", "derived_from"];

interface OneProps {
  state: WorkloadState;
  measure: MeasureDraft;
  index: number;
}

/** One figure that is read off, with what was refused of it. */
function OneMeasure({ state, measure, index }: OneProps) {
  const { job, recorded, draft, edit, remove, asked, at } = state;
  const mark = job.machine.decimal_mark;
  const known = job.measures.find(({ id }) => id === measure.id);
  const firstOf = (fields: string[]) => fields.map((field) => at(`measures.${index}.${field}`)).find(Boolean);
  const onRemove = () => {
    if (known) remove.mutate(measure.id);
    else edit({ measures: draft.measures.filter(({ id }) => id !== measure.id) });
  };
  return (
    <MeasureFields
      draft={draft}
      measure={measure}
      number={index + 1}
      problems={{
        part: firstOf(["part_of"]),
        kind: firstOf(FIXED),
        per: firstOf(["per_measure", "per_parameter", "needs"]),
        trace: firstOf(["trace_figure", "trace_of"]),
      }}
      missing={asked ? measureProblem(measure, mark) : undefined}
      mark={mark}
      onEdit={(change) =>
        edit({ measures: draft.measures.map((m) => (m.id === measure.id ? { ...m, ...change } : m)) })
      }
      onRemove={draft.measures.length > 1 ? onRemove : undefined}
      aside={
        recorded?.frozen && known && !known.set_aside ? (
          <SetAside
            job={job}
            what={`“${measure.name || draft.name}”`}
            means="No further plan asks for this figure. What was read of it stays, and so do the plans of swaps that name it."
            save={(reason) => putMeasureAside(job.machine.id, recorded.id, measure.id, reason)}
            onDone={state.done}
          />
        ) : null
      }
    />
  );
}

function Ends({ state: { job, recorded, draft, edit, done, save, remove } }: { state: WorkloadState }) {
  return (
    <div className="flex flex-wrap gap-2">
      <Button look="main" type="submit" disabled={save.isPending}>
        {recorded ? "Save this task" : "Add this task"}
      </Button>
      <Button onClick={() => edit({ measures: [...draft.measures, emptyMeasure()] })}>
        Read another figure off it
      </Button>
      {job.measures.length > 0 && (
        <Button look="quiet" onClick={done}>
          Leave it
        </Button>
      )}
      {recorded && !recorded.frozen && (
        <Button look="quiet" onClick={() => remove.mutate(null)}>
          Remove this task
        </Button>
      )}
      {recorded?.frozen && (
        <SetAside
          job={job}
          what="this task"
          means="No further plan asks for it. What was measured stays, and so do the plans of swaps that name it."
          save={(reason) => putWorkloadAside(job.machine.id, recorded.id, reason)}
          onDone={done}
        />
      )}
    </div>
  );
}

/** What was understood of the text, so that a slip is seen at once. */
function sayHeld(text: string, mark: DecimalMark): string {
  const understood = writeParameters(readParameters(text, mark), mark);
  return understood && `read: ${understood}`;
}

import { type FormEvent, type ReactNode, useState } from "react";

import { call, type Case, type PartRole, refusedAt } from "../../api/client";
import { useDraft } from "../../lib/draft";
import { Button } from "../../ui/Button";
import { Note } from "../../ui/Note";
import { Chips } from "../../ui/Chips";
import { ChoiceField, NoteField, TextField } from "../../ui/Field";
import { type DecimalMark, readNumber } from "../../lib/number";
import { asksOf, isDerived, KIND_NAMES, MEASURE_KINDS } from "../../job/kinds";
import { useSave } from "../../job/api";
import { measuresOf } from "../../job/model";
import { removeMeasure, removeWorkload } from "../../job/removal/removal";
import { SetAside } from "../../job/removal/SetAside";
import { SaveProblem } from "../../job/SaveProblem";
import { useVocabulary } from "../../job/vocabulary";
import {
  bases,
  divisors,
  emptyMeasure,
  type MeasureDraft,
  measureProblem,
  ratedChoices,
  sayNeed,
  type TraceFigure,
  traceFigures,
  workloadBody,
  type WorkloadDraft,
} from "./model";
import { LOADED, Target } from "./Target";
import { readParameters, sayUnreadCount, writeParameters } from "./parameters";

const KINDS = KIND_NAMES.map((kind) => [kind, MEASURE_KINDS[kind].label] as const);
/** What a kind decides of a measure, by the names that the server gives it. */
const FIXED = ["unit", "scale", "kind", "better", "of", "derived_from"] as const;
const COMBINED = [
  ["", "read by itself"],
  ["highest", "the highest of its parts"],
  ["mean", "the mean of its parts"],
  ["sum", "the sum of its parts"],
  ["lowest", "the lowest of its parts"],
] as const;
const TRACE_FIGURES: Record<TraceFigure, string> = {
  settled: "off its trace: the settled mean",
  "last minute": "off its trace: the last minute",
  highest: "off its trace: the highest",
  "at minute": "off its trace: at a minute of the load",
  equilibrium: "off its trace: where it would end",
  "within 1 K": "off its trace: until within 1 K",
  recovery: "off its trace: until half its rise is gone",
  resistance: "off its trace: rise by power",
  "last less first": "off its trace: last less first ten minutes",
  "held back": "off its trace: share held back",
};

interface Props {
  job: Case;
  initial: WorkloadDraft;
  onDone: () => void;
}

/** One workload: how it is done, what it loads, and what is read off it. */
export function WorkloadForm({ job, initial, onDone }: Props) {
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
  const at = refusedAt(save.error);
  const [asked, setAsked] = useState(false);
  const unread = draft.minutes.trim() && readNumber(draft.minutes, mark) === null;
  const unreadCount = sayUnreadCount(draft.held, mark);
  const edit = (id: string, change: Partial<MeasureDraft>) =>
    setDraft({ ...draft, measures: draft.measures.map((m) => (m.id === id ? { ...m, ...change } : m)) });
  const onRemove = (id: string) => {
    if (job.measures.some((known) => known.id === id)) remove.mutate(id);
    else setDraft({ ...draft, measures: draft.measures.filter((measure) => measure.id !== id) });
  };
  const onSubmit = (event: FormEvent) => {
    event.preventDefault();
    setAsked(true);
    if (!unread && !unreadCount && !draft.measures.some((measure) => measureProblem(measure, mark)))
      save.mutate(draft.version);
  };
  return (
    <form onSubmit={onSubmit} className="card mt-2 w-full space-y-3">
      <div className="grid gap-3 sm:grid-cols-[2fr_1fr_9rem]">
        <TextField
          label="The job"
          required
          autoFocus={job.measures.length > 0}
          placeholder="e.g. Render the day’s map tiles"
          value={draft.name}
          problem={at("name")}
          onChange={(name) => setDraft({ ...draft, name })}
        />
        <Target
          job={job}
          target={draft.target}
          loads={draft.loads}
          onChange={(target) => setDraft({ ...draft, target })}
        />
        <TextField
          label="Minutes a run"
          inputMode="decimal"
          placeholder="not known"
          value={draft.minutes}
          problem={asked && unread ? `Write minutes like 2${mark}5, or leave it empty.` : at("minutes_a_run")}
          onChange={(minutes) => setDraft({ ...draft, minutes })}
        />
      </div>
      <div>
        <span className="mb-1 block text-soft">It loads</span>
        <Chips
          label="It loads"
          choices={LOADED}
          chosen={draft.loads}
          onChange={(loads) => setDraft({ ...draft, loads: loads as PartRole[] })}
        />
      </div>
      {draft.measures.map((measure, index) => (
        <MeasureFields
          key={measure.id}
          draft={draft}
          measure={measure}
          number={index + 1}
          problem={at(`measures.${index}.part_of`)}
          kindProblem={FIXED.map((field) => at(`measures.${index}.${field}`)).find(Boolean)}
          perProblem={["per_measure", "per_parameter", "needs"]
            .map((field) => at(`measures.${index}.${field}`))
            .find(Boolean)}
          traceProblem={at(`measures.${index}.trace_figure`) ?? at(`measures.${index}.trace_of`)}
          missing={asked ? measureProblem(measure, mark) : undefined}
          mark={mark}
          onEdit={(change) => edit(measure.id, change)}
          onRemove={draft.measures.length > 1 ? () => onRemove(measure.id) : undefined}
          aside={
            recorded?.frozen && job.measures.some(({ id, set_aside }) => id === measure.id && !set_aside) ? (
              <SetAside
                job={job}
                what={`“${measure.name || draft.name}”`}
                means="No further plan asks for this figure. What was read of it stays, and so do the plans of swaps that name it."
                save={(reason) =>
                  call(
                    "put",
                    "/api/machines/{machine_id}/workloads/{workload_id}/measures/{measure_id}/set-aside",
                    { machine_id: machineId, workload_id: recorded.id, measure_id: measure.id },
                    { reason },
                  )
                }
                onDone={done}
              />
            ) : null
          }
        />
      ))}
      <NoteField
        label="How it is done: file, steps, what is timed or judged"
        value={draft.card}
        onChange={(card) => setDraft({ ...draft, card })}
      />
      <TextField
        label="Held the same in every run: sizes, counts, presets"
        placeholder="e.g. 40 photos, queue depth = 8, preset = fine"
        value={draft.held}
        problem={at("parameters") ?? unreadCount}
        hint={sayHeld(draft.held, mark)}
        onChange={(held) => setDraft({ ...draft, held })}
      />
      {recorded && (
        <div className="sm:w-96">
          <TextField
            label="Version"
            value={draft.workloadVersion}
            problem={at("workload_version")}
            hint={
              recorded.frozen
                ? "It has runs: what is held and the target stay, or it is another version."
                : ""
            }
            onChange={(workloadVersion) => setDraft({ ...draft, workloadVersion })}
          />
        </div>
      )}
      {remove.error && <Note alert>{remove.error.message}</Note>}
      <SaveProblem error={save.error} onTakeTheirs={done} onKeepMine={(version) => save.mutate(version)} />
      <div className="flex flex-wrap gap-2">
        <Button look="main" type="submit" disabled={save.isPending}>
          {recorded ? "Save this workload" : "Add this workload"}
        </Button>
        <Button onClick={() => setDraft({ ...draft, measures: [...draft.measures, emptyMeasure()] })}>
          Read another figure off it
        </Button>
        {job.measures.length > 0 && (
          <Button look="quiet" onClick={done}>
            Leave it
          </Button>
        )}
        {recorded && !recorded.frozen && (
          <Button look="quiet" onClick={() => remove.mutate(null)}>
            Remove this workload
          </Button>
        )}
        {recorded?.frozen && (
          <SetAside
            job={job}
            what="this workload"
            means="No further plan asks for it. What was measured stays, and so do the plans of swaps that name it."
            save={(reason) =>
              call(
                "put",
                "/api/machines/{machine_id}/workloads/{workload_id}/set-aside",
                { machine_id: machineId, workload_id: recorded.id },
                { reason },
              )
            }
            onDone={done}
          />
        )}
      </div>
    </form>
  );
}

/** What was understood of the text, so that a slip is seen at once. */
function sayHeld(text: string, mark: DecimalMark): string {
  const understood = writeParameters(readParameters(text, mark), mark);
  return understood && `read: ${understood}`;
}

interface MeasureProps {
  draft: WorkloadDraft;
  measure: MeasureDraft;
  number: number;
  problem: string | undefined;
  /** Why it can't be of the chosen kind. */
  kindProblem: string | undefined;
  perProblem: string | undefined;
  traceProblem: string | undefined;
  missing: ReturnType<typeof measureProblem>;
  mark: DecimalMark;
  onEdit: (change: Partial<MeasureDraft>) => void;
  onRemove: (() => void) | undefined;
  aside: ReactNode;
}

function MeasureFields(props: MeasureProps) {
  const {
    draft,
    measure,
    number,
    problem,
    kindProblem,
    perProblem,
    traceProblem,
    missing,
    mark,
    onEdit,
    onRemove,
    aside,
  } = props;
  const wholes = draft.measures.filter((other) => other.id !== measure.id && !other.partOf);
  const hasParts = draft.measures.some((other) => other.partOf === measure.id);
  const rated = ratedChoices(draft.loads, measure.kind, useVocabulary().parts);
  // How long a temperature takes to settle is asked of heat jobs alone.
  const isHeat = draft.loads.some((part) => part === "cooler" || part === "thermal paste");
  const isTraced =
    traceFigures(measure.kind).length > 0 &&
    (isHeat || measure.traceFigure !== "" || !["time", "load"].includes(measure.kind));
  const said = (field: string) => (missing?.field === field ? missing.text : undefined);
  return (
    <div className="grid gap-2 sm:grid-cols-[1fr_14rem_14rem]">
      <TextField
        label={`Name of measure ${number}`}
        placeholder={draft.name || "what is read"}
        value={measure.name}
        onChange={(name) => onEdit({ name })}
      />
      <ChoiceField
        label={`Measure ${number} is`}
        value={measure.kind}
        choices={KINDS}
        problem={kindProblem}
        onChange={(kind) => onEdit({ kind })}
      />
      {hasParts ? (
        <ChoiceField
          label={`Measure ${number} comes from`}
          value={measure.combined}
          choices={COMBINED}
          onChange={(combined) => onEdit({ combined })}
        />
      ) : draft.measures.length > 1 ? (
        <ChoiceField
          label={`Measure ${number} is a part of`}
          value={measure.partOf}
          problem={problem}
          choices={[
            ["", "nothing: it stands alone"] as const,
            ...wholes.map((other) => [other.id, other.name || draft.name || "the first measure"] as const),
          ]}
          onChange={(partOf) => onEdit({ partOf })}
        />
      ) : null}
      {asksOf(measure.kind) === "levels" && (
        <NoteField
          label={`Steps of measure ${number}, one a line, the worst first`}
          value={measure.levels}
          problem={said("levels")}
          onChange={(levels) => onEdit({ levels })}
        />
      )}
      {asksOf(measure.kind) === "of" && (
        <TextField
          label={`Measure ${number} tries how many`}
          inputMode="decimal"
          placeholder="e.g. 9 programs"
          value={measure.of}
          problem={said("of")}
          onChange={(of) => onEdit({ of })}
        />
      )}
      {isDerived(measure.kind) && (
        <ChoiceField
          label={`Measure ${number} is made from`}
          value={measure.base}
          problem={said("base")}
          choices={[
            ["", "choose a figure"] as const,
            ...bases(draft, measure).map(
              (other) => [other.id, other.name || draft.name || "the first"] as const,
            ),
          ]}
          onChange={(base) => onEdit({ base })}
        />
      )}
      {asksOf(measure.kind) === "needs" && (
        <TextField
          label={`Measure ${number} ${sayNeed(draft, measure)}`}
          inputMode="decimal"
          value={measure.needs}
          problem={said("needs") ?? perProblem}
          onChange={(needs) => onEdit({ needs })}
        />
      )}
      {asksOf(measure.kind)?.startsWith("per") && (
        <ChoiceField
          label={`Measure ${number} is divided by`}
          value={measure.per}
          problem={said("per") ?? perProblem}
          choices={[["", sayDivisors(measure)] as const, ...divisors(draft, measure, mark)]}
          onChange={(per) => onEdit({ per })}
        />
      )}
      {isTraced && (
        <ChoiceField
          label={`Measure ${number} is read`}
          value={measure.traceFigure}
          problem={traceProblem}
          choices={[
            ["", "by hand, or by the agent"] as const,
            ...traceFigures(measure.kind).map((figure) => [figure, TRACE_FIGURES[figure]] as const),
          ]}
          onChange={(traceFigure) => onEdit({ traceFigure })}
        />
      )}
      {isTraced && measure.traceFigure && (
        <TextField
          label={`Measure ${number}: of which part or sensor`}
          placeholder="the processor"
          value={measure.traceOf}
          onChange={(traceOf) => onEdit({ traceOf })}
        />
      )}
      {isTraced && measure.traceFigure === "at minute" && (
        <TextField
          label={`Measure ${number}: at which minute`}
          inputMode="decimal"
          value={measure.traceMinute}
          onChange={(traceMinute) => onEdit({ traceMinute })}
        />
      )}
      {isTraced && measure.traceFigure && isHeat && (
        <ChoiceField
          label={`Measure ${number}: of several sensors`}
          value={measure.traceBy}
          choices={[["hottest", "the hottest at each moment"] as const, ["mean", "their mean"] as const]}
          onChange={(traceBy) => onEdit({ traceBy })}
        />
      )}
      {rated.length > 0 && (
        <ChoiceField
          label={`Measure ${number} is set against`}
          value={measure.ratedAs}
          choices={[["", "no rating"] as const, ...rated]}
          onChange={(ratedAs) => onEdit({ ratedAs })}
        />
      )}
      {onRemove && (
        <div className="flex flex-wrap gap-2 sm:col-span-3">
          <Button look="quiet" aria-label={`Remove measure ${number}`} onClick={onRemove}>
            Remove this figure
          </Button>
          {aside}
        </div>
      )}
    </div>
  );
}

const sayDivisors = (measure: MeasureDraft): string =>
  asksOf(measure.kind) === "per power"
    ? "choose the figure for power"
    : "choose a number held the same below";

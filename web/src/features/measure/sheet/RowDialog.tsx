import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";

import type { Case, Measure, Run, RunState, Workload } from "../../../api/client";
import { Button } from "../../../ui/Button";
import { Dialog } from "../../../ui/Dialog";
import { Note } from "../../../ui/Note";
import { ChoiceField, NoteField, TextField } from "../../../ui/Field";
import { runsQuery, useSave } from "../../../job/api";
import { isEmptied } from "../../../job/model";
import { useVocabulary } from "../../../job/vocabulary";
import { removeRun } from "../../../job/removal/removal";
import { type Row, rowName, type Marks, NO_MARKS, type Noted } from "../../../job/rows";
import { RunPicture } from "./RunPicture";
import { notesDraft, type NotesDraft, readNotes } from "./notes";

const STATES = [
  ["spoiled", "spoiled: something interfered"],
  ["failed", "failed: it hung, crashed or gave a wrong result"],
  ["partial", "partial: it did not run to its end"],
  ["complete", "complete: it counts"],
] as const satisfies readonly (readonly [RunState, string])[];

const HELD_BACK = [
  ["", "nothing, as far as seen"],
  ["heat", "heat"],
  ["power", "power"],
  ["current", "current"],
  ["other", "something else"],
] as const satisfies readonly (readonly [NotesDraft["heldBack"], string])[];

const STATISTICS = [
  ["", "as planned"],
  ["lowest", "the lowest"],
  ["mean", "the mean"],
  ["highest", "the highest"],
  ["settled", "the settled one"],
  ["momentary", "a moment's"],
] as const satisfies readonly (readonly [NonNullable<Marks["statistic"]> | "", string])[];

const SOURCES = [
  ["", "measured just now"],
  ["remembered", "remembered"],
  ["inherited", "from an old log"],
  ["claimed", "the maker's word"],
] as const satisfies readonly (readonly [NonNullable<Marks["source"]> | "", string])[];

const HOW_BAD = [
  ["", "not said"],
  ["1", "1: noticed once"],
  ["2", "2: comes back"],
  ["3", "3: in the way of work"],
  ["4", "4: work had to stop"],
] as const;

/** Fields of their own, beside the lines that the vocabulary makes. */
const OWN_FIELD = new Set(["clock_ghz", "lost_min", "told_by", "nuisance", "nuisance_step"]);

export interface Amended {
  state: RunState;
  reason: string;
  noted: Noted;
  marks: Record<string, Marks>;
}

interface Props {
  job: Case;
  row: Row;
  workload: Workload;
  measures: Measure[];
  /** Whether it is opened to say what went wrong, rather than what belongs to it. */
  isMark: boolean;
  hasPicture: boolean;
  onClose: () => void;
  /** Opens what was read over time, where something of this run is. */
  onOverTime: (() => void) | undefined;
  onSave: (amended: Amended) => void;
}

/** What became of a run, and what belongs to it. Its figures stay; left out, it is shown with its reason. */
export function RowDialog(props: Props) {
  const { job, row, isMark, hasPicture, onClose, onSave } = props;
  // A row without figures can't have been spoiled after the fact: it is a run that gave none.
  const isBlank = !row.entry && (!row.run || isEmptied(row.run));
  const usual = isBlank ? "failed" : isMark ? "spoiled" : "complete";
  const [state, setState] = useState<RunState>(row.state === "complete" ? usual : row.state);
  const [reason, setReason] = useState(row.reason);
  const notes = useNotes(props);
  const { draft, read, set, condition } = notes;
  const missing = state !== "complete" && !reason.trim();
  const onSubmit = (event: FormEvent) => {
    event.preventDefault();
    notes.ask();
    if (missing || "problems" in read) return;
    const kept = state === "complete" ? "" : reason.trim();
    onSave({ state, reason: kept, noted: read.noted, marks: draft.marks });
  };
  return (
    <Dialog title={rowName(row)} open onClose={onClose}>
      <form onSubmit={onSubmit} className="space-y-4">
        <ChoiceField
          label="This run is"
          value={state}
          choices={isBlank ? STATES.filter(([known]) => known !== "complete") : STATES}
          onChange={setState}
        />
        {state !== "complete" && (
          <div className="grid gap-3 sm:grid-cols-[1fr_8rem]">
            <TextField
              label="Because"
              placeholder="e.g. indexing used the drive"
              autoFocus
              value={reason}
              maxLength={200}
              problem={notes.asked && missing ? "A reason is needed; the report shows it." : undefined}
              onChange={setReason}
            />
            <TextField label="Minutes lost" inputMode="decimal" {...condition("lost_min")} />
          </div>
        )}
        <div className="grid gap-3 sm:grid-cols-[1fr_8rem]">
          <ChoiceField
            label="Held back by"
            value={draft.heldBack}
            choices={HELD_BACK}
            onChange={(heldBack) => set({ heldBack })}
          />
          {draft.heldBack && (
            <TextField label="Clock held, GHz" inputMode="decimal" {...condition("clock_ghz")} />
          )}
        </div>
        {row.run && !isBlank && <RunPicture job={job} run={row.run} has={hasPicture} />}
        <NoteField label="Note" value={draft.note} onChange={(note) => set({ note })} />
        <Details {...props} notes={notes} />
        <Actions {...props} />
      </form>
    </Dialog>
  );
}

/** What is noted of the run as it is typed, and how it is read. */
function useNotes({ job, row, measures }: Props) {
  const mark = job.machine.decimal_mark;
  const figures = useVocabulary().run_conditions;
  const [draft, setDraft] = useState(() =>
    notesDraft(row.run, row.entry?.noted ?? {}, measures, row.entry?.marks ?? {}, mark),
  );
  const [asked, setAsked] = useState(false);
  const read = readNotes(draft, figures, mark);
  const at = (field: string) => (asked && "problems" in read ? read.problems[field] : undefined);
  const set = (change: Partial<NotesDraft>) => setDraft({ ...draft, ...change });
  const condition = (key: string) => ({
    value: draft.conditions[key] ?? "",
    problem: at(key),
    onChange: (value: string) => set({ conditions: { ...draft.conditions, [key]: value } }),
  });
  return { figures, draft, asked, read, at, set, condition, ask: () => setAsked(true) };
}

type Notes = ReturnType<typeof useNotes>;

/** How its figures were read, and what is rarely noted. */
function Details({ row, measures, workload, notes }: Props & { notes: Notes }) {
  const { draft, set, condition } = notes;
  return (
    <details open={Object.keys(row.run?.conditions ?? {}).length > 0}>
      <summary className="flex min-h-11 cursor-pointer items-center font-semibold">
        How it was read, label, room, length, nuisance
      </summary>
      <div className="space-y-3">
        {measures.map((measure) => (
          <HowRead
            key={measure.id}
            measure={measure}
            marks={draft.marks[measure.id] ?? NO_MARKS}
            onChange={(marks) => set({ marks: { ...draft.marks, [measure.id]: marks } })}
          />
        ))}
        {Object.values(draft.marks).some(({ source }) => source) && (
          <TextField
            label="Told by, or where it stands"
            placeholder="e.g. the owner, from memory"
            {...condition("told_by")}
          />
        )}
        <p className="text-sm text-soft">
          “about 41”, “40 to 42” and “highest 71” can also be typed into the figure’s own field.
        </p>
        <Lengths workload={workload} notes={notes} />
        <div className="grid gap-3 sm:grid-cols-[1fr_12rem]">
          <TextField
            label="Nuisance: lag, noise, light, smell, awkward to reach"
            {...condition("nuisance")}
          />
          <ChoiceField label="How bad" choices={HOW_BAD} {...condition("nuisance_step")} />
        </div>
      </div>
    </details>
  );
}

function Lengths({ workload, notes }: { workload: Workload; notes: Notes }) {
  const { draft, set, at, condition } = notes;
  const shown = notes.figures.filter(
    ({ key }) => !OWN_FIELD.has(key) && (workload.loads.includes("drive") || !key.startsWith("drive_")),
  );
  return (
    <div className="grid gap-3 sm:grid-cols-3">
      <TextField
        label="Label that pairs it"
        placeholder="e.g. photo set 3"
        value={draft.label}
        onChange={(label) => set({ label })}
      />
      <TextField
        label="Length, min"
        inputMode="decimal"
        value={draft.length}
        problem={at("length")}
        onChange={(length) => set({ length })}
      />
      <TextField
        label="Soak before it, min"
        inputMode="decimal"
        value={draft.soak}
        problem={at("soak")}
        onChange={(soak) => set({ soak })}
      />
      {shown.map(({ key, label, kind, unit }) => (
        <TextField
          key={key}
          label={sentence(unit ? `${label}, ${unit}` : label)}
          inputMode={kind === "text" ? "text" : "decimal"}
          {...condition(key)}
        />
      ))}
    </div>
  );
}

function Actions({ job, row, workload, hasPicture, onClose, onOverTime }: Props) {
  const sitting = job.sittings.find((known) => known.id === row.run?.sitting);
  const neverCounts = row.run?.warm_up || sitting?.purpose === "trial";
  const removable = row.run && neverCounts && sitting?.closed_at === null && !hasPicture ? row.run : null;
  const client = useQueryClient();
  const remove = useSave(
    job.machine.id,
    (run: Run) => removeRun(job.machine.id, workload.id, run),
    () => {
      void client.invalidateQueries({ queryKey: runsQuery(job.machine.id, {}).queryKey.slice(0, 2) });
      onClose();
    },
  );
  return (
    <>
      {remove.error && <Note alert>{remove.error.message}</Note>}
      <div className="flex flex-wrap gap-2">
        <Button look="main" type="submit">
          Save
        </Button>
        <Button onClick={onClose}>Leave as it was</Button>
        {onOverTime && row.run && <Button onClick={onOverTime}>Readings over time</Button>}
        {removable && (
          <Button look="quiet" onClick={() => remove.mutate(removable)}>
            Remove this {removable.warm_up ? "warm-up" : "run of a trial"}
          </Button>
        )}
      </div>
    </>
  );
}

interface HowReadProps {
  measure: Measure;
  marks: Marks;
  onChange: (marks: Marks) => void;
}

/** Which figure of its kind it is, and who told it: a told one is shown, and kept out of the test. */
function HowRead({ measure, marks, onChange }: HowReadProps) {
  return (
    <div className="grid gap-3 sm:grid-cols-2">
      <ChoiceField
        label={`${measure.name} is`}
        value={marks.statistic ?? ""}
        choices={STATISTICS}
        onChange={(statistic) => onChange({ ...marks, statistic: statistic || null })}
      />
      <ChoiceField
        label={`${measure.name} was`}
        value={marks.source ?? ""}
        choices={SOURCES}
        onChange={(source) => onChange({ ...marks, source: source || null })}
      />
    </div>
  );
}

const sentence = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);

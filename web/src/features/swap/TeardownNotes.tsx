import { useState } from "react";

import {
  type BenchNote,
  type BenchNoteIn,
  call,
  type Case,
  pictureAddress,
  type Swap,
} from "../../api/client";
import { useDraft } from "../../lib/draft";
import { formatTime } from "../../lib/format";
import { newId } from "../../lib/ids";
import { shrinkPicture } from "../../lib/picture";
import { Button } from "../../ui/Button";
import { ChoiceField, TextField } from "../../ui/Field";
import { PhotoButton } from "../../ui/PhotoButton";
import { useSave } from "../../job/api";
import { useVocabulary } from "../../job/vocabulary";
import { sayKind } from "../../job/says";

const KINDS = [
  ["teardown", "the teardown"],
  ["dust found", "dust that was found"],
  ["paste found", "old paste"],
  ["drawback", "a drawback"],
] as const satisfies readonly (readonly [BenchNote["kind"], string])[];

const UNOPENED = [
  ["teardown", "the change"],
  ["drawback", "a drawback"],
] as const satisfies readonly (readonly [BenchNote["kind"], string])[];

const HINTS: Record<BenchNote["kind"], string> = {
  teardown: "Note: screws, cables, order",
  "dust found": "",
  "paste found": "",
  drawback: "Drawback: louder, a light, out of reach",
};

/** Notes and photos of the teardown in order; for putting back, in reverse. */
export function TeardownNotes({ job, swap }: { job: Case; swap: Swap }) {
  const [reverse, setReverse] = useState(false);
  const notes = reverse ? swap.notes.toReversed() : swap.notes;
  return (
    <section className="card">
      <div className="mb-2 flex flex-wrap items-center justify-between gap-2">
        <h2 className="eyebrow">
          {!swap.opens ? "Notes" : reverse ? "Putting back: the last first" : "Teardown, in order"}
        </h2>
        {swap.opens && swap.notes.length > 1 && (
          <Button look="quiet" aria-pressed={reverse} onClick={() => setReverse(!reverse)}>
            {reverse ? "In order" : "Reverse, for putting back"}
          </Button>
        )}
      </div>
      <ol className="space-y-2">
        {notes.map((note) => (
          <NoteRow key={note.id} job={job} swap={swap} note={note} number={swap.notes.indexOf(note) + 1} />
        ))}
      </ol>
      <NewNote job={job} swap={swap} />
    </section>
  );
}

interface RowProps {
  job: Case;
  swap: Swap;
  note: BenchNote;
  number: number;
}

function NoteRow({ job, swap, note, number }: RowProps) {
  const machineId = job.machine.id;
  const scales = useVocabulary().found_steps;
  const remove = useSave(
    machineId,
    () =>
      call("delete", "/api/machines/{machine_id}/swaps/{swap_id}/notes/{note_id}", {
        machine_id: machineId,
        swap_id: swap.id,
        note_id: note.id,
      }),
    () => undefined,
  );
  return (
    <li className="flex items-start gap-3 border-b border-line pb-2">
      <span className="grid size-7 shrink-0 place-items-center rounded-full border border-edge text-sm">
        {number}
      </span>
      {note.picture && (
        <a href={pictureAddress(machineId, swap.id, note.id)} target="_blank" rel="noreferrer">
          <img
            src={pictureAddress(machineId, swap.id, note.id)}
            alt={note.text || `Photo ${number} of the teardown`}
            className="h-20 rounded-md border border-line"
          />
        </a>
      )}
      <p className="min-w-0 flex-1">
        {note.kind !== "teardown" && <b className="font-semibold">{sayKind(note, scales)}</b>} {note.text}{" "}
        <span className="block text-sm text-soft">{formatTime(note.at, job.machine.time_zone)}</span>
      </p>
      <Button look="quiet" aria-label={`Remove note ${number}`} onClick={() => remove.mutate(undefined)}>
        Remove
      </Button>
    </li>
  );
}

/** Keeps a note, with its photo where there is one. */
function useNoteSave(machine_id: string, swap: Swap, onSaved: () => void) {
  return useSave(
    machine_id,
    async ({ body, file }: { body: Omit<BenchNoteIn, "at">; file: File | null }) => {
      const ends = { machine_id, swap_id: swap.id, note_id: newId() };
      // A file that is no picture fails here, before there is a note without one.
      const picture = file && (await shrinkPicture(file));
      const path = "/api/machines/{machine_id}/swaps/{swap_id}/notes/{note_id}";
      const saved = await call("put", path, ends, { at: new Date().toISOString(), ...body });
      return picture ? call("put", `${path}/picture`, ends, picture) : saved;
    },
    onSaved,
  );
}

function NewNote({ job, swap }: { job: Case; swap: Swap }) {
  const [text, setText, forget] = useDraft(`note.${swap.id}`, "");
  const [kind, setKind] = useState<BenchNote["kind"]>("teardown");
  const [step, setStep] = useState("1");
  const scale = useVocabulary().found_steps[kind];
  const save = useNoteSave(job.machine.id, swap, forget);
  const send = (file: File | null) =>
    save.mutate({ body: { text, kind, step: scale ? Number(step) : null }, file });
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        if (text.trim() || scale) send(null);
      }}
      className="mt-3 flex flex-wrap items-end gap-2"
    >
      <div className="w-44">
        <ChoiceField
          label="It tells of"
          value={kind}
          choices={swap.opens ? KINDS : UNOPENED}
          onChange={setKind}
        />
      </div>
      {scale && (
        <div className="w-52">
          <ChoiceField
            label="How it was found"
            value={step}
            choices={scale.map((worded, index) => [String(index + 1), `${index + 1}: ${worded}`] as const)}
            onChange={setStep}
          />
        </div>
      )}
      <div className="min-w-40 flex-1">
        <TextField
          label={scale ? "Note (can wait)" : swap.opens || kind !== "teardown" ? HINTS[kind] : "Note"}
          value={text}
          onChange={setText}
        />
      </div>
      <Button type="submit" disabled={save.isPending}>
        Add the note
      </Button>
      <PhotoButton label="Photo for the note" disabled={save.isPending} error={save.error} onChoose={send}>
        Add with a photo
      </PhotoButton>
    </form>
  );
}

import type { ReactNode } from "react";

import type { Report } from "../../api/client";
import { bind } from "../../lib/bind";
import { Chips } from "../../ui/Chips";
import { ChoiceField, NoteField, TextField } from "../../ui/Field";
import { Note } from "../../ui/Note";
import { SECTIONS } from "./model";
import type { WishDraft } from "./wish";

interface Props {
  draft: WishDraft;
  report: Report;
  onChange: (draft: WishDraft) => void;
  /** What can be done with it. */
  children: ReactNode;
}

const FORMS = [
  ["short", "short, for the customer"],
  ["full", "full, for a technician"],
] as const;
const SIZES = [
  ["A4", "A4"],
  ["letter", "Letter"],
] as const;
const CHANGED = [
  ["", "not answered yet"],
  ["no", "nothing was changed"],
  ["yes", "something was changed"],
] as const;

/** What the technician adds to a report; what it discloses is none of it. */
export function Controls({ draft, report, onChange, children }: Props) {
  const edit = (change: Partial<WishDraft>) => onChange({ ...draft, ...change });
  const field = bind(draft, edit);
  return (
    <section className="card space-y-3">
      <div className="grid grid-cols-[1fr_6rem] gap-2">
        <ChoiceField label="Form" choices={FORMS} {...field("form")} />
        <ChoiceField label="Paper" choices={SIZES} {...field("size")} />
      </div>
      <ChoiceField
        label="After the last run: cables, fans, settings?"
        choices={CHANGED}
        {...field("changed")}
      />
      {draft.changed === "yes" && (
        <TextField
          label="What was changed"
          hint="a check run under the same plan would take this line off the report"
          {...field("changedWhat")}
        />
      )}
      <TextField label="Technician" {...field("technician")} />
      <NoteField label="Advice in your own words (can be left out)" {...field("advice")} />
      {report.doubts.map((doubt) => (
        <Note key={doubt.sentence + doubt.against}>
          “{doubt.sentence}” {doubt.against}
        </Note>
      ))}
      <TextField label="What comes next" {...field("nextStep")} />
      {draft.form === "full" && <Parts draft={draft} edit={edit} />}
      {draft.form === "full" && !draft.without.includes("notes") && (
        <Photos draft={draft} edit={edit} report={report} />
      )}
      <div className="flex flex-wrap items-center gap-2">{children}</div>
    </section>
  );
}

interface ChosenProps {
  draft: WishDraft;
  edit: (change: Partial<WishDraft>) => void;
}

/** Which parts the full form has. */
function Parts({ draft, edit }: ChosenProps) {
  return (
    <div>
      <span className="mb-1 block text-soft">With</span>
      <Chips
        label="Parts of the full form"
        choices={SECTIONS.map(([, name]) => name)}
        chosen={SECTIONS.filter(([key]) => !draft.without.includes(key)).map(([, name]) => name)}
        onChange={(chosen) =>
          edit({ without: SECTIONS.filter(([, name]) => !chosen.includes(name)).map(([key]) => key) })
        }
      />
    </div>
  );
}

/** Which photos the full form has, where there are any. */
function Photos({ draft, edit, report }: ChosenProps & { report: Report }) {
  const photos = report.notes.flatMap(({ picture, text }) => (picture === null ? [] : [{ picture, text }]));
  const names = photos.map(({ text }, index) => `${index + 1}${text ? ` · ${text.slice(0, 30)}` : ""}`);
  if (photos.length === 0) return null;
  return (
    <div>
      <span className="mb-1 block text-soft">With photos</span>
      <Chips
        label="Photos of the full form"
        choices={names}
        chosen={names.filter((_, i) => !draft.withoutPhotos.includes(photos[i]?.picture ?? ""))}
        onChange={(chosen) =>
          edit({
            withoutPhotos: photos.flatMap(({ picture }, i) =>
              chosen.includes(names[i] ?? "") ? [] : [picture],
            ),
          })
        }
      />
    </div>
  );
}

import type { ReactNode } from "react";

import type { Report } from "../../api/client";
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
  const names = SECTIONS.map(([, name]) => name);
  const photos = report.notes.flatMap(({ picture, text }) => (picture === null ? [] : [{ picture, text }]));
  const photoNames = photos.map(({ text }, index) => `${index + 1}${text ? ` · ${text.slice(0, 30)}` : ""}`);
  return (
    <section className="card space-y-3">
      <div className="grid grid-cols-[1fr_6rem] gap-2">
        <ChoiceField label="Form" value={draft.form} choices={FORMS} onChange={(form) => edit({ form })} />
        <ChoiceField label="Paper" value={draft.size} choices={SIZES} onChange={(size) => edit({ size })} />
      </div>
      <ChoiceField
        label="After the last run: cables, fans, settings?"
        value={draft.changed}
        choices={CHANGED}
        onChange={(changed) => edit({ changed })}
      />
      {draft.changed === "yes" && (
        <TextField
          label="What was changed"
          hint="a check run under the same plan would take this line off the report"
          value={draft.changedWhat}
          onChange={(changedWhat) => edit({ changedWhat })}
        />
      )}
      <TextField
        label="Technician"
        value={draft.technician}
        onChange={(technician) => edit({ technician })}
      />
      <NoteField
        label="Advice in your own words (can be left out)"
        value={draft.advice}
        onChange={(advice) => edit({ advice })}
      />
      {report.doubts.map((doubt) => (
        <Note key={doubt.sentence + doubt.against}>
          “{doubt.sentence}” {doubt.against}
        </Note>
      ))}
      <TextField label="What comes next" value={draft.nextStep} onChange={(nextStep) => edit({ nextStep })} />
      {draft.form === "full" && (
        <div>
          <span className="mb-1 block text-soft">With</span>
          <Chips
            label="Parts of the full form"
            choices={names}
            chosen={SECTIONS.filter(([key]) => !draft.without.includes(key)).map(([, name]) => name)}
            onChange={(chosen) =>
              edit({ without: SECTIONS.filter(([, name]) => !chosen.includes(name)).map(([key]) => key) })
            }
          />
        </div>
      )}
      {draft.form === "full" && photos.length > 0 && !draft.without.includes("notes") && (
        <div>
          <span className="mb-1 block text-soft">With photos</span>
          <Chips
            label="Photos of the full form"
            choices={photoNames}
            chosen={photoNames.filter((_, i) => !draft.withoutPhotos.includes(photos[i]?.picture ?? ""))}
            onChange={(names) =>
              edit({
                withoutPhotos: photos.flatMap(({ picture }, i) =>
                  names.includes(photoNames[i] ?? "") ? [] : [picture],
                ),
              })
            }
          />
        </div>
      )}
      <div className="flex flex-wrap items-center gap-2">{children}</div>
    </section>
  );
}

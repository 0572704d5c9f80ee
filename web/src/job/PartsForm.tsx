import type { PartRole, SeatingIn, Vocabulary } from "../api/client";
import { newId } from "../lib/ids";
import type { DecimalMark } from "../lib/number";
import { Button } from "../ui/Button";
import { ChoiceField, TextField } from "../ui/Field";
import {
  figureName,
  placesOf,
  readFigures,
  sayImpossible,
  sayUnreadFigure,
  writeFigure,
  writeFigures,
  writePlace,
} from "./figures";
import { PART_ROLES } from "./model";
import { type PartDraft, partsOf, type SettingDraft } from "./parts";
import { type Seated, useSeating } from "./seating";

const ROLE_CHOICES = PART_ROLES.map((role) => [role, role] as const);

interface PartsProps {
  parts: PartDraft[];
  settings: SeatingIn["settings"];
  limits: SeatingIn["limits"];
  vocabulary: Vocabulary;
  mark: DecimalMark;
  onChange: (parts: PartDraft[]) => void;
  problemAt?: (index: number) => string | undefined;
}

/** The parts, one line each; a line without a label is a part not known. */
export function PartsForm({ parts, settings, limits, vocabulary, mark, onChange, problemAt }: PartsProps) {
  const seating = useSeating(partsOf(parts, vocabulary, mark), settings, limits, mark);
  const edit = (id: string, change: Partial<PartDraft>) =>
    onChange(parts.map((part) => (part.id === id ? { ...part, ...change } : part)));
  return (
    <fieldset>
      <legend className="eyebrow mb-2">Parts</legend>
      <div className="space-y-2">
        {parts.map((part, index) => (
          <div key={part.id} className="grid grid-cols-2 gap-2 sm:grid-cols-[10.5rem_1fr_1.3fr]">
            <ChoiceField<PartRole>
              label={`Kind of part ${index + 1}`}
              hideLabel
              value={part.role}
              choices={ROLE_CHOICES}
              onChange={(role) => edit(part.id, { role })}
            />
            <TextField
              label={`Name of the ${part.role}`}
              hideLabel
              placeholder="name, or empty if unknown"
              value={part.label}
              onChange={(label) => edit(part.id, { label })}
            />
            <FiguresField
              role={part.role}
              label={`Rated figures of the ${part.role}`}
              value={part.figures}
              vocabulary={vocabulary}
              mark={mark}
              others={parts.filter(({ id }) => id !== part.id)}
              seated={seating.get(part.id)}
              problem={problemAt?.(index)}
              onChange={(figures) => edit(part.id, { figures })}
            />
          </div>
        ))}
      </div>
      <Button
        look="quiet"
        onClick={() => onChange([...parts, { id: newId(), role: "other", label: "", figures: "" }])}
      >
        + another part
      </Button>
    </fieldset>
  );
}

interface FiguresProps {
  role: PartRole;
  label: string;
  value: string;
  vocabulary: Vocabulary;
  mark: DecimalMark;
  /** What else is in the machine, and may be named here. */
  others: readonly { role: PartRole; label: string }[];
  seated: Seated | undefined;
  problem?: string | undefined;
  onChange: (value: string) => void;
}

/**
 * Figures typed in words; says below what was understood as a figure, so that a slip is seen at once, what the part can
 * carry where it sits, and which other part is meant.
 */
export function FiguresField(props: FiguresProps) {
  const { role, label, value, vocabulary, mark, others, seated, problem, onChange } = props;
  const known = vocabulary.parts[role] ?? [];
  const { noted, ...read } = readFigures(value, known, mark);
  const understood = writeFigures(read, known, mark);
  const hint = [understood && `read: ${understood}`, noted && `as a note: ${String(noted)}`];
  const example = known.slice(0, 3).map((figure) => writeFigure(figure, "…", mark));
  return (
    <div className="space-y-1">
      <TextField
        label={label}
        hideLabel
        placeholder={example.join(", ")}
        value={value}
        problem={problem ?? sayUnreadFigure(read, known, mark) ?? sayImpossible(read, known, mark)}
        hint={hint.filter(Boolean).join("; ")}
        onChange={onChange}
      />
      {placesOf(read, known, others).map((place) => (
        <ChoiceField
          key={place.figure.key}
          label={`The ${role} ${place.figure.label}`}
          value={place.chosen}
          choices={[
            ["", "not said"] as const,
            ...(place.chosen && !place.choices.includes(place.chosen)
              ? [[place.chosen, `“${place.chosen}”, as typed`] as const]
              : []),
            ...place.choices.map((name) => [name, name] as const),
          ]}
          onChange={(name) => onChange(writePlace(value, known, place, name, mark))}
        />
      ))}
      {seated?.sentence && (
        <p role="status" className="text-sm font-medium">
          {seated.sentence}
        </p>
      )}
      {seated?.asks.map((ask) => (
        <p key={ask} role="status" className="text-sm font-medium text-warn">
          {ask}
        </p>
      ))}
    </div>
  );
}

interface SettingsProps {
  settings: SettingDraft[];
  vocabulary: Vocabulary;
  onChange: (settings: SettingDraft[]) => void;
  problemAt?: (name: string) => string | undefined;
}

/** Settings held in this build: memory speed, power limit, fan mode, firmware. */
export function SettingsForm({ settings, vocabulary, onChange, problemAt }: SettingsProps) {
  const edit = (index: number, change: Partial<SettingDraft>) =>
    onChange(settings.map((setting, other) => (other === index ? { ...setting, ...change } : setting)));
  const used = new Set(settings.map((setting) => setting.name));
  const left = vocabulary.settings.filter((figure) => !used.has(figure.key));
  return (
    <fieldset>
      <legend className="eyebrow mb-2">Settings held</legend>
      <div className="space-y-2">
        {settings.map((setting, index) => (
          <div key={index} className="grid grid-cols-2 items-center gap-2">
            {vocabulary.settings.some((figure) => figure.key === setting.name) ? (
              <span className="text-soft">{figureName(setting.name, vocabulary.settings)}</span>
            ) : (
              <TextField
                label={`Name of setting ${index + 1}`}
                hideLabel
                placeholder="setting"
                value={setting.name}
                onChange={(name) => edit(index, { name })}
              />
            )}
            <TextField
              label={setting.name ? `Value of ${setting.name}` : `Value of setting ${index + 1}`}
              hideLabel
              placeholder="unknown"
              value={setting.value}
              problem={problemAt?.(setting.name)}
              onChange={(value) => edit(index, { value })}
            />
          </div>
        ))}
      </div>
      <div className="flex flex-wrap gap-x-4">
        {left.slice(0, 6).map((figure) => (
          <Button
            key={figure.key}
            look="quiet"
            onClick={() => onChange([...settings, { name: figure.key, value: "" }])}
          >
            + {figure.label}
          </Button>
        ))}
        <Button look="quiet" onClick={() => onChange([...settings, { name: "", value: "" }])}>
          + another setting
        </Button>
      </div>
    </fieldset>
  );
}

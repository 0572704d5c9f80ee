import type { PartRole } from "../../api/client";
import { newId } from "../../lib/ids";
import { Button } from "../../ui/Button";
import { ChoiceField, TextField } from "../../ui/Field";
import { PART_ROLES } from "../machine/model";
import type { PartDraft, SettingDraft } from "./model";

const ROLE_CHOICES = PART_ROLES.map((role) => [role, role] as const);

interface PartsProps {
  parts: PartDraft[];
  onChange: (parts: PartDraft[]) => void;
}

/** The parts, one line each; a line without a label is a part not known. */
export function PartsForm({ parts, onChange }: PartsProps) {
  const edit = (id: string, change: Partial<PartDraft>) =>
    onChange(parts.map((part) => (part.id === id ? { ...part, ...change } : part)));
  return (
    <fieldset>
      <legend className="eyebrow mb-2">Parts</legend>
      <div className="space-y-2">
        {parts.map((part, index) => (
          <div key={part.id} className="grid grid-cols-[9.5rem_1fr_1.2fr] gap-2">
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
              placeholder="name, or leave empty if unknown"
              value={part.label}
              onChange={(label) => edit(part.id, { label })}
            />
            <TextField
              label={`Rated figures of the ${part.role}`}
              hideLabel
              placeholder="rated figures: 4 cores, 3.6 GHz…"
              value={part.noted}
              onChange={(noted) => edit(part.id, { noted })}
            />
          </div>
        ))}
      </div>
      <Button
        look="quiet"
        onClick={() => onChange([...parts, { id: newId(), role: "other", label: "", noted: "" }])}
      >
        + another part
      </Button>
    </fieldset>
  );
}

interface SettingsProps {
  settings: SettingDraft[];
  onChange: (settings: SettingDraft[]) => void;
}

/** Settings held in this build: memory speed, power limit, fan mode, firmware. */
export function SettingsForm({ settings, onChange }: SettingsProps) {
  const edit = (index: number, change: Partial<SettingDraft>) =>
    onChange(settings.map((setting, other) => (other === index ? { ...setting, ...change } : setting)));
  return (
    <fieldset>
      <legend className="eyebrow mb-2">Settings held</legend>
      <div className="space-y-2">
        {settings.map((setting, index) => (
          <div key={index} className="grid grid-cols-2 gap-2">
            <TextField
              label={`Name of setting ${index + 1}`}
              hideLabel
              placeholder="setting, e.g. power_limit_w"
              value={setting.name}
              onChange={(name) => edit(index, { name })}
            />
            <TextField
              label={setting.name ? `Value of ${setting.name}` : `Value of setting ${index + 1}`}
              hideLabel
              placeholder="value"
              value={setting.value}
              onChange={(value) => edit(index, { value })}
            />
          </div>
        ))}
      </div>
      <Button look="quiet" onClick={() => onChange([...settings, { name: "", value: "" }])}>
        + another setting
      </Button>
    </fieldset>
  );
}

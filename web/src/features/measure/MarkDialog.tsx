import { type FormEvent, useState } from "react";

import type { RunState } from "../../api/client";
import { Button } from "../../ui/Button";
import { Dialog } from "../../ui/Dialog";
import { ChoiceField, TextField } from "../../ui/Field";
import { isEmptied } from "../machine/model";
import { type Row, rowName } from "./model";

const STATES = [
  ["spoiled", "spoiled: something interfered"],
  ["failed", "failed: it hung, crashed or gave a wrong result"],
  ["partial", "partial: it did not run to its end"],
  ["complete", "complete: it counts"],
] as const satisfies readonly (readonly [RunState, string])[];

interface Props {
  row: Row;
  onClose: () => void;
  onSave: (state: RunState, reason: string) => void;
}

/** Says what became of a run. Its figures stay; it is left out of the comparison and shown with its reason. */
export function MarkDialog({ row, onClose, onSave }: Props) {
  // A row without figures can't have been spoiled after the fact: it is a run that gave none.
  const isBlank = !row.entry && (!row.run || isEmptied(row.run));
  const usual = isBlank ? "failed" : "spoiled";
  const [state, setState] = useState<RunState>(row.state === "complete" ? usual : row.state);
  const [reason, setReason] = useState(row.reason);
  const [asked, setAsked] = useState(false);
  const missing = state !== "complete" && !reason.trim();
  const onSubmit = (event: FormEvent) => {
    event.preventDefault();
    setAsked(true);
    if (!missing) onSave(state, state === "complete" ? "" : reason.trim());
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
          <TextField
            label="Because"
            placeholder="e.g. indexing used the drive"
            autoFocus
            value={reason}
            maxLength={200}
            problem={asked && missing ? "A reason is needed; the report shows it." : undefined}
            onChange={setReason}
          />
        )}
        <div className="flex gap-2">
          <Button look="main" type="submit">
            Save
          </Button>
          <Button onClick={onClose}>Leave as it was</Button>
        </div>
      </form>
    </Dialog>
  );
}

import { type FormEvent, useState } from "react";

import { call, type Case, type Comparison, type Sitting } from "../../api/client";
import { readNumber } from "../../lib/number";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { Note } from "../../ui/Note";
import { useSave } from "../../job/api";
import { sittingsOf } from "../../job/model";

/** Rooms that were not noted: given here, the temperatures are judged above them. */
export function Rooms({ job, comparison }: { job: Case; comparison: Comparison }) {
  const mark = job.machine.decimal_mark;
  const [typed, setTyped] = useState<Record<string, string>>({});
  const [asked, setAsked] = useState(false);
  const lacking = [comparison.before, comparison.after].flatMap((build) =>
    sittingsOf(job, build)
      .map((sitting, index) => ({ sitting, name: `${letterOf(job, build)} ${index + 1}` }))
      .filter(({ sitting }) => sitting.ambient_c === null),
  );
  const given = lacking.filter(({ sitting }) => typed[sitting.id]?.trim());
  const isUnread = ({ id }: Sitting) => readNumber(typed[id] ?? "", mark) === null;
  const save = useSave(
    job.machine.id,
    async () => {
      let fresh: Case = job;
      for (const { sitting } of given)
        fresh = await putRoom(job, sitting, readNumber(typed[sitting.id] ?? "", mark));
      return fresh;
    },
    () => setTyped({}),
  );
  const onSubmit = (event: FormEvent) => {
    event.preventDefault();
    setAsked(true);
    if (given.length > 0 && !given.some(({ sitting }) => isUnread(sitting))) save.mutate(undefined);
  };
  if (lacking.length === 0) return null;
  return (
    <form onSubmit={onSubmit} className="space-y-2">
      <h3 className="eyebrow">How warm was the room?</h3>
      <div className="grid grid-cols-2 gap-2">
        {lacking.map(({ sitting, name }) => (
          <TextField
            key={sitting.id}
            label={`Room in ${name}, °C`}
            inputMode="decimal"
            value={typed[sitting.id] ?? ""}
            problem={
              asked && typed[sitting.id]?.trim() && isUnread(sitting)
                ? `Write a number like 22${mark}5.`
                : undefined
            }
            onChange={(room) => setTyped({ ...typed, [sitting.id]: room })}
          />
        ))}
      </div>
      {save.error && <Note alert>{save.error.message}</Note>}
      <Button type="submit" disabled={save.isPending}>
        Judge above the room
      </Button>
    </form>
  );
}

const letterOf = (job: Case, build: string): string =>
  job.builds.find((known) => known.id === build)?.letter ?? "?";

/** A sitting as it is recorded, but for its room. */
const putRoom = (job: Case, sitting: Sitting, ambient_c: number | null): Promise<Case> => {
  const { build, purpose, started_at, conditions, boot, boot_by, mount, version } = sitting;
  return call(
    "put",
    "/api/machines/{machine_id}/sittings/{sitting_id}",
    { machine_id: job.machine.id, sitting_id: sitting.id },
    { build, purpose, started_at, ambient_c, conditions, boot, boot_by, mount, version },
  );
};

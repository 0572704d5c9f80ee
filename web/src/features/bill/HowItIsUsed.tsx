import { useState } from "react";

import { call, type Case, type MachineIn, refusedAt } from "../../api/client";
import { bind } from "../../lib/bind";
import { readMoney, writeMoney } from "../../lib/money";
import { readNumber } from "../../lib/number";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { useSave } from "../../job/api";
import { machineBody } from "../../job/machineBody";
import { SaveProblem } from "../../job/SaveProblem";

/** How often the task is done and what an hour is worth, for the payback; and what the machine itself cost. */
export function HowItIsUsed({ job, payback }: { job: Case; payback: string | null }) {
  const { machine } = job;
  const mark = machine.decimal_mark;
  const [draft, setDraft] = useState({
    tasks: machine.tasks_a_week == null ? "" : String(machine.tasks_a_week).replace(".", mark),
    worth: writeMoney(machine.hour_worth, mark),
    price: writeMoney(machine.price, mark),
  });
  const save = useSave(
    machine.id,
    (body: MachineIn) => call("put", "/api/machines/{machine_id}", { machine_id: machine.id }, body),
    () => undefined,
  );
  const tasks = readNumber(draft.tasks, mark);
  const isUnread = draft.tasks.trim() !== "" && tasks === null;
  const onSave = (version = machine.version) =>
    save.mutate({
      ...machineBody(machine),
      tasks_a_week: tasks,
      hour_worth: draft.worth.trim() ? readMoney(draft.worth, mark) : null,
      price: draft.price.trim() ? readMoney(draft.price, mark) : null,
      version,
    });
  const field = bind(draft, (change) => setDraft({ ...draft, ...change }), refusedAt(save.error));
  return (
    <section className="card space-y-2">
      <h2 className="eyebrow">When it has paid for itself</h2>
      <p>{payback ?? "Say how often the task is done and what an hour of waiting for it is worth."}</p>
      <details>
        <summary className="flex min-h-11 cursor-pointer items-center text-soft underline underline-offset-4">
          How it is used
        </summary>
        <div className="mt-2 grid grid-cols-2 gap-2">
          <TextField
            label="Tasks a week"
            inputMode="decimal"
            {...field("tasks", "tasks_a_week")}
            {...(isUnread && { problem: "Write a number." })}
          />
          <TextField
            label={`An hour of it is worth, ${machine.currency}`}
            inputMode="decimal"
            {...field("worth", "hour_worth")}
          />
          <TextField
            label={`The machine itself cost, ${machine.currency}`}
            inputMode="decimal"
            {...field("price")}
          />
          <div className="self-end">
            <Button disabled={isUnread || save.isPending} onClick={() => onSave()}>
              Save
            </Button>
          </div>
        </div>
        <SaveProblem error={save.error} onTakeTheirs={() => save.reset()} onKeepMine={onSave} />
      </details>
    </section>
  );
}

import { call, type Case, refusedAt, type Swap } from "../../api/client";
import { bind } from "../../lib/bind";
import { useDraft } from "../../lib/draft";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { useSave } from "../../job/api";
import { SaveProblem } from "../../job/SaveProblem";
import { useJob } from "../../job/vocabulary";
import { CostForm } from "./CostForm";
import { costBody, costDrafts, costField, offersOf } from "./costs";
import { recordedBody } from "./model";
import { Shelf } from "./Shelf";

/** The account of a swap: cost lines as they arise, and its name. */
export function Account({ job, swap }: { job: Case; swap: Swap }) {
  const { machine } = job;
  const time = useJob(machine.id).swaps.find((known) => known.swap === swap.id)?.plan.time;
  const [draft, setDraft, forget, changed] = useDraft(`recorded.${swap.id}`, {
    label: swap.label,
    costs: costDrafts(swap, machine.decimal_mark),
  });
  const save = useSave(
    machine.id,
    (version: number) =>
      call(
        "put",
        "/api/machines/{machine_id}/swaps/{swap_id}",
        { machine_id: machine.id, swap_id: swap.id },
        {
          ...recordedBody(swap),
          label: draft.label,
          costs: costBody(draft.costs, machine.decimal_mark),
          version,
        },
      ),
    forget,
  );
  const edit = (change: Partial<typeof draft>) => setDraft({ ...draft, ...change });
  const at = refusedAt(save.error);
  return (
    <div className="space-y-3">
      <CostForm
        job={job}
        swapId={swap.id}
        costs={draft.costs}
        problemAt={(key, field) => at(costField(draft.costs, key, field))}
        onChange={(costs) => edit({ costs })}
      />
      <div className="flex flex-wrap gap-2">
        {offersOf(swap, draft.costs, machine, time).map((offer) => (
          <Button key={offer.text} onClick={() => edit({ costs: [...draft.costs, offer.draft] })}>
            {offer.text}
          </Button>
        ))}
      </div>
      <div className="flex flex-wrap items-end gap-3">
        <div className="w-72">
          <TextField label="Call this swap" {...bind(draft, edit, at)("label")} />
        </div>
        <Button disabled={!changed || save.isPending} onClick={() => save.mutate(swap.version)}>
          {changed ? "Save the account" : "Account saved"}
        </Button>
        {changed && <Button onClick={forget}>Leave it as it stands</Button>}
      </div>
      {!changed && <Shelf job={job} swap={swap} />}
      <SaveProblem error={save.error} onTakeTheirs={forget} onKeepMine={(version) => save.mutate(version)} />
    </div>
  );
}

import { type Case, putSwap, Refused, type Swap } from "../../api/client";
import { useDraft } from "../../lib/draft";
import { formatList, formatMoney } from "../../lib/format";
import { Button, ButtonLink } from "../../ui/Button";
import { Chips } from "../../ui/Chips";
import { TextField } from "../../ui/Field";
import { Note } from "../../ui/Note";
import { useSave } from "../machine/api";
import { settingName } from "../machine/model";
import { CostForm } from "./CostForm";
import { costBody, costDrafts, sentCosts, SIDE_CHANGES } from "./model";

/** A swap that was made: what was changed stands; its account and what else was touched may be completed. */
export function RecordedSwap({ job, swap }: { job: Case; swap: Swap }) {
  const { machine } = job;
  const [draft, setDraft, forget, changed] = useDraft(`recorded.${swap.id}`, {
    version: swap.version,
    label: swap.label,
    sideChanges: swap.side_changes,
    costs: costDrafts(swap),
  });
  const save = useSave(
    machine.id,
    () =>
      putSwap(machine.id, swap.id, {
        before: swap.before,
        after: swap.after,
        label: draft.label,
        side_changes: draft.sideChanges,
        costs: costBody(draft.costs, machine.decimal_mark),
        version: draft.version,
      }),
    forget,
  );
  const problem = (field: string) => (save.error instanceof Refused ? save.error.at(field) : undefined);
  const problemAt = (key: string, field: string) =>
    problem(`costs.${sentCosts(draft.costs).findIndex((cost) => cost.key === key)}.${field}`);
  const choices = [...new Set([...SIDE_CHANGES, ...swap.side_changes])];
  return (
    <div className="space-y-5">
      <h1 className="lead">
        {swap.label}: {formatMoney(swap.net_cost, machine.currency)} net.
      </h1>
      <Difference job={job} swap={swap} />
      <div className="max-w-md">
        <TextField
          label="Call this swap"
          value={draft.label}
          problem={problem("label")}
          onChange={(label) => setDraft({ ...draft, label })}
        />
      </div>
      <section>
        <h2 className="eyebrow mb-2">Also touched</h2>
        <Chips
          label="Also touched"
          choices={choices}
          chosen={draft.sideChanges}
          onChange={(sideChanges) => setDraft({ ...draft, sideChanges })}
        />
      </section>
      <CostForm
        machine={machine}
        costs={draft.costs}
        problemAt={problemAt}
        onChange={(costs) => setDraft({ ...draft, costs })}
      />
      {save.error && <Note alert>{save.error.message}</Note>}
      <div className="flex flex-wrap gap-3">
        <Button look="main" disabled={!changed || save.isPending} onClick={() => save.mutate()}>
          {changed ? "Save the account" : "Account saved"}
        </Button>
        {changed && <Button onClick={forget}>Leave it as it stands</Button>}
        <ButtonLink to={`../bill?swap=${swap.id}`}>See the bill</ButtonLink>
      </div>
    </div>
  );
}

function Difference({ job, swap }: { job: Case; swap: Swap }) {
  const before = job.builds.find((build) => build.id === swap.before);
  const after = job.builds.find((build) => build.id === swap.after);
  if (!before || !after) return null;
  const out = before.parts.filter((part) => !after.parts.some((other) => other.id === part.id));
  const into = after.parts.filter((part) => !before.parts.some((other) => other.id === part.id));
  const names = [...new Set([...Object.keys(before.settings), ...Object.keys(after.settings)])];
  const settings = names.filter((name) => before.settings[name] !== after.settings[name]);
  const side = (title: string, labels: string[], tone: string) => (
    <div className={`card border-l-4 ${tone}`}>
      <h2 className="eyebrow mb-1">{title}</h2>
      <p className="font-semibold">{labels.length ? formatList(labels) : "nothing"}</p>
    </div>
  );
  return (
    <div className="grid gap-3 md:grid-cols-3">
      {side(
        `Came out of build ${before.letter}`,
        out.map((part) => part.label),
        "border-l-before",
      )}
      {side(
        `Went into build ${after.letter}`,
        into.map((part) => part.label),
        "border-l-after",
      )}
      {side(
        "Settings",
        settings.map(
          (name) =>
            `${settingName(name)} ${String(before.settings[name] ?? "–")} → ${String(after.settings[name] ?? "–")}`,
        ),
        "border-l-line",
      )}
    </div>
  );
}

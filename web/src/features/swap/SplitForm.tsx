import { type FormEvent, useState } from "react";

import { call, type Case, refusedAt, type Swap, type SwapView } from "../../api/client";
import { newId } from "../../lib/ids";
import { Button } from "../../ui/Button";
import { Chips } from "../../ui/Chips";
import { TextField } from "../../ui/Field";
import { Note } from "../../ui/Note";
import { useSave } from "../../job/api";
import { canSplit } from "./model";

interface Props {
  job: Case;
  swap: Swap;
  view: SwapView;
}

/** Takes a bundle apart while there is still time: what is done and measured first, then the rest. */
export function SplitForm({ job, swap, view }: Props) {
  const [shown, setShown] = useState(false);
  if (!canSplit(job, swap, view.changes.length)) return null;
  if (!shown) {
    return (
      <Note>
        <p>
          <b className="font-semibold">{view.changes.length} changes at once</b> can’t be told apart
          afterwards.
        </p>
        <Button look="quiet" onClick={() => setShown(true)}>
          Do it in two stages
        </Button>
      </Note>
    );
  }
  return <Form job={job} swap={swap} view={view} onDone={() => setShown(false)} />;
}

function Form({ job, swap, view, onDone }: Props & { onDone: () => void }) {
  const [ids] = useState(() => ({ swap: newId(), build: newId() }));
  const [differences, setDifferences] = useState<string[]>([]);
  const [sideChanges, setSideChanges] = useState<string[]>([]);
  const [costs, setCosts] = useState<string[]>([]);
  const [label, setLabel] = useState("");
  // What only follows another difference goes where that goes.
  const followers = (key: string) => view.differences.filter((d) => d.follows === key).map((d) => d.key);
  const named = new Map(
    view.differences.filter((d) => d.follows === null).map((d) => [d.name, [d.key, ...followers(d.key)]]),
  );
  const lines = swap.costs.map((line) => line.label);
  const first = label.trim() || [...differences, ...sideChanges][0] || "First stage";
  const save = useSave(
    job.machine.id,
    () =>
      call(
        "post",
        "/api/machines/{machine_id}/swaps/{swap_id}/split",
        { machine_id: job.machine.id, swap_id: swap.id },
        {
          ...ids,
          label: first,
          build_label: first,
          differences: differences.flatMap((name) => named.get(name) ?? []),
          side_changes: sideChanges,
          costs: lines.flatMap((line, number) => (costs.includes(line) ? [number] : [])),
          version: swap.version,
        },
      ),
    onDone,
  );
  const onSubmit = (event: FormEvent) => {
    event.preventDefault();
    save.mutate(undefined);
  };
  return (
    <form onSubmit={onSubmit} className="card space-y-3">
      <h2 className="eyebrow">First do, and measure:</h2>
      <Chips
        label="Parts and settings first"
        choices={[...named.keys()]}
        chosen={differences}
        onChange={setDifferences}
      />
      <Chips
        label="Side changes first"
        choices={swap.side_changes}
        chosen={sideChanges}
        onChange={setSideChanges}
      />
      {lines.length > 0 && (
        <>
          <p className="text-soft">Its cost lines:</p>
          <Chips label="Cost lines first" choices={[...new Set(lines)]} chosen={costs} onChange={setCosts} />
        </>
      )}
      <TextField
        label="Call the first stage"
        placeholder={first}
        value={label}
        problem={refusedAt(save.error)("differences")}
        onChange={setLabel}
      />
      {save.error && <Note alert>{save.error.message}</Note>}
      <div className="flex flex-wrap gap-2">
        <Button look="main" type="submit" disabled={save.isPending}>
          Split it
        </Button>
        <Button onClick={onDone}>Leave it whole</Button>
      </div>
    </form>
  );
}

import { useState } from "react";

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

/** What the first stage takes along, and its save. */
function useSplit({ job, swap, view, onDone }: Props & { onDone: () => void }) {
  const [ids] = useState(() => ({ swap: newId(), build: newId() }));
  const [typed, setTyped] = useState({
    differences: [] as string[],
    sideChanges: [] as string[],
    costs: [] as string[],
    label: "",
  });
  // What only follows another difference goes where that goes.
  const followers = (key: string) => view.differences.filter((d) => d.follows === key).map((d) => d.key);
  const named = new Map(
    view.differences.filter((d) => d.follows === null).map((d) => [d.name, [d.key, ...followers(d.key)]]),
  );
  const lines = swap.costs.map((line) => line.label);
  const first = typed.label.trim() || [...typed.differences, ...typed.sideChanges][0] || "First stage";
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
          differences: typed.differences.flatMap((name) => named.get(name) ?? []),
          side_changes: typed.sideChanges,
          costs: lines.flatMap((line, number) => (typed.costs.includes(line) ? [number] : [])),
          version: swap.version,
        },
      ),
    onDone,
  );
  const edit = (change: Partial<typeof typed>) => setTyped({ ...typed, ...change });
  return { typed, edit, names: [...named.keys()], lines, first, save };
}

function Form(props: Props & { onDone: () => void }) {
  const { swap, onDone } = props;
  const { typed, edit, names, lines, first, save } = useSplit(props);
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate(undefined);
      }}
      className="card space-y-3"
    >
      <h2 className="eyebrow">First do, and measure:</h2>
      <Chips
        label="Parts and settings first"
        choices={names}
        chosen={typed.differences}
        onChange={(differences) => edit({ differences })}
      />
      <Chips
        label="Side changes first"
        choices={swap.side_changes}
        chosen={typed.sideChanges}
        onChange={(sideChanges) => edit({ sideChanges })}
      />
      {lines.length > 0 && (
        <>
          <p className="text-soft">Its cost lines:</p>
          <Chips
            label="Cost lines first"
            choices={[...new Set(lines)]}
            chosen={typed.costs}
            onChange={(costs) => edit({ costs })}
          />
        </>
      )}
      <TextField
        label="Call the first stage"
        placeholder={first}
        value={typed.label}
        problem={refusedAt(save.error)("differences")}
        onChange={(label) => edit({ label })}
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

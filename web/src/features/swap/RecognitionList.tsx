import { type FormEvent, useState } from "react";

import { call, type Case, type Recognition, refusedAt, type Swap } from "../../api/client";
import { bind } from "../../lib/bind";
import { newId } from "../../lib/ids";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { Note } from "../../ui/Note";
import { useSave } from "../../job/api";
import { ShownDeparts } from "../../job/ShownDeparts";

const RESULTS = {
  pass: "✓ as expected",
  "pass with remark": "✓ with a remark",
  fail: "✕ not recognised",
} as const;

interface ListProps {
  job: Case;
  swap: Swap;
  /** The build after has runs: what was seen before them stands. */
  isFixed?: boolean;
}

/** Does the machine see what was fitted? A line that fails stops the after-side until it is resolved. */
export function RecognitionList({ job, swap, isFixed = false }: ListProps) {
  const [adding, setAdding] = useState(false);
  return (
    <section>
      <h2 className="eyebrow mb-2">Seen by the machine</h2>
      {!isFixed && (
        <div className="mb-2 empty:hidden">
          <ShownDeparts job={job} />
        </div>
      )}
      {!isFixed && <AllSeen job={job} swap={swap} />}
      <ul className="space-y-2">
        {swap.recognitions.map((line) => (
          <Line key={line.id + String(line.version)} job={job} swap={swap} line={line} isFixed={isFixed} />
        ))}
      </ul>
      {isFixed ? null : adding ? (
        <NewLine job={job} swap={swap} onDone={() => setAdding(false)} />
      ) : (
        <Button look="quiet" onClick={() => setAdding(true)}>
          + something else to look at
        </Button>
      )}
    </section>
  );
}

/** One tap where the machine shows all that went in as it should be. */
function AllSeen({ job, swap }: ListProps) {
  const unseen = swap.recognitions.filter((line) => line.result === null && !line.seen);
  const save = useSave(
    job.machine.id,
    () =>
      call("post", "/api/machines/{machine_id}/swaps/{swap_id}/recognitions/as-expected", {
        machine_id: job.machine.id,
        swap_id: swap.id,
      }),
    // What is left is to close the case.
    () => document.getElementById("close-case")?.focus(),
  );
  if (unseen.length === 0) return null;
  return (
    <div className="mb-2">
      <Button id="all-seen" disabled={save.isPending} onClick={() => save.mutate(undefined)}>
        All as expected
      </Button>
      {save.error && <Note alert>{save.error.message}</Note>}
    </div>
  );
}

interface LineProps extends Required<ListProps> {
  line: Recognition;
}

function Line({ job, swap, line, isFixed }: LineProps) {
  return (
    <li className="rounded-lg border border-line bg-card p-3">
      <p>
        <span className="text-soft">{line.what}:</span> <span className="font-semibold">{line.expected}</span>
      </p>
      {isFixed && !line.result && <p className="text-soft">not looked at</p>}
      {line.result && (
        <p className={`font-semibold ${line.result === "fail" ? "text-warn" : "text-soft"}`}>
          {RESULTS[line.result]}
          {line.result !== "pass" && ` (${line.seen})`}
          {line.remark && `: ${line.remark}`}
        </p>
      )}
      {!isFixed && <Seen job={job} swap={swap} line={line} />}
    </li>
  );
}

/** What was seen; where that is not what was expected, whether it will do. */
function Seen({ job, swap, line }: Omit<LineProps, "isFixed">) {
  const { what, expected, version } = line;
  const [typed, setTyped] = useState({ seen: line.seen, remark: line.remark });
  const save = useSave(
    job.machine.id,
    (result: Recognition["result"]) =>
      call(
        "put",
        "/api/machines/{machine_id}/swaps/{swap_id}/recognitions/{line_id}",
        { machine_id: job.machine.id, swap_id: swap.id, line_id: line.id },
        { what, expected, ...typed, result, version },
      ),
    () => undefined,
  );
  const at = refusedAt(save.error);
  const field = bind(typed, (change) => setTyped({ ...typed, ...change }), at);
  return (
    <>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          save.mutate(null);
        }}
        className="mt-1 flex items-end gap-2"
      >
        <div className="min-w-0 flex-1">
          <TextField label={`Seen: ${what}`} hideLabel placeholder="as shown" {...field("seen")} />
        </div>
        <Button type="submit" aria-label={`Note what was seen: ${what}`}>
          Note
        </Button>
      </form>
      {line.seen !== "" && line.result !== "pass" && (
        <div className="mt-2 space-y-2">
          <p className="text-sm">Not what was expected. Will it do?</p>
          <TextField
            label={`Why it will do: ${what}`}
            hideLabel
            placeholder="it will do, because…"
            {...field("remark")}
          />
          <div className="flex flex-wrap gap-2">
            <Button onClick={() => save.mutate("pass with remark")}>It will do</Button>
            <Button onClick={() => save.mutate("fail")}>It fails</Button>
          </div>
        </div>
      )}
      {save.error && !at("seen") && !at("remark") && <Note alert>{save.error.message}</Note>}
    </>
  );
}

function NewLine({ job, swap, onDone }: { job: Case; swap: Swap; onDone: () => void }) {
  const [what, setWhat] = useState("");
  const [expected, setExpected] = useState("");
  const save = useSave(
    job.machine.id,
    () =>
      call(
        "put",
        "/api/machines/{machine_id}/swaps/{swap_id}/recognitions/{line_id}",
        { machine_id: job.machine.id, swap_id: swap.id, line_id: newId() },
        { what, expected, seen: "", remark: "" },
      ),
    onDone,
  );
  const onSubmit = (event: FormEvent) => {
    event.preventDefault();
    save.mutate(undefined);
  };
  return (
    <form onSubmit={onSubmit} className="mt-2 space-y-2">
      <TextField
        label="What to look at"
        placeholder="e.g. firmware"
        required
        value={what}
        onChange={setWhat}
      />
      <TextField label="Expected" required value={expected} onChange={setExpected} />
      {save.error && <Note alert>{save.error.message}</Note>}
      <div className="flex gap-2">
        <Button type="submit">Add it</Button>
        <Button onClick={onDone}>Leave it</Button>
      </div>
    </form>
  );
}

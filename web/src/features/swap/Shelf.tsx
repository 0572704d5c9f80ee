import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";

import { call, type Case, type Part, type Swap } from "../../api/client";
import { newId } from "../../lib/ids";
import { readMoney } from "../../lib/money";
import { Button } from "../../ui/Button";
import { ChoiceField, TextField } from "../../ui/Field";
import { Note } from "../../ui/Note";
import { shelfQuery, useSave } from "../../job/api";
import { partsOut } from "./model";

interface Props {
  job: Case;
  swap: Swap;
}

/** What a swap lays on the shop's shelf, and what it takes from there: each at a value, in its account at once. */
export function Shelf({ job, swap }: Props) {
  const client = useQueryClient();
  const shelf = useQuery(shelfQuery).data ?? [];
  const [chosen, setChosen] = useState("");
  const refresh = () => void client.invalidateQueries(shelfQuery);
  const take = useSave(
    job.machine.id,
    (id: string) =>
      call("post", "/api/machines/{machine_id}/swaps/{swap_id}/shelf/{part_id}/taken", {
        machine_id: job.machine.id,
        swap_id: swap.id,
        part_id: id,
      }),
    refresh,
  );
  const lying = shelf.filter((part) => part.taken_on === null);
  const out = partsOut(job, swap);
  if (out.length === 0 && lying.length === 0) return null;
  return (
    <section className="card space-y-3">
      <h3 className="eyebrow">
        <Link to="/shelf" className="inline-flex min-h-11 items-center underline underline-offset-4">
          Parts shelf
        </Link>
      </h3>
      {out.map((part) => (
        <LayDown key={part.id} job={job} swap={swap} part={part} onDone={refresh} />
      ))}
      {lying.length > 0 && (
        <div className="flex flex-wrap items-end gap-2">
          <div className="w-80">
            <ChoiceField
              label="Take from the shelf"
              value={chosen}
              choices={[
                ["", "choose a part"] as const,
                ...lying.map((part) => [part.id, `${part.label}, ${part.worth} ${part.currency}`] as const),
              ]}
              onChange={setChosen}
            />
          </div>
          <Button disabled={!chosen || take.isPending} onClick={() => take.mutate(chosen)}>
            Take it into the account
          </Button>
        </div>
      )}
      {take.error && <Note alert>{take.error.message}</Note>}
    </section>
  );
}

function LayDown({ job, swap, part, onDone }: Props & { part: Part; onDone: () => void }) {
  const [worth, setWorth] = useState("");
  const { machine } = job;
  const isThere = swap.costs.some(
    (line) => line.kind === "reuse" && line.label === `${part.label}, to the shelf`,
  );
  const put = useSave(
    machine.id,
    () =>
      call(
        "put",
        "/api/machines/{machine_id}/swaps/{swap_id}/shelf/{part_id}",
        { machine_id: machine.id, swap_id: swap.id, part_id: newId() },
        {
          part: part.id,
          worth: readMoney(worth, machine.decimal_mark),
        },
      ),
    onDone,
  );
  if (isThere) return <p className="text-soft">{part.label} lies on the shelf.</p>;
  return (
    <div className="flex flex-wrap items-end gap-2">
      <div className="w-80">
        <TextField
          label={`${part.label} is worth, ${machine.currency}`}
          inputMode="decimal"
          value={worth}
          onChange={setWorth}
        />
      </div>
      <Button
        aria-label={`Lay it on the shelf: ${part.label}`}
        disabled={!worth.trim() || put.isPending}
        onClick={() => put.mutate(undefined)}
      >
        Lay it on the shelf
      </Button>
      {put.error && <Note alert>{put.error.message}</Note>}
    </div>
  );
}

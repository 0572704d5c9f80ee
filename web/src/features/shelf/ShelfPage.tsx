import { useMutation, useQueryClient, useSuspenseQuery } from "@tanstack/react-query";
import { useState } from "react";

import { call, Refused, refusedAt, type ShelfPart, type ShelfPartIn } from "../../api/client";
import { bind } from "../../lib/bind";
import { useDraft } from "../../lib/draft";
import { formatCount, formatDay } from "../../lib/format";
import { newId } from "../../lib/ids";
import { readMoney } from "../../lib/money";
import { Button } from "../../ui/Button";
import { ChoiceField, TextField } from "../../ui/Field";
import { Note } from "../../ui/Note";
import { TableToTake } from "../../ui/TakeAlong";
import { TopBarHome } from "../../ui/TopBar";
import { shelfQuery } from "../../job/api";
import { PART_ROLES, today } from "../../job/model";

const ROLES = PART_ROLES.map((role) => [role, role] as const);

/** What lies in the shop's drawers: where each part came from, what it is worth, and who took it. */
export function ShelfPage() {
  const parts = useSuspenseQuery(shelfQuery).data;
  const lying = parts.filter((part) => part.taken_on === null);
  const taken = parts.filter((part) => part.taken_on !== null);
  return (
    <>
      <TopBarHome context="Parts shelf" />
      <main className="mx-auto max-w-[1240px] space-y-5 p-6">
        <h1 className="lead">
          {lying.length ? `${formatCount(lying.length, "part")} on the shelf.` : "Nothing lies on the shelf."}
        </h1>
        <p className="text-soft">
          A part leaves a machine at a value and arrives in another one at it. It is laid here from the
          account of the swap that took it out, or noted by hand.
        </p>
        {lying.length > 0 && (
          <TableToTake name="parts shelf">
            <Parts parts={lying} />
          </TableToTake>
        )}
        <ByHand />
        {taken.length > 0 && (
          <section>
            <h2 className="eyebrow mb-1">Taken</h2>
            <ul>
              {taken.map((part) => (
                <li key={part.id} className="border-b border-line py-2 text-soft">
                  {part.label}, {part.worth} {part.currency}: {part.from_name || "noted by hand"} →{" "}
                  {part.taken_name}
                  {part.taken_on && `, ${formatDay(part.taken_on)}`}
                </li>
              ))}
            </ul>
          </section>
        )}
      </main>
    </>
  );
}

function Parts({ parts }: { parts: ShelfPart[] }) {
  return (
    <table className="w-full">
      <thead className="text-left text-soft">
        <tr className="border-b border-line">
          <th className="py-1 font-medium">Part</th>
          <th className="px-2 font-medium">came from</th>
          <th className="px-2 font-medium">since</th>
          <th className="px-2 text-right font-medium">worth</th>
          <th>
            <span className="sr-only">Change</span>
          </th>
        </tr>
      </thead>
      <tbody>
        {parts.map((part) => (
          <Row key={`${part.id} ${part.version}`} part={part} />
        ))}
      </tbody>
    </table>
  );
}

/** Saves what is known of a part, and asks for the shelf anew. */
function useShelfSave() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: ({ id, body }: { id: string; body: ShelfPartIn | null }) =>
      body
        ? call("put", "/api/shelf/{part_id}", { part_id: id }, body)
        : call("delete", "/api/shelf/{part_id}", { part_id: id }),
    onSuccess: () => client.invalidateQueries(shelfQuery),
  });
}

function Row({ part }: { part: ShelfPart }) {
  const [worth, setWorth] = useState(part.worth);
  const save = useShelfSave();
  const { role, label, currency, put_on, note, version } = part;
  const body = { role, label, currency, put_on, note, version, worth: readMoney(worth, ".") };
  return (
    <tr className="border-b border-line">
      <th scope="row" className="py-2 text-left font-normal wrap-anywhere">
        {label} <span className="text-soft">{role}</span>
        {note && <span className="block text-sm text-soft">{note}</span>}
        {save.error && <Note alert>{save.error.message}</Note>}
      </th>
      <td className="px-2 wrap-anywhere">{part.from_name || "noted by hand"}</td>
      <td className="px-2 whitespace-nowrap">{formatDay(put_on)}</td>
      <td className="px-2">
        <div className="ml-auto flex w-40 items-center gap-2">
          <TextField
            label={`Worth of ${label}`}
            hideLabel
            inputMode="decimal"
            value={worth}
            onChange={setWorth}
          />
          {currency}
        </div>
      </td>
      <td data-act className="text-right whitespace-nowrap">
        {worth !== part.worth && (
          <Button aria-label={`Save: worth of ${label}`} onClick={() => save.mutate({ id: part.id, body })}>
            Save
          </Button>
        )}
        <Button
          look="quiet"
          aria-label={`Take it off: ${label}`}
          onClick={() => save.mutate({ id: part.id, body: null })}
        >
          Take it off
        </Button>
      </td>
    </tr>
  );
}

const emptyPart = () => ({
  id: newId(),
  role: "drive" as ShelfPart["role"],
  label: "",
  worth: "",
  currency: "EUR",
  note: "",
});

function ByHand() {
  const [draft, setDraft, forget] = useDraft("shelf.new", emptyPart());
  const save = useShelfSave();
  const field = bind(draft, (change) => setDraft({ ...draft, ...change }), refusedAt(save.error));
  const onSave = () => {
    const { id, role, label, currency, note } = draft;
    const body = { role, label, note, put_on: today(), version: null };
    save.mutate(
      { id, body: { ...body, worth: readMoney(draft.worth, "."), currency: currency.trim().toUpperCase() } },
      {
        onSuccess: () => {
          forget();
          setDraft(emptyPart());
        },
      },
    );
  };
  return (
    <section className="card">
      <h2 className="eyebrow mb-2">Note a part by hand</h2>
      <div className="grid grid-cols-2 items-end gap-2 sm:grid-cols-[10rem_1fr_7rem_5rem_1fr_auto]">
        <ChoiceField label="Kind of part" choices={ROLES} {...field("role")} />
        <TextField label="Part" {...field("label")} />
        <TextField label="Worth" inputMode="decimal" {...field("worth")} />
        <TextField label="Currency" maxLength={3} {...field("currency")} />
        <TextField label="Where it came from" {...field("note")} />
        <Button disabled={!draft.label.trim() || save.isPending} onClick={onSave}>
          Lay it there
        </Button>
      </div>
      {save.error && !(save.error instanceof Refused && save.error.errors.length) && (
        <Note alert>{save.error.message}</Note>
      )}
    </section>
  );
}

import { useNavigate } from "react-router";

import { type Build, type Case, putSwap, Refused } from "../../api/client";
import { useDraft } from "../../lib/draft";
import { newId } from "../../lib/ids";
import { Button } from "../../ui/Button";
import { Chips } from "../../ui/Chips";
import { TextField } from "../../ui/Field";
import { Note } from "../../ui/Note";
import { useSave } from "../machine/api";
import { buildName, describeRated, planFor, tally } from "../machine/model";
import { CostForm } from "./CostForm";
import {
  newSwap,
  sayChanges,
  sentCosts,
  SIDE_CHANGES,
  suggestLabel,
  type SwapDraft,
  swapBody,
} from "./model";

interface Props {
  job: Case;
  before: Build;
}

export function NewSwap({ job, before }: Props) {
  const { machine } = job;
  const [draft, setDraft, forget] = useDraft<SwapDraft>(
    `swap.${before.id}`,
    newSwap(before, machine.currency),
  );
  const navigate = useNavigate();
  const save = useSave(
    machine.id,
    () => putSwap(machine.id, draft.id, swapBody(draft, before, machine.decimal_mark)),
    () => {
      forget();
      void navigate("../measure");
    },
  );
  const onSave = () => save.mutate();
  const problem = (field: string) => (save.error instanceof Refused ? save.error.at(field) : undefined);
  const problemAt = (key: string, field: string) =>
    problem(`costs.${sentCosts(draft.costs).findIndex((cost) => cost.key === key)}.${field}`);
  return (
    <div className="space-y-5">
      <BaselineState job={job} before={before} />
      <h1 className="lead">{sayChanges(draft, before)}</h1>
      <div className="grid gap-5 xl:grid-cols-2">
        <Exchanges draft={draft} onChange={setDraft} />
        <div className="space-y-5">
          <SettingsAfter draft={draft} before={before} onChange={setDraft} />
          <section>
            <h2 className="eyebrow mb-2">Also touched</h2>
            <Chips
              label="Also touched"
              choices={SIDE_CHANGES}
              chosen={draft.sideChanges}
              onChange={(sideChanges) => setDraft({ ...draft, sideChanges })}
            />
          </section>
          <div className="grid grid-cols-2 gap-3">
            <TextField
              label="Call this swap"
              placeholder={suggestLabel(draft)}
              value={draft.label}
              problem={problem("label")}
              onChange={(label) => setDraft({ ...draft, label })}
            />
            <TextField
              label="Call the new build"
              placeholder={suggestLabel(draft)}
              value={draft.afterLabel}
              problem={problem("after_build.label")}
              onChange={(afterLabel) => setDraft({ ...draft, afterLabel })}
            />
          </div>
        </div>
      </div>
      <CostForm
        machine={machine}
        costs={draft.costs}
        problemAt={problemAt}
        onChange={(costs) => setDraft({ ...draft, costs })}
      />
      {save.error && <Note alert>{save.error.message}</Note>}
      <Button look="main" disabled={save.isPending} onClick={onSave}>
        Record the swap, and measure the new build
      </Button>
    </div>
  );
}

function BaselineState({ job, before }: Props) {
  const wanted = planFor(job, before.id).sittings_a_side ?? 1;
  const { sittings, runs } = tally(job, before.id);
  return (
    <Note>
      {sittings >= wanted ? (
        <>
          <b className="font-semibold">The baseline is complete:</b> {sittings} sittings, {runs} runs on{" "}
          {buildName(before)}.
        </>
      ) : (
        <>
          <b className="font-semibold">The baseline is not complete:</b> {sittings} of {wanted} sittings on{" "}
          {buildName(before)}. Once the old part is out, no more can be measured.
        </>
      )}
    </Note>
  );
}

interface FormProps {
  draft: SwapDraft;
  onChange: (draft: SwapDraft) => void;
}

function Exchanges({ draft, onChange }: FormProps) {
  const edit = (id: string, change: Partial<SwapDraft["exchanges"][number]>) =>
    onChange({
      ...draft,
      exchanges: draft.exchanges.map((e) => (e.part.id === id ? { ...e, ...change } : e)),
    });
  const editAdded = (id: string, change: Partial<SwapDraft["added"][number]>) =>
    onChange({
      ...draft,
      added: draft.added.map((part) => (part.id === id ? { ...part, ...change } : part)),
    });
  return (
    <section>
      <div className="mb-2 grid grid-cols-2 gap-3">
        <h2 className="eyebrow text-before!">Comes out</h2>
        <h2 className="eyebrow text-after!">Goes in</h2>
      </div>
      <ul className="space-y-2">
        {draft.exchanges.map(({ part, out, label, noted }) => (
          <li key={part.id} className="grid grid-cols-2 gap-3">
            <button
              type="button"
              aria-pressed={out}
              onClick={() => edit(part.id, { out: !out })}
              className={`rounded-lg border border-line bg-card p-3 text-left ${out ? "border-l-4 border-l-before" : ""}`}
            >
              <span className="eyebrow block">{part.role}</span>
              <span className="block font-semibold">{part.label}</span>
              <span className="text-sm text-soft">{out ? "comes out" : describeRated(part) || "stays"}</span>
            </button>
            {out ? (
              <div className="space-y-1 rounded-lg border border-l-4 border-line border-l-after bg-card p-3">
                <TextField
                  label={`New ${part.role}`}
                  hideLabel
                  placeholder={`new ${part.role}, or empty if none`}
                  value={label}
                  onChange={(next) => edit(part.id, { label: next })}
                />
                <TextField
                  label={`Rated figures of the new ${part.role}`}
                  hideLabel
                  placeholder="rated figures"
                  value={noted}
                  onChange={(next) => edit(part.id, { noted: next })}
                />
              </div>
            ) : (
              <p className="self-center text-soft">stays</p>
            )}
          </li>
        ))}
        {draft.added.map((part) => (
          <li key={part.id} className="grid grid-cols-2 gap-3">
            <p className="self-center text-soft">nothing</p>
            <div className="rounded-lg border border-l-4 border-line border-l-after bg-card p-3">
              <TextField
                label="Added part"
                hideLabel
                placeholder="added part"
                value={part.label}
                onChange={(label) => editAdded(part.id, { label })}
              />
            </div>
          </li>
        ))}
      </ul>
      <Button
        look="quiet"
        onClick={() =>
          onChange({
            ...draft,
            added: [...draft.added, { id: newId(), role: "other", label: "", noted: "" }],
          })
        }
      >
        + a part that is added
      </Button>
    </section>
  );
}

function SettingsAfter({ draft, before, onChange }: FormProps & { before: Build }) {
  const edit = (index: number, change: Partial<SwapDraft["settings"][number]>) =>
    onChange({
      ...draft,
      settings: draft.settings.map((s, other) => (other === index ? { ...s, ...change } : s)),
    });
  return (
    <section>
      <h2 className="eyebrow mb-2">Settings after</h2>
      <ul className="space-y-2">
        {draft.settings.map((setting, index) => (
          <li key={index} className="grid grid-cols-[1fr_1fr_5rem] items-center gap-2">
            <TextField
              label={`Setting ${index + 1}`}
              hideLabel
              value={setting.name}
              onChange={(name) => edit(index, { name })}
            />
            <TextField
              label={`Setting ${setting.name || index + 1} after`}
              hideLabel
              value={setting.value}
              onChange={(value) => edit(index, { value })}
            />
            <span className="text-soft">was {String(before.settings[setting.name] ?? "–")}</span>
          </li>
        ))}
      </ul>
      <Button
        look="quiet"
        onClick={() => onChange({ ...draft, settings: [...draft.settings, { name: "", value: "" }] })}
      >
        + another setting
      </Button>
    </section>
  );
}

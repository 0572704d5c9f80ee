import { type FormEvent, useState } from "react";
import { useSearchParams } from "react-router";

import { type Build, call, type Case, type Lack, Refused, type Vocabulary } from "../../api/client";
import { useDraft } from "../../lib/draft";
import { newId } from "../../lib/ids";
import { formatCount } from "../../lib/format";
import { Button } from "../../ui/Button";
import { Chips } from "../../ui/Chips";
import { ChoiceField, TextField } from "../../ui/Field";
import { Note } from "../../ui/Note";
import { candidateSent } from "../../job/machineBody";
import { useSave } from "../../job/api";
import { describeRated, writeFigures } from "../../job/figures";
import { buildName, PART_ROLES, tally } from "../../job/model";
import { FiguresField, SettingsForm } from "../../job/PartsForm";
import { useSeating } from "../../job/seating";
import { type PartDraft, partName, valuesOf } from "../../job/parts";
import { CostForm } from "./CostForm";
import { costField } from "./costs";
import {
  branchFrom,
  fitCandidate,
  newSwap,
  partsAfter,
  sayChanges,
  SIDE_CHANGES,
  suggestLabel,
  type SwapDraft,
  swapBody,
  tickSides,
  TIME_PASSED,
  unnamed,
} from "./model";

interface Props {
  job: Case;
  standing: Build;
  lacks: Lack[];
  vocabulary: Vocabulary;
}

/** The next swap: from the build that the machine is, or as a branch from an earlier one. */
export function NewSwap({ job, standing, lacks, vocabulary }: Props) {
  const [from, setFrom] = useState(standing.id);
  const before = job.builds.find((build) => build.id === from) ?? standing;
  return (
    <div className="space-y-5">
      {before.id === standing.id && <BaselineState job={job} before={before} lacks={lacks} />}
      <SwapForm
        key={before.id}
        job={job}
        before={before}
        standing={standing}
        vocabulary={vocabulary}
        onFrom={setFrom}
      />
    </div>
  );
}

function BaselineState({ job, before, lacks }: { job: Case; before: Build; lacks: Lack[] }) {
  const missing = lacks.filter((lack) => !lack.hint);
  const { sittings, runs } = tally(job, before.id);
  return (
    <Note>
      {missing.length === 0 ? (
        <>
          <b className="font-semibold">The baseline is complete:</b> {formatCount(sittings, "sitting")},{" "}
          {formatCount(runs, "run")} on {buildName(before)}. The old part may leave.
        </>
      ) : (
        <>
          <b className="font-semibold">The baseline is not complete.</b> Once the old part is out, no more can
          be measured.
          <ul className="mt-1 list-disc pl-5">
            {missing.map((lack) => (
              <li key={lack.message}>{lack.message}</li>
            ))}
          </ul>
        </>
      )}
      {lacks
        .filter((lack) => lack.hint)
        .map((lack) => (
          <p key={lack.message} className="mt-1">
            {lack.code === "goes_by" ? lack.message : `A hint: ${lack.message}`}
          </p>
        ))}
    </Note>
  );
}

interface FormProps {
  job: Case;
  before: Build;
  standing: Build;
  vocabulary: Vocabulary;
  onFrom: (build: string) => void;
}

function SwapForm({ job, before, standing, vocabulary, onFrom }: FormProps) {
  const { machine } = job;
  const [params] = useSearchParams();
  const candidate = job.candidates.find((known) => known.id === params.get("candidate"));
  const mark = machine.decimal_mark;
  const empty =
    before.id === standing.id
      ? newSwap(before, machine.currency, mark, job.open_plan.plan.change)
      : branchFrom(before, standing, machine.currency, vocabulary, mark);
  const figures = candidate && writeFigures(candidate.rated, vocabulary.parts[candidate.role] ?? [], mark);
  const [draft, setDraft, forget] = useDraft<SwapDraft>(
    candidate ? `swap.${before.id}.${candidate.id}` : `swap.${before.id}`,
    candidate ? fitCandidate(empty, candidate, figures ?? "", mark) : empty,
  );
  const save = useSave(
    machine.id,
    async () => {
      const planned = await call(
        "put",
        "/api/machines/{machine_id}/swaps/{swap_id}",
        { machine_id: machine.id, swap_id: draft.id },
        swapBody(draft, before, mark, vocabulary),
      );
      if (!candidate) return planned;
      return call(
        "put",
        "/api/machines/{machine_id}/candidates/{candidate_id}",
        { machine_id: machine.id, candidate_id: candidate.id },
        { ...candidateSent(candidate), swap: draft.id },
      );
    },
    forget,
  );
  const onSubmit = (event: FormEvent) => {
    event.preventDefault();
    save.mutate(undefined);
  };
  const refused = save.error instanceof Refused ? save.error : null;
  const problem = (field: string) => refused?.at(field);
  const problemAt = (key: string, field: string) => problem(costField(draft.costs, key, field));
  const earlier = job.builds.filter((build) => build.id !== before.id && build.sealed);
  return (
    <form onSubmit={onSubmit} className="space-y-5">
      <h1 className="lead">{sayChanges(draft, before, machine.decimal_mark)}</h1>
      {job.builds.length > 1 && (
        <div className="grid max-w-2xl gap-3 sm:grid-cols-2">
          <ChoiceField
            label="Compared with"
            value={before.id}
            choices={job.builds
              .filter((build) => build.sealed)
              .map(
                (build) =>
                  [build.id, buildName(build) + (build.id === standing.id ? ", as it stands" : "")] as const,
              )}
            onChange={onFrom}
          />
          <ChoiceField
            label="Leads to"
            value={draft.backTo}
            choices={[
              ["", "a new build"] as const,
              ...earlier.map((build) => [build.id, `back to ${buildName(build)}`] as const),
            ]}
            onChange={(backTo) => setDraft({ ...draft, backTo })}
          />
        </div>
      )}
      {!draft.backTo && (
        <div className="grid gap-5 xl:grid-cols-2">
          <Exchanges job={job} draft={draft} vocabulary={vocabulary} onChange={setDraft} />
          <div className="space-y-5">
            <SettingsForm
              settings={draft.settings}
              vocabulary={vocabulary}
              problemAt={(name) => problem(`after_build.settings.${name}`)}
              onChange={(settings) => setDraft({ ...draft, settings })}
            />
            <section>
              <h2 className="eyebrow mb-2">Also touched</h2>
              <Chips
                label="Also touched"
                choices={[...SIDE_CHANGES, TIME_PASSED]}
                chosen={draft.sideChanges}
                onChange={(sideChanges) => setDraft(tickSides(draft, sideChanges))}
              />
            </section>
          </div>
        </div>
      )}
      <div className="grid max-w-3xl gap-3 sm:grid-cols-3">
        <TextField
          label="Call this swap"
          placeholder={suggestLabel(draft)}
          value={draft.label}
          problem={problem("label")}
          onChange={(label) => setDraft({ ...draft, label })}
        />
        {!draft.backTo && (
          <TextField
            label="Call the new build"
            placeholder={suggestLabel(draft)}
            value={draft.afterLabel}
            problem={problem("after_build.label")}
            onChange={(afterLabel) => setDraft({ ...draft, afterLabel })}
          />
        )}
        {!draft.backTo && (
          <ChoiceField
            label="How worn it is then"
            value={draft.wear}
            choices={WEAR}
            onChange={(wear) => setDraft({ ...draft, wear })}
          />
        )}
      </div>
      <CostForm
        job={job}
        swapId={draft.id}
        costs={draft.costs}
        problemAt={problemAt}
        onChange={(costs) => setDraft({ ...draft, costs })}
      />
      {save.error && (
        <Note alert>
          {save.error.message}
          {refused?.errors
            .filter((error) => error.field.startsWith("after_build.parts"))
            .map((error) => (
              <span key={error.field} className="block">
                {error.message}
              </span>
            ))}
        </Note>
      )}
      <Button look="main" type="submit" disabled={save.isPending}>
        Plan this swap
      </Button>
    </form>
  );
}

const WEAR = [
  ["", "not said"],
  ["as new", "as new"],
  ["worn", "worn in use"],
  ["renewed", "serviced, renewed"],
] as const satisfies readonly (readonly [SwapDraft["wear"], string])[];

const ROLES = PART_ROLES.map((role) => [role, role] as const);

interface ExchangesProps {
  job: Case;
  draft: SwapDraft;
  vocabulary: Vocabulary;
  onChange: (draft: SwapDraft) => void;
}

function Exchanges({ job, draft, vocabulary, onChange }: ExchangesProps) {
  const { decimal_mark: mark, limits } = job.machine;
  const after = partsAfter(draft, vocabulary, mark);
  const settings = valuesOf(draft.settings, vocabulary.settings, mark);
  const seating = useSeating(after, settings, limits, mark);
  const others = (id: string) => after.filter((part) => part.id !== id);
  const edit = (id: string, change: Partial<SwapDraft["exchanges"][number]>) =>
    onChange({
      ...draft,
      exchanges: draft.exchanges.map((e) => (e.part.id === id ? { ...e, ...change } : e)),
    });
  const first = draft.exchanges.find(({ out }) => out);
  const editAdded = (id: string, change: Partial<PartDraft>) =>
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
        {draft.exchanges.map(({ part, out, newId: fitted, label, figures }) => (
          <li key={part.id} className="grid grid-cols-2 gap-3">
            <button
              type="button"
              aria-pressed={out}
              onClick={() => edit(part.id, { out: !out })}
              className={`rounded-lg border border-line bg-card p-3 text-left ${out ? "border-l-4 border-l-before" : ""}`}
            >
              <span className="eyebrow block">{part.role}</span>
              <span className="block font-semibold">
                {partName(
                  part,
                  draft.exchanges.map((each) => each.part),
                )}
              </span>
              <span className="text-sm text-soft">
                {out ? "comes out" : describeRated(part, vocabulary, mark) || "stays"}
              </span>
            </button>
            {out ? (
              <div className="space-y-1 rounded-lg border border-l-4 border-line border-l-after bg-card p-3">
                <TextField
                  label={`New ${part.role}`}
                  hideLabel
                  placeholder={
                    unnamed(part, vocabulary)
                      ? `its name, or empty: ${unnamed(part, vocabulary).toLowerCase()}`
                      : `new ${part.role}, or empty if none`
                  }
                  autoFocus={part.id === first?.part.id}
                  value={label}
                  onChange={(next) => edit(part.id, { label: next })}
                />
                <FiguresField
                  role={part.role}
                  label={`Rated figures of the new ${part.role}`}
                  value={figures}
                  others={others(fitted)}
                  seated={seating.get(fitted)}
                  vocabulary={vocabulary}
                  mark={mark}
                  onChange={(next) => edit(part.id, { figures: next })}
                />
              </div>
            ) : (
              <p className="self-center text-soft">stays</p>
            )}
          </li>
        ))}
        {draft.added.map((part) => (
          <li key={part.id} className="grid grid-cols-2 gap-3">
            <ChoiceField
              label="Kind of the added part"
              value={part.role}
              choices={ROLES}
              onChange={(role) => editAdded(part.id, { role })}
            />
            <div className="space-y-2 rounded-lg border border-l-4 border-line border-l-after bg-card p-3">
              <TextField
                label="Added part"
                hideLabel
                placeholder={`new ${part.role}`}
                autoFocus={part === draft.added[0]}
                value={part.label}
                onChange={(label) => editAdded(part.id, { label })}
              />
              <FiguresField
                role={part.role}
                label="Rated figures of the added part"
                value={part.figures}
                others={others(part.id)}
                seated={seating.get(part.id)}
                vocabulary={vocabulary}
                mark={mark}
                onChange={(figures) => editAdded(part.id, { figures })}
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
            added: [...draft.added, { id: newId(), role: "memory", label: "", figures: "" }],
          })
        }
      >
        + a part that is added
      </Button>
    </section>
  );
}

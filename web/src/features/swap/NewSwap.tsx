import { useState } from "react";
import { useSearchParams } from "react-router";

import {
  type Build,
  call,
  type Case,
  type Lack,
  Refused,
  refusedAt,
  type Vocabulary,
} from "../../api/client";
import { bind } from "../../lib/bind";
import { useDraft } from "../../lib/draft";
import { formatCount } from "../../lib/format";
import { Button } from "../../ui/Button";
import { Chips } from "../../ui/Chips";
import { ChoiceField, TextField } from "../../ui/Field";
import { Note } from "../../ui/Note";
import { useSave } from "../../job/api";
import { writeFigures } from "../../job/figures";
import { candidateSent } from "../../job/machineBody";
import { buildName, tally } from "../../job/model";
import { SettingsForm } from "../../job/PartsForm";
import { CostForm } from "./CostForm";
import { costField } from "./costs";
import { Exchanges } from "./Exchanges";
import {
  branchFrom,
  fitCandidate,
  newSwap,
  sayChanges,
  SIDE_CHANGES,
  suggestLabel,
  type SwapDraft,
  swapBody,
  tickSides,
  TIME_PASSED,
} from "./model";

interface Props {
  job: Case;
  fitted: Build;
  lacks: Lack[];
  vocabulary: Vocabulary;
}

/** The next swap: from the build that the machine is, or as a branch from an earlier one. */
export function NewSwap({ job, fitted, lacks, vocabulary }: Props) {
  const [from, setFrom] = useState(fitted.id);
  const before = job.builds.find((build) => build.id === from) ?? fitted;
  return (
    <div className="space-y-5">
      {before.id === fitted.id && <BaselineState job={job} before={before} lacks={lacks} />}
      <SwapForm
        key={before.id}
        job={job}
        before={before}
        fitted={fitted}
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
  fitted: Build;
  vocabulary: Vocabulary;
  onFrom: (build: string) => void;
}

/** What is typed of a swap, begun from a candidate where the address names one, and its save. */
function useSwapForm({ job, before, fitted, vocabulary }: FormProps) {
  const { machine } = job;
  const [params] = useSearchParams();
  const candidate = job.candidates.find((known) => known.id === params.get("candidate"));
  const mark = machine.decimal_mark;
  const empty =
    before.id === fitted.id
      ? newSwap(before, machine.currency, mark, job.open_plan.plan.change)
      : branchFrom(before, fitted, machine.currency, vocabulary, mark);
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
  const edit = (change: Partial<SwapDraft>) => setDraft({ ...draft, ...change });
  return { draft, setDraft, edit, save, at: refusedAt(save.error) };
}

type State = ReturnType<typeof useSwapForm>;

function SwapForm(props: FormProps) {
  const { job, before, vocabulary } = props;
  const state = useSwapForm(props);
  const { draft, setDraft, edit, save, at } = state;
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate(undefined);
      }}
      className="space-y-5"
    >
      <h1 className="lead">{sayChanges(draft, before, job.machine.decimal_mark)}</h1>
      {job.builds.length > 1 && <FromTo {...props} state={state} />}
      {!draft.backTo && (
        <div className="grid gap-5 xl:grid-cols-2">
          <Exchanges job={job} draft={draft} vocabulary={vocabulary} onChange={setDraft} />
          <div className="space-y-5">
            <SettingsForm
              settings={draft.settings}
              vocabulary={vocabulary}
              problemAt={(name) => at(`after_build.settings.${name}`)}
              onChange={(settings) => edit({ settings })}
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
      <Names state={state} />
      <CostForm
        job={job}
        swapId={draft.id}
        costs={draft.costs}
        problemAt={(key, field) => at(costField(draft.costs, key, field))}
        onChange={(costs) => edit({ costs })}
      />
      {save.error && <NotPlanned error={save.error} />}
      <Button look="main" type="submit" disabled={save.isPending}>
        Plan this swap
      </Button>
    </form>
  );
}

/** Why it was refused; what is wrong with the parts has no field of its own. */
function NotPlanned({ error }: { error: Error }) {
  const refused = error instanceof Refused ? error.errors : [];
  return (
    <Note alert>
      {error.message}
      {refused
        .filter(({ field }) => field.startsWith("after_build.parts"))
        .map(({ field, message }) => (
          <span key={field} className="block">
            {message}
          </span>
        ))}
    </Note>
  );
}

/** Which build it is compared with, and whether it leads to one that was there before. */
function FromTo({ job, before, fitted, onFrom, state: { draft, edit } }: FormProps & { state: State }) {
  const sealed = job.builds.filter((build) => build.sealed);
  const nameOf = (build: Build) => buildName(build) + (build.id === fitted.id ? ", as it stands" : "");
  const earlier = sealed.filter((build) => build.id !== before.id);
  return (
    <div className="grid max-w-2xl gap-3 sm:grid-cols-2">
      <ChoiceField
        label="Compared with"
        value={before.id}
        choices={sealed.map((build) => [build.id, nameOf(build)] as const)}
        onChange={onFrom}
      />
      <ChoiceField
        label="Leads to"
        choices={[
          ["", "a new build"] as const,
          ...earlier.map((build) => [build.id, `back to ${buildName(build)}`] as const),
        ]}
        {...bind(draft, edit)("backTo")}
      />
    </div>
  );
}

function Names({ state: { draft, edit, at } }: { state: State }) {
  const field = bind(draft, edit, at);
  return (
    <div className="grid max-w-3xl gap-3 sm:grid-cols-3">
      <TextField label="Call this swap" placeholder={suggestLabel(draft)} {...field("label")} />
      {!draft.backTo && (
        <>
          <TextField
            label="Call the new build"
            placeholder={suggestLabel(draft)}
            {...field("afterLabel", "after_build.label")}
          />
          <ChoiceField label="How worn it is then" choices={WEAR} {...field("wear")} />
        </>
      )}
    </div>
  );
}

const WEAR = [
  ["", "not said"],
  ["as new", "as new"],
  ["worn", "worn in use"],
  ["renewed", "serviced, renewed"],
] as const satisfies readonly (readonly [SwapDraft["wear"], string])[];

import { useState } from "react";

import { call, type CandidateIn, type Case, Refused, refusedAt, type Vocabulary } from "../../api/client";
import { bind } from "../../lib/bind";
import { useDraft } from "../../lib/draft";
import { Button } from "../../ui/Button";
import { ChoiceField, TextField } from "../../ui/Field";
import { Note } from "../../ui/Note";
import { useSave } from "../../job/api";
import { PART_ROLES, fittedBuild } from "../../job/model";
import { FiguresField } from "../../job/PartsForm";
import { removeCandidate } from "../../job/removal/removal";
import { SetAside } from "../../job/removal/SetAside";
import { SaveProblem } from "../../job/SaveProblem";
import { useSeating } from "../../job/seating";
import { putCandidateAside } from "./aside";
import { candidateBody, type CandidateDraft, partsWith } from "./model";

const ALTERNATIVES = [
  ["part", "a part"],
  ["nothing", "doing nothing"],
  ["cleaning", "cleaning alone"],
  ["service", "somebody’s service"],
  ["another machine", "another machine"],
] as const satisfies readonly (readonly [CandidateDraft["alternative"], string])[];
const FIT_WORDS = [
  ["", "as computed"],
  ["fits", "fits"],
  ["doubtful", "doubtful"],
  ["does not fit", "does not fit"],
] as const;
const ROLES = PART_ROLES.map((role) => [role, role] as const);

interface Props {
  job: Case;
  initial: CandidateDraft;
  vocabulary: Vocabulary;
  onDone: () => void;
}

/** What is typed of a candidate, and its save. */
function useCandidate({ job: { machine }, initial, vocabulary, onDone }: Props) {
  const key = `candidate.${machine.id}.${initial.version === null ? "new" : initial.id}`;
  const [draft, setDraft, forget] = useDraft(key, initial);
  const [problem, setProblem] = useState<string>();
  const done = () => {
    forget();
    onDone();
  };
  const save = useSave(
    machine.id,
    (body: CandidateIn) =>
      call(
        "put",
        "/api/machines/{machine_id}/candidates/{candidate_id}",
        { machine_id: machine.id, candidate_id: draft.id },
        body,
      ),
    done,
  );
  const remove = useSave(machine.id, () => removeCandidate(machine.id, draft.id), done);
  const send = (version = draft.version) => {
    const read = candidateBody({ ...draft, version }, vocabulary, machine.decimal_mark);
    setProblem("problem" in read ? read.problem : undefined);
    if ("body" in read) save.mutate(read.body);
  };
  const edit = (change: Partial<CandidateDraft>) => setDraft({ ...draft, ...change });
  const refused = refusedAt(save.error);
  const at = (field: string) => (field === "gain" ? problem : undefined) ?? refused(field);
  return { draft, edit, done, save, send, remove, field: bind(draft, edit, at) };
}

type State = ReturnType<typeof useCandidate>;

/** One candidate: what it is and costs, what is expected of it, and whether it fits. */
export function CandidateForm(props: Props) {
  const { job, vocabulary } = props;
  const state = useCandidate(props);
  const { save, remove } = state;
  return (
    <div className="card mt-2 space-y-3">
      <What job={job} vocabulary={vocabulary} state={state} />
      <Worth job={job} vocabulary={vocabulary} state={state} />
      <SaveProblem error={save.error} onTakeTheirs={state.done} onKeepMine={state.send} />
      {remove.error && <Note alert>{remove.error.message}</Note>}
      <Ends {...props} state={state} />
    </div>
  );
}

interface PartProps {
  job: Case;
  vocabulary: Vocabulary;
  state: State;
}

function What({ job, vocabulary, state: { draft, edit, field, save } }: PartProps) {
  const { limits, decimal_mark } = job.machine;
  const fitted = fittedBuild(job);
  const parts = partsWith(fitted, draft, vocabulary, decimal_mark);
  const seating = useSeating(parts, fitted?.settings ?? {}, limits, decimal_mark);
  const refused = save.error instanceof Refused ? save.error.errors : [];
  return (
    <div className="grid gap-3 sm:grid-cols-[9.5rem_1fr_1.2fr]">
      <div className="space-y-3">
        <ChoiceField label="It is" choices={ALTERNATIVES} {...field("alternative")} />
        {draft.alternative === "part" && <ChoiceField label="Kind" choices={ROLES} {...field("role")} />}
      </div>
      <TextField label="Candidate" required {...field("label")} />
      <div>
        <span className="mb-1 block text-soft">Rated figures</span>
        <FiguresField
          role={draft.role}
          label="Rated figures of the candidate"
          value={draft.figures}
          others={fitted?.parts.filter(({ role }) => role !== draft.role) ?? []}
          seated={seating.get(draft.id)}
          vocabulary={vocabulary}
          mark={decimal_mark}
          problem={refused.find(({ field: name }) => name.startsWith("rated"))?.message}
          onChange={(figures) => edit({ figures })}
        />
      </div>
    </div>
  );
}

function Worth({ job, vocabulary, state: { draft, field } }: PartProps) {
  const bases = Object.entries(vocabulary.bases).map(
    ([basis, name]) => [basis as CandidateDraft["basis"], name] as const,
  );
  const swaps = job.swaps.map((swap) => [swap.id, swap.label] as const);
  const weighed = "with both ends it is weighed against the swaps";
  return (
    <div className="grid gap-3 sm:grid-cols-4">
      <TextField label={`Price, ${job.machine.currency}`} inputMode="decimal" {...field("price")} />
      <ChoiceField label="Price is" choices={bases} {...field("basis")} />
      <TextField label="Expected gain, %" inputMode="decimal" {...field("gain")} />
      <TextField label="Price at the lowest" inputMode="decimal" {...field("priceLow", "price_low")} />
      <TextField label="Price at the highest" inputMode="decimal" {...field("priceHigh", "price_high")} />
      <TextField
        label="Gain at the least, %"
        inputMode="decimal"
        hint={weighed}
        {...field("gainLow", "gain_low")}
      />
      <TextField label="Gain at the most, %" inputMode="decimal" {...field("gainHigh", "gain_high")} />
      <TextField label="Expected because of" {...field("from")} />
      <TextField label="Needs first, parted by commas" {...field("prerequisites")} />
      <ChoiceField label="Fit, if you know" choices={FIT_WORDS} {...field("fitAnswer")} />
      <TextField label="Known from" {...field("fitSource")} />
      <ChoiceField
        label="Fitted in swap"
        choices={[["", "not bought"] as const, ...swaps]}
        {...field("swap")}
      />
      {draft.swap && <TextField label="Did it in fact work?" {...field("worked")} />}
    </div>
  );
}

function Ends({ job, initial, state: { draft, save, send, done, remove } }: Props & { state: State }) {
  return (
    <div className="flex flex-wrap gap-2">
      <Button look="main" disabled={save.isPending} onClick={() => send()}>
        Save the candidate
      </Button>
      <Button onClick={done}>Leave it</Button>
      {draft.version !== null && !initial.swap && (
        <Button look="quiet" onClick={() => remove.mutate(undefined)}>
          Take it off the list
        </Button>
      )}
      {draft.version !== null && (
        <SetAside
          job={job}
          what="this candidate"
          means="It is not weighed any more, and stays listed with the reason."
          save={(reason) => putCandidateAside(job.machine.id, draft.id, reason)}
          onDone={done}
        />
      )}
    </div>
  );
}

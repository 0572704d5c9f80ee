import { useState } from "react";

import {
  call,
  type Candidate,
  type CandidateIn,
  type Case,
  type Job,
  type PartRole,
  type Ranked,
  Refused,
  refusedAt,
  type Vocabulary,
} from "../../api/client";
import { useDraft } from "../../lib/draft";
import { Button, ButtonLink } from "../../ui/Button";
import { Chips } from "../../ui/Chips";
import { ChoiceField, TextField } from "../../ui/Field";
import { Note } from "../../ui/Note";
import { TableToTake } from "../../ui/TakeAlong";
import { useSave } from "../../job/api";
import { candidateSent } from "../../job/machineBody";
import { removeCandidate } from "../../job/removal/removal";
import { AsideList, SetAside } from "../../job/removal/SetAside";
import { PART_ROLES, standingBuild } from "../../job/model";
import { FiguresField } from "../../job/PartsForm";
import { useSeating } from "../../job/seating";
import { SaveProblem } from "../../job/SaveProblem";
import {
  candidateBody,
  candidateDraft,
  type CandidateDraft,
  emptyCandidate,
  partsWith,
  ticksOf,
} from "./model";

interface Props {
  job: Case;
  view: Job;
  vocabulary: Vocabulary;
}

/** Parts that might be bought, ranked by what they would bring for their price. */
export function Candidates({ job, view, vocabulary }: Props) {
  const [editing, setEditing] = useState<CandidateDraft | null>(null);
  const { currency } = job.machine;
  return (
    <section>
      <h2 className="eyebrow mb-2">Candidates, before buying</h2>
      {view.candidates.length > 0 && (
        <TableToTake name={`${job.machine.name}, candidates`}>
          <div className="overflow-x-auto">
            <table className="w-full">
              <thead className="text-left text-soft">
                <tr className="border-b border-line">
                  <th className="py-1 font-medium">Part</th>
                  <th className="px-2 text-right font-medium">price, {currency}</th>
                  <th className="px-2 font-medium">fit</th>
                  <th className="px-2 text-right font-medium">expected</th>
                  <th className="px-2 text-right font-medium">for 10 {currency}</th>
                  <th className="px-2 text-right font-medium">achieved</th>
                  <th className="font-medium">
                    <span className="sr-only">Edit</span>
                  </th>
                </tr>
              </thead>
              <tbody>
                {view.candidates.map((ranked) => (
                  <CandidateRow
                    key={ranked.candidate.id}
                    job={job}
                    ranked={ranked}
                    said={view.said.candidates[ranked.candidate.id]}
                    onEdit={() => {
                      const kept = job.candidates.find((known) => known.id === ranked.candidate.id);
                      if (kept) setEditing(candidateDraft(kept, vocabulary, job.machine.decimal_mark));
                    }}
                  />
                ))}
              </tbody>
            </table>
          </div>
        </TableToTake>
      )}
      <AsideList
        job={job}
        things={job.candidates.flatMap(({ id, label, set_aside }) =>
          set_aside
            ? [
                {
                  id,
                  name: label,
                  reason: set_aside,
                  save: (why) =>
                    call(
                      "put",
                      "/api/machines/{machine_id}/candidates/{candidate_id}/set-aside",
                      { machine_id: job.machine.id, candidate_id: id },
                      { reason: why },
                    ),
                },
              ]
            : [],
        )}
      />
      {job.candidates.length === 0 && !editing && (
        <p className="mb-2 text-soft">
          None noted. A price and an expected gain put them in order; the machine’s limits say what fits.
        </p>
      )}
      {editing ? (
        <CandidateForm
          key={editing.id}
          job={job}
          initial={editing}
          vocabulary={vocabulary}
          onDone={() => setEditing(null)}
        />
      ) : (
        <Button look="quiet" onClick={() => setEditing(emptyCandidate())}>
          + a candidate
        </Button>
      )}
    </section>
  );
}

const FIT = {
  fits: "✓ fits",
  doubtful: "? doubtful",
  "does not fit": "✕ does not fit",
} as const;

interface RowProps {
  job: Case;
  ranked: Ranked;
  said: Job["said"]["candidates"][string] | undefined;
  onEdit: () => void;
}

function CandidateRow({ job, ranked, said, onEdit }: RowProps) {
  const { candidate, fit } = ranked;
  const kept = job.candidates.find((known) => known.id === candidate.id);
  const tick = useSave(
    job.machine.id,
    (ticked: Candidate) =>
      call(
        "put",
        "/api/machines/{machine_id}/candidates/{candidate_id}",
        { machine_id: job.machine.id, candidate_id: ticked.id },
        candidateSent(ticked),
      ),
    () => undefined,
  );
  const against = fit.checks.filter((check) => check.word !== "fits");
  return (
    <tr className="border-b border-line align-top">
      <th scope="row" className="py-2 pr-2 text-left font-normal">
        <span className="font-semibold">{candidate.label}</span>{" "}
        <span className="text-soft">
          {candidate.alternative === "part" ? candidate.role : candidate.alternative}
        </span>
        {kept && !candidate.swap && candidate.alternative !== "nothing" && (
          <div className="mt-1">
            <Chips
              label={`Seen to, of ${candidate.label}`}
              choices={ticksOf(candidate)}
              chosen={kept.ticked}
              onChange={(ticked) => tick.mutate({ ...kept, ticked })}
            />
          </div>
        )}
        {tick.error && <Note alert>{tick.error.message}</Note>}
      </th>
      <td className="px-2 py-2 text-right">
        {candidate.price ?? "–"}
        <span className="block text-sm text-soft">{candidate.basis}</span>
      </td>
      <td className="max-w-64 px-2 py-2">
        <span className="font-semibold">{FIT[fit.word]}</span>
        {(against.length ? against : fit.checks.slice(0, 1)).map((check) => (
          <span key={check.reason} className="block text-sm text-soft">
            {check.reason} ({check.source})
          </span>
        ))}
        {fit.unknown.length > 0 && (
          <span className="block text-sm text-soft">not known: {fit.unknown.join(", ")}</span>
        )}
      </td>
      <td className="px-2 py-2 text-right">
        {said?.expected}
        <span className="block text-sm text-soft">{candidate.expected_from}</span>
      </td>
      <td className="px-2 py-2 text-right font-semibold">{said?.per_10}</td>
      <td className="px-2 py-2 text-right">
        {said?.achieved}
        <span className="block text-sm text-soft">{candidate.worked}</span>
      </td>
      <td className="py-1 text-right">
        <Button look="quiet" aria-label={`Edit ${candidate.label}`} onClick={onEdit}>
          Edit
        </Button>
        {candidate.alternative === "part" && !candidate.swap && (
          <ButtonLink
            look="quiet"
            aria-label={`Fit it: ${candidate.label}`}
            to={`../swap?candidate=${candidate.id}`}
          >
            Fit it
          </ButtonLink>
        )}
      </td>
    </tr>
  );
}

const ALTERNATIVES = [
  ["part", "a part"],
  ["nothing", "doing nothing"],
  ["cleaning", "cleaning alone"],
  ["service", "somebody’s service"],
  ["another machine", "another machine"],
] as const satisfies readonly (readonly [CandidateDraft["alternative"], string])[];
const SAID = [
  ["", "as computed"],
  ["fits", "fits"],
  ["doubtful", "doubtful"],
  ["does not fit", "does not fit"],
] as const;
const ROLES = PART_ROLES.map((role) => [role, role] as const);

interface FormProps {
  job: Case;
  initial: CandidateDraft;
  vocabulary: Vocabulary;
  onDone: () => void;
}

function CandidateForm({ job, initial, vocabulary, onDone }: FormProps) {
  const { machine } = job;
  const key = `candidate.${machine.id}.${initial.version === null ? "new" : initial.id}`;
  const [draft, setDraft, forget] = useDraft(key, initial);
  const [problem, setProblem] = useState<string>();
  const standing = standingBuild(job);
  const seating = useSeating(
    partsWith(standing, draft, vocabulary, machine.decimal_mark),
    standing?.settings ?? {},
    machine.limits,
    machine.decimal_mark,
  );
  const edit = (change: Partial<CandidateDraft>) => setDraft({ ...draft, ...change });
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
  const onSave = (version = draft.version) => {
    const read = candidateBody({ ...draft, version }, vocabulary, machine.decimal_mark);
    setProblem("problem" in read ? read.problem : undefined);
    if ("body" in read) save.mutate(read.body);
  };
  const at = refusedAt(save.error);
  return (
    <div className="card mt-2 space-y-3">
      <div className="grid gap-3 sm:grid-cols-[9.5rem_1fr_1.2fr]">
        <div className="space-y-3">
          <ChoiceField
            label="It is"
            value={draft.alternative}
            choices={ALTERNATIVES}
            onChange={(alternative) => edit({ alternative })}
          />
          {draft.alternative === "part" && (
            <ChoiceField<PartRole>
              label="Kind"
              value={draft.role}
              choices={ROLES}
              onChange={(role) => edit({ role })}
            />
          )}
        </div>
        <TextField
          label="Candidate"
          required
          value={draft.label}
          problem={at("label")}
          onChange={(label) => edit({ label })}
        />
        <div>
          <span className="mb-1 block text-soft">Rated figures</span>
          <FiguresField
            role={draft.role}
            label="Rated figures of the candidate"
            value={draft.figures}
            others={standing?.parts.filter(({ role }) => role !== draft.role) ?? []}
            seated={seating.get(draft.id)}
            vocabulary={vocabulary}
            mark={machine.decimal_mark}
            problem={
              save.error instanceof Refused
                ? save.error.errors.find((e) => e.field.startsWith("rated"))?.message
                : undefined
            }
            onChange={(figures) => edit({ figures })}
          />
        </div>
      </div>
      <div className="grid gap-3 sm:grid-cols-4">
        <TextField
          label={`Price, ${machine.currency}`}
          inputMode="decimal"
          value={draft.price}
          problem={at("price")}
          onChange={(price) => edit({ price })}
        />
        <ChoiceField
          label="Price is"
          value={draft.basis}
          choices={Object.entries(vocabulary.bases).map(
            ([basis, name]) => [basis as CandidateDraft["basis"], name] as const,
          )}
          onChange={(basis) => edit({ basis })}
        />
        <TextField
          label="Expected gain, %"
          inputMode="decimal"
          value={draft.gain}
          problem={problem}
          onChange={(gain) => edit({ gain })}
        />
        <TextField
          label="Price at the lowest"
          inputMode="decimal"
          value={draft.priceLow}
          problem={at("price_low")}
          onChange={(priceLow) => edit({ priceLow })}
        />
        <TextField
          label="Price at the highest"
          inputMode="decimal"
          value={draft.priceHigh}
          problem={at("price_high")}
          onChange={(priceHigh) => edit({ priceHigh })}
        />
        <TextField
          label="Gain at the least, %"
          inputMode="decimal"
          hint="with both ends it is weighed against the swaps"
          value={draft.gainLow}
          problem={at("gain_low")}
          onChange={(gainLow) => edit({ gainLow })}
        />
        <TextField
          label="Gain at the most, %"
          inputMode="decimal"
          value={draft.gainHigh}
          problem={at("gain_high")}
          onChange={(gainHigh) => edit({ gainHigh })}
        />
        <TextField label="Expected because of" value={draft.from} onChange={(from) => edit({ from })} />
        <TextField
          label="Needs first, parted by commas"
          value={draft.prerequisites}
          onChange={(prerequisites) => edit({ prerequisites })}
        />
        <ChoiceField
          label="Fit, if you know"
          value={draft.fitSaid}
          choices={SAID}
          onChange={(fitSaid) => edit({ fitSaid })}
        />
        <TextField label="Known from" value={draft.fitSource} onChange={(fitSource) => edit({ fitSource })} />
        <ChoiceField
          label="Fitted in swap"
          value={draft.swap}
          choices={[["", "not bought"] as const, ...job.swaps.map((swap) => [swap.id, swap.label] as const)]}
          onChange={(swap) => edit({ swap })}
        />
        {draft.swap && (
          <TextField
            label="Did it in fact work?"
            value={draft.worked}
            onChange={(worked) => edit({ worked })}
          />
        )}
      </div>
      <SaveProblem error={save.error} onTakeTheirs={done} onKeepMine={onSave} />
      {remove.error && <Note alert>{remove.error.message}</Note>}
      <div className="flex flex-wrap gap-2">
        <Button look="main" disabled={save.isPending} onClick={() => onSave()}>
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
            save={(reason) =>
              call(
                "put",
                "/api/machines/{machine_id}/candidates/{candidate_id}/set-aside",
                { machine_id: machine.id, candidate_id: draft.id },
                { reason },
              )
            }
            onDone={done}
          />
        )}
      </div>
    </div>
  );
}

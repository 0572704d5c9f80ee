import { useState } from "react";

import { call, type Candidate, type Case, type Job, type Ranked, type Vocabulary } from "../../api/client";
import { Button, ButtonLink } from "../../ui/Button";
import { Chips } from "../../ui/Chips";
import { Note } from "../../ui/Note";
import { TableToTake } from "../../ui/TakeAlong";
import { useSave } from "../../job/api";
import { candidateSent } from "../../job/machineBody";
import { type Aside, AsideList } from "../../job/removal/SetAside";
import { putCandidateAside } from "./aside";
import { CandidateForm } from "./CandidateForm";
import { candidateDraft, type CandidateDraft, emptyCandidate, ticksOf } from "./model";

interface Props {
  job: Case;
  view: Job;
  vocabulary: Vocabulary;
}

/** Parts that might be bought, ranked by what they would bring for their price. */
export function Candidates({ job, view, vocabulary }: Props) {
  const [editing, setEditing] = useState<CandidateDraft | null>(null);
  const onEdit = (id: string) => {
    const kept = job.candidates.find((known) => known.id === id);
    if (kept) setEditing(candidateDraft(kept, vocabulary, job.machine.decimal_mark));
  };
  return (
    <section>
      <h2 className="eyebrow mb-2">Candidates, before buying</h2>
      {view.candidates.length > 0 && <RankedList job={job} view={view} onEdit={onEdit} />}
      <AsideList job={job} things={candidatesAside(job)} />
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

interface ListProps {
  job: Case;
  view: Job;
  onEdit: (candidate: string) => void;
}

function RankedList({ job, view, onEdit }: ListProps) {
  const { currency } = job.machine;
  return (
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
                worded={view.worded.candidates[ranked.candidate.id]}
                onEdit={() => onEdit(ranked.candidate.id)}
              />
            ))}
          </tbody>
        </table>
      </div>
    </TableToTake>
  );
}

const candidatesAside = ({ machine, candidates }: Case): Aside[] =>
  candidates.flatMap(({ id, label, set_aside }) =>
    set_aside
      ? [{ id, name: label, reason: set_aside, save: (why) => putCandidateAside(machine.id, id, why) }]
      : [],
  );

const FIT = {
  fits: "✓ fits",
  doubtful: "? doubtful",
  "does not fit": "✕ does not fit",
} as const;

interface RowProps {
  job: Case;
  ranked: Ranked;
  worded: Job["worded"]["candidates"][string] | undefined;
  onEdit: () => void;
}

function CandidateRow({ job, ranked, worded, onEdit }: RowProps) {
  const { candidate, fit } = ranked;
  return (
    <tr className="border-b border-line align-top">
      <th scope="row" className="py-2 pr-2 text-left font-normal">
        <span className="font-semibold">{candidate.label}</span>{" "}
        <span className="text-soft">
          {candidate.alternative === "part" ? candidate.role : candidate.alternative}
        </span>
        <Ticks job={job} candidate={candidate} />
      </th>
      <td className="px-2 py-2 text-right">
        {candidate.price ?? "–"}
        <span className="block text-sm text-soft">{candidate.basis}</span>
      </td>
      <Fit fit={fit} />
      <td className="px-2 py-2 text-right">
        {worded?.expected}
        <span className="block text-sm text-soft">{candidate.expected_from}</span>
      </td>
      <td className="px-2 py-2 text-right font-semibold">{worded?.per_10}</td>
      <td className="px-2 py-2 text-right">
        {worded?.achieved}
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

/** What was seen to before it is bought. */
function Ticks({ job, candidate }: { job: Case; candidate: Ranked["candidate"] }) {
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
  if (!kept || candidate.swap || candidate.alternative === "nothing") return null;
  return (
    <>
      <div className="mt-1">
        <Chips
          label={`Seen to, of ${candidate.label}`}
          choices={ticksOf(candidate)}
          chosen={kept.ticked}
          onChange={(ticked) => tick.mutate({ ...kept, ticked })}
        />
      </div>
      {tick.error && <Note alert>{tick.error.message}</Note>}
    </>
  );
}

/** Whether it fits; what speaks against it first. */
function Fit({ fit }: { fit: Ranked["fit"] }) {
  const against = fit.checks.filter((check) => check.word !== "fits");
  return (
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
  );
}

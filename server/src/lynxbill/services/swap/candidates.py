"""Candidates before buying, and dates to measure a build again."""

from dataclasses import replace
from uuid import UUID

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from lynxbill.core.plan.rivals import recorded_at
from lynxbill.core.record.build import Candidate
from lynxbill.core.record.ids import BuildId
from lynxbill.core.record.plan import Recheck
from lynxbill.core.record.vocabulary import PART_FIGURES, check_figures
from lynxbill.core.terms.errors import Missing
from lynxbill.services.base.act import Act
from lynxbill.services.base.transaction import Sessions, edit, refuse_foreign, transaction
from lynxbill.store import rows
from lynxbill.store.copies import copy_plan
from lynxbill.store.database import announce
from lynxbill.store.kept import read_snapshot
from lynxbill.store.nouns import candidate_of
from lynxbill.store.snapshot import find_machine
from lynxbill.store.tables.machine import CandidateRow, RecheckRow
from lynxbill.store.tables.swap import SwapRow


def save_candidate(sessions: Sessions, act: Act, machine_id: UUID, candidate: Candidate, version: int | None) -> None:
    """Weigh a part, or edit what is known of it; since when it is on record with model and price is kept."""
    check_figures(candidate.rated, PART_FIGURES[candidate.role], "rated")
    with transaction(sessions) as session:
        find_machine(session, machine_id, lock=True)
        _check_swap(session, machine_id, candidate)
        row = session.get(CandidateRow, UUID(candidate.id))
        before = candidate_of(row) if row is not None else None
        candidate = replace(candidate, recorded_at=recorded_at(candidate, before, act.at))
        if row is None:
            count = select(func.coalesce(func.max(CandidateRow.position), 0)).where(
                CandidateRow.machine_id == machine_id
            )
            session.add(rows.candidate_row(candidate, machine_id, (session.scalar(count) or 0) + 1))
        else:
            refuse_foreign(row.machine_id, machine_id)
            edit(row, version, rows.candidate_fields(candidate))
        announce(session, machine_id, "candidate", candidate.id)


def _check_swap(session: Session, machine_id: UUID, candidate: Candidate) -> None:
    if candidate.swap is None:
        return
    swap = session.get(SwapRow, UUID(candidate.swap))
    if swap is None or swap.machine_id != machine_id:
        raise Missing("This machine has no such swap.", field="swap")


def save_recheck(sessions: Sessions, machine_id: UUID, recheck: Recheck, version: int | None) -> None:
    """Set a date to measure a build again, with a copy of the plan it was judged by; or edit the date and note."""
    with transaction(sessions) as session:
        find_machine(session, machine_id, lock=True)
        row = session.get(RecheckRow, UUID(recheck.id))
        if row is None:
            session.add(_new_recheck(session, machine_id, recheck))
        else:
            refuse_foreign(row.machine_id, machine_id)
            edit(row, version, {"due_on": recheck.due_on, "note": recheck.note, "done": recheck.done})
        announce(session, machine_id, "recheck", recheck.id)


def _new_recheck(session: Session, machine_id: UUID, recheck: Recheck) -> RecheckRow:
    case = read_snapshot(session, machine_id).frame
    plan = case.plan_of(case.build(BuildId(recheck.build)).id)
    row = rows.recheck_row(recheck, machine_id)
    row.plan = copy_plan(plan)
    return row

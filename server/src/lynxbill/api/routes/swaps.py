"""Swaps, and what they are judged to have brought."""

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Query, Response

from lynxbill.api.http.deps import ActDep, SessionsDep
from lynxbill.api.wire.describe import case_out, what_if_out
from lynxbill.api.wire.job_bodies import AttemptIn, LookedIn, ShownIn, SwapIn, SwapPlanIn
from lynxbill.api.wire.schemas import CaseOut, WhatIfOut
from lynxbill.api.wire.spoken import SpokenOut, write_comparison, write_comparisons
from lynxbill.core.record.ids import BuildId
from lynxbill.core.record.swap import Attempt
from lynxbill.core.value.account import MOST_YEARS
from lynxbill.services.frame.machines import view_machine
from lynxbill.services.frame.plans import save_swap_plan
from lynxbill.services.swap.attempts import measure_over
from lynxbill.services.swap.swaps import remove_swap, save_swap
from lynxbill.services.verdicts.comparisons import compare, compare_all, note_looked, note_shown, what_if
from lynxbill.services.verdicts.reckonings import reckon_up
from lynxbill.words.money.reckoning import WordedReckoning

router = APIRouter(tags=["swaps"])


@router.put("/machines/{machine_id}/swaps/{swap_id}")
def put_swap(machine_id: UUID, swap_id: UUID, body: SwapIn, sessions: SessionsDep) -> CaseOut:
    """Plan a swap with the build it leads to, or edit its label, side changes, declarations and cost lines."""
    after = body.after_build.to_core(body.after) if body.after_build else None
    save_swap(sessions, machine_id, body.to_core(swap_id), after, body.template, body.version)
    return case_out(view_machine(sessions, machine_id))


@router.delete("/machines/{machine_id}/swaps/{swap_id}")
def delete_swap(machine_id: UUID, swap_id: UUID, sessions: SessionsDep) -> CaseOut:
    """Take a planned swap back."""
    remove_swap(sessions, machine_id, swap_id)
    return case_out(view_machine(sessions, machine_id))


@router.put("/machines/{machine_id}/swaps/{swap_id}/plan")
def put_swap_plan(machine_id: UUID, swap_id: UUID, body: SwapPlanIn, sessions: SessionsDep, act: ActDep) -> CaseOut:
    """Edit a swap's plan; with runs of the build after, only margins and hopes, with a reason."""
    save_swap_plan(sessions, act, machine_id, swap_id, body.to_core(), body.reason, body.version)
    return case_out(view_machine(sessions, machine_id))


@router.post("/machines/{machine_id}/shown", status_code=204)
def post_shown(machine_id: UUID, body: ShownIn, sessions: SessionsDep, act: ActDep) -> None:
    """Say which measures' verdicts a screen has shown, and from which state; reading them never does."""
    pair = BuildId(str(body.before)), BuildId(str(body.after))
    note_shown(sessions, act, machine_id, pair, body.measures, (body.revision, body.evidence_revision))


@router.post("/machines/{machine_id}/looked", status_code=204)
def post_looked(machine_id: UUID, body: LookedIn, sessions: SessionsDep, act: ActDep) -> None:
    """Say of which swaps a screen shows both sides, verdict or not; reading them never does."""
    note_looked(sessions, act, machine_id, body.swaps)


@router.post("/machines/{machine_id}/swaps/{swap_id}/attempts")
def post_attempt(machine_id: UUID, swap_id: UUID, body: AttemptIn, sessions: SessionsDep, act: ActDep) -> CaseOut:
    """Measure a comparison over: its sittings so far are set aside with the reason."""
    attempt = Attempt(act.at, body.reason, body.sides, body.sittings_a_side, body.at_most)
    measure_over(sessions, act, machine_id, swap_id, attempt, body.version)
    return case_out(view_machine(sessions, machine_id))


@router.get("/machines/{machine_id}/comparison", response_model=SpokenOut)
def read_comparison(
    machine_id: UUID, sessions: SessionsDep, before: UUID | None = None, after: UUID | None = None
) -> Response:
    """Judge two builds; without them, the newest swap."""
    first, last = (None if build is None else BuildId(str(build)) for build in (before, after))
    judged = compare(sessions, machine_id, first, last, write_comparison)
    return Response(judged, media_type="application/json")


@router.get("/machines/{machine_id}/reckoning", response_model=WordedReckoning)
def read_reckoning(
    machine_id: UUID,
    sessions: SessionsDep,
    before: UUID | None = None,
    after: UUID | None = None,
    years: Annotated[int, Query(ge=0, le=MOST_YEARS)] = 0,
) -> Response:
    """What a swap cost and bought on every setting of the switches, beside all other ways to spend the money."""
    first, last = (None if build is None else BuildId(str(build)) for build in (before, after))
    return Response(reckon_up(sessions, machine_id, first, last, years), media_type="application/json")


@router.get("/machines/{machine_id}/what-if")
def read_what_if(
    machine_id: UUID, sessions: SessionsDep, act: ActDep, run: UUID | None = None, sitting: UUID | None = None
) -> list[WhatIfOut]:
    """Say which verdicts would change if a run were left out, or a sitting set aside, now that they were seen."""
    return [what_if_out(one) for one in what_if(sessions, act, machine_id, run=run, sitting=sitting)]


@router.get("/machines/{machine_id}/comparisons", response_model=list[SpokenOut])
def read_comparisons(machine_id: UUID, sessions: SessionsDep) -> Response:
    """Judge every swap of the machine, oldest first."""
    return Response(compare_all(sessions, machine_id, write_comparisons), media_type="application/json")

"""The home screen: every machine as one line, with where its job stands and what its newest swap brought."""

import logging
from dataclasses import dataclass
from uuid import UUID

from sqlalchemy import select

from lynxbill.core.case import Build, Case, Swap
from lynxbill.core.progress import tally_builds
from lynxbill.exchange.verdict_schema import ComparisonOut
from lynxbill.services.comparisons import compare
from lynxbill.services.transaction import Sessions, reading
from lynxbill.store.kept import read_case, read_snapshot
from lynxbill.store.snapshot import Snapshot
from lynxbill.store.tables import MachineRow

log = logging.getLogger(__name__)


@dataclass(frozen=True, slots=True)
class Line:
    """
    What home says of a machine.

    `current` is the swap that waits to be begun or whose case is open; `newest` the comparison of its last swap;
    `sittings_left` what the standing build's plan still asks for.
    """

    snapshot: Snapshot
    case: Case
    standing: Build | None
    sittings_left: int
    current: Swap | None
    newest: ComparisonOut | None


@dataclass(frozen=True, slots=True)
class Bench:
    """A machine on the home screen; `line` is None where what is recorded of it can't be read."""

    machine_id: UUID
    name: str
    line: Line | None


def list_benches(sessions: Sessions) -> list[Bench]:
    """Read every machine as a line, in the order they were described."""
    with sessions() as session:
        query = select(MachineRow.id, MachineRow.name).order_by(MachineRow.created_at, MachineRow.id)
        machines = session.execute(query).all()
    return [_read_bench(sessions, machine.id, machine.name) for machine in machines]


def _read_bench(sessions: Sessions, machine_id: UUID, name: str) -> Bench:
    """Read one machine for the home screen; whatever is wrong with it must not take the others from there."""
    try:
        return Bench(machine_id, name, _read_line(sessions, machine_id))
    except Exception:
        # The one place that catches everything: the fault is kept in the log, and its own page still shows it.
        log.exception("machine %s could not be read", machine_id)
        return Bench(machine_id, name, None)


def _read_line(sessions: Sessions, machine_id: UUID) -> Line:
    with reading(sessions) as session:
        snapshot, case = read_snapshot(session, machine_id), read_case(session, machine_id)
    standing = case.standing
    waiting = [swap for state in ("open", "planned") for swap in case.swaps if swap.state == state]
    return Line(
        snapshot=snapshot,
        case=case,
        standing=standing,
        sittings_left=tally_builds(case)[standing.id].sittings_left if standing else 0,
        current=waiting[0] if waiting else None,
        newest=compare(sessions, machine_id, None, None) if case.swaps else None,
    )

"""Frames and sheets already read, kept in memory while nothing of their machine changed, up to a number of bytes."""

from collections import OrderedDict
from collections.abc import Collection, Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass, field, fields
from datetime import datetime
from threading import Lock
from uuid import UUID
from weakref import WeakKeyDictionary

from sqlalchemy import Connection, Engine, select
from sqlalchemy.orm import Session

from lynxbill.core.record.frame import Case, Frame
from lynxbill.core.record.ids import SittingId
from lynxbill.core.record.run import Run
from lynxbill.core.record.sheet import Sheet, SheetKey
from lynxbill.store.evidence import KeptSheets, load_evidence, load_sheets
from lynxbill.store.snapshot import Snapshot, load_snapshot
from lynxbill.store.tables.machine import MachineRow

MOST_BYTES = 96 * 1024 * 1024
# Roughly what one thing of a frame, or one sheet, takes as Python keeps it.
THING_BYTES, SHEET_BYTES = 1500, 3000


@dataclass(slots=True)
class _Kept:
    """What is known of one machine; one that is taken in anew was described at another time."""

    described: datetime
    revision: int = -1
    snapshot: Snapshot | None = None
    evidence_revision: int = -1
    sheets: KeptSheets = field(default_factory=dict)
    # The sheets by the names that workloads have now, with the evidence and the names that they were made for.
    named: tuple[int, tuple[tuple[UUID, str], ...], Mapping[SheetKey, Sheet]] | None = None

    @property
    def size(self) -> int:
        things = len(self.snapshot.versions) if self.snapshot else 0
        return things * THING_BYTES + len(self.sheets) * SHEET_BYTES


_kept: WeakKeyDictionary[Engine, OrderedDict[UUID, _Kept]] = WeakKeyDictionary()
_lock = Lock()


def read_snapshot(session: Session, machine_id: UUID) -> Snapshot:
    """
    Read a machine's frame, or hand out what was read of it before if it is still at the same revision.

    Every change raises the revision in its own transaction, so that any number of server processes agree. The session
    must see one moment (`reading`), or hold the machine's lock and not have written yet.
    """
    found = session.execute(
        select(MachineRow.created_at, MachineRow.revision).where(MachineRow.id == machine_id)
    ).first()
    if found is None:
        return load_snapshot(session, machine_id)
    with _machine(session, machine_id, found.created_at) as kept:
        if kept.snapshot is not None and kept.revision == found.revision:
            return kept.snapshot
    snapshot = load_snapshot(session, machine_id)
    with _machine(session, machine_id, found.created_at) as kept:
        if kept.revision <= found.revision:
            kept.snapshot, kept.revision = snapshot, found.revision
    return snapshot


def read_case(session: Session, machine_id: UUID, *, builds: Collection[str] = ()) -> Case:
    """
    Read a machine with its sheets, and with the runs of some builds alone.

    The session must see one moment, as for `read_snapshot`.
    """
    frame = read_snapshot(session, machine_id).frame
    sittings = {sitting.id for sitting in frame.sittings if sitting.build_id in builds}
    return with_evidence(frame, load_evidence(session, frame, sittings).runs, _read_sheets(session, frame))


def read_whole_case(session: Session, machine_id: UUID) -> Case:
    """Read a machine with every run of it, for what is taken elsewhere."""
    frame = read_snapshot(session, machine_id).frame
    return with_evidence(frame, load_evidence(session, frame, None).runs, None)


def with_evidence(frame: Frame, runs: tuple[Run, ...], sheets: Mapping[SheetKey, Sheet] | None) -> Case:
    """Put runs, and the sheets that are kept of all others, to a frame."""
    given = {field.name: getattr(frame, field.name) for field in fields(Frame) if field.init}
    return Case(**given, runs=runs, sheets=sheets)


def _read_sheets(session: Session, frame: Frame) -> Mapping[SheetKey, Sheet]:
    """The machine's sheets; of those that were read before, only what was written since is read again."""
    machine_id = UUID(frame.machine.id)
    found = session.execute(
        select(MachineRow.created_at, MachineRow.evidence_revision).where(MachineRow.id == machine_id)
    ).one()
    with _machine(session, machine_id, found.created_at) as kept:
        known, sheets = kept.evidence_revision, kept.sheets
    if known != found.evidence_revision:
        # One who reads an older moment than another did before takes all of it, and keeps nothing.
        is_later = known < found.evidence_revision
        fresh, emptied = load_sheets(session, machine_id, since=known if is_later else -1)
        merged = {**sheets, **fresh} if is_later else dict(fresh)
        sheets = {key: sheet for key, sheet in merged.items() if key not in emptied}
        if is_later:
            with _machine(session, machine_id, found.created_at) as kept:
                if kept.evidence_revision < found.evidence_revision:
                    kept.sheets, kept.evidence_revision = sheets, found.evidence_revision
    names = tuple((UUID(workload.id), workload.name) for workload in frame.workloads)
    with _machine(session, machine_id, found.created_at) as kept:
        if kept.named is None or kept.named[:2] != (found.evidence_revision, names):
            by_id = dict(names)
            named = {
                (SittingId(str(sitting)), by_id[workload]): sheet for (sitting, workload), sheet in sheets.items()
            }
            kept.named = (found.evidence_revision, names, named)
        return kept.named[2]


@contextmanager
def _machine(session: Session, machine_id: UUID, described: datetime) -> Iterator[_Kept]:
    bind = session.get_bind()
    with _lock:
        machines = _kept.setdefault(bind.engine if isinstance(bind, Connection) else bind, OrderedDict())
        kept = machines.get(machine_id)
        if kept is None or kept.described != described:
            kept = machines[machine_id] = _Kept(described)
        machines.move_to_end(machine_id)
        yield kept
        total = sum(other.size for other in machines.values())
        while total > MOST_BYTES and len(machines) > 1:
            total -= machines.popitem(last=False)[1].size

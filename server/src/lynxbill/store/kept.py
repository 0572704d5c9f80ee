"""Cases already read, kept in memory for as long as nothing of their machine changed."""

from collections import OrderedDict
from datetime import datetime
from threading import Lock
from uuid import UUID
from weakref import WeakKeyDictionary

from sqlalchemy import Connection, Engine, select
from sqlalchemy.orm import Session

from lynxbill.store.snapshot import Snapshot, load_snapshot
from lynxbill.store.tables import MachineRow

MOST_KEPT = 64
# When the machine was described, and how often it was changed since: one that is taken in anew counts from the start.
Stamp = tuple[datetime, int]
Kept = OrderedDict[UUID, tuple[Stamp, Snapshot]]
_kept: WeakKeyDictionary[Engine, Kept] = WeakKeyDictionary()
_lock = Lock()


def read_snapshot(session: Session, machine_id: UUID) -> Snapshot:
    """
    Read a machine, or hand out what was read of it before if it is still the same machine at the same revision.

    Every change raises the revision in its own transaction, so that any number of server processes agree. The session
    must see one moment (`reading`), or hold the machine's lock and not have written yet.
    """
    query = select(MachineRow.created_at, MachineRow.revision).where(MachineRow.id == machine_id)
    found = session.execute(query).first()
    stamp = None if found is None else (found.created_at, found.revision)
    bind = session.get_bind()
    with _lock:
        kept = _kept.setdefault(bind.engine if isinstance(bind, Connection) else bind, OrderedDict())
        known = kept.get(machine_id)
        if known is not None and known[0] == stamp:
            kept.move_to_end(machine_id)
            return known[1]
    snapshot = load_snapshot(session, machine_id)
    if stamp is None:
        return snapshot
    with _lock:
        kept[machine_id] = (stamp, snapshot)
        while len(kept) > MOST_KEPT:
            kept.popitem(last=False)
    return snapshot

"""Pairing an agent with a machine by a code that is typed once."""

import secrets
from dataclasses import dataclass
from datetime import datetime, timedelta
from uuid import UUID

from sqlalchemy import delete

from lynxbill.core.terms.errors import Missing
from lynxbill.services.base.act import Act
from lynxbill.services.base.transaction import Sessions, transaction
from lynxbill.store.snapshot import find_machine
from lynxbill.store.tables.kept import PairingRow
from lynxbill.store.tables.machine import MachineRow

# Neither O nor 0, I nor 1, which are read for each other off a screen.
LETTERS = "ABCDEFGHJKLMNPQRSTUVWXYZ23456789"
LENGTH = 6
GOOD_FOR = timedelta(minutes=10)


@dataclass(frozen=True, slots=True)
class Code:
    """A code to be typed on the machine under test, and until when it will do."""

    code: str
    until: datetime


def make_code(sessions: Sessions, act: Act, machine_id: UUID) -> Code:
    """Make a code for a machine; one that was made before does no longer."""
    code = Code("".join(secrets.choice(LETTERS) for _ in range(LENGTH)), act.at + GOOD_FOR)
    with transaction(sessions) as session:
        find_machine(session, machine_id, lock=True)
        session.execute(
            delete(PairingRow).where((PairingRow.machine_id == machine_id) | (PairingRow.until <= act.at))
        )
        session.add(PairingRow(code=code.code, machine_id=machine_id, until=code.until))
    return code


def use_code(sessions: Sessions, act: Act, code: str) -> tuple[UUID, str]:
    """Answer the machine that a code was made for, and its name; a code does once."""
    with transaction(sessions) as session:
        row = session.get(PairingRow, code.strip().upper(), with_for_update=True)
        machine = session.get(MachineRow, row.machine_id) if row is not None and row.until > act.at else None
        if row is None or machine is None:
            raise Missing(
                "This code is not known, or its ten minutes are over. Ask for another one on the Measure screen.",
                field="code",
            )
        session.delete(row)
        return machine.id, machine.name

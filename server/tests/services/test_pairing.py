"""The code that pairs an agent with a machine: it does once, for ten minutes, and only the newest one does."""

from datetime import UTC, datetime, timedelta
from uuid import UUID, uuid4

import pytest

from lynxbill.core.record.frame import Machine
from lynxbill.core.record.ids import MachineId
from lynxbill.core.terms.errors import Missing
from lynxbill.services.agent.pairing import GOOD_FOR, make_code, use_code
from lynxbill.services.base.act import Act
from lynxbill.services.base.transaction import Sessions
from lynxbill.services.frame.machines import save_machine

NOW = datetime(2026, 5, 4, 9, tzinfo=UTC)


def at(minutes: float) -> Act:
    return Act("a test", NOW + timedelta(minutes=minutes))


@pytest.fixture
def machine(sessions: Sessions) -> UUID:
    identifier = uuid4()
    save_machine(sessions, Machine(MachineId(str(identifier)), "Plotting PC", "EUR"), None)
    return identifier


def test_a_code_does_once_however_it_is_typed(sessions: Sessions, machine: UUID) -> None:
    made = make_code(sessions, at(0), machine)
    assert use_code(sessions, at(9.9), f" {made.code.lower()} ") == (machine, "Plotting PC")
    with pytest.raises(Missing):
        use_code(sessions, at(9.9), made.code)


def test_a_code_ends_after_its_ten_minutes(sessions: Sessions, machine: UUID) -> None:
    made = make_code(sessions, at(0), machine)
    assert made.until == NOW + GOOD_FOR
    with pytest.raises(Missing) as refused:
        use_code(sessions, at(10), made.code)
    assert refused.value.field == "code"


def test_a_code_ends_with_the_next_one(sessions: Sessions, machine: UUID) -> None:
    first, second = make_code(sessions, at(0), machine), make_code(sessions, at(1), machine)
    with pytest.raises(Missing):
        use_code(sessions, at(2), first.code)
    assert use_code(sessions, at(2), second.code)[0] == machine

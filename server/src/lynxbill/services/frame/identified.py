"""What a machine shows of itself, as the bench agent reads it, beside the build that stands."""

from collections.abc import Iterator, Mapping
from dataclasses import asdict, dataclass, replace
from datetime import datetime
from uuid import UUID

from sqlalchemy.orm import Session

from lynxbill.core.change.identified import Shown, ShownPart, find_departures
from lynxbill.core.plan.rivals import identities_of
from lynxbill.core.record.build import Build
from lynxbill.core.record.frame import Case
from lynxbill.core.record.swap import Recognition, Swap
from lynxbill.core.record.vocabulary import PART_FIGURES
from lynxbill.exchange.entry import DecimalMark
from lynxbill.exchange.seen import judge_seen
from lynxbill.services.base.act import Act
from lynxbill.services.base.transaction import Sessions, transaction
from lynxbill.store.database import announce
from lynxbill.store.kept import read_case
from lynxbill.store.snapshot import find_machine
from lynxbill.store.tables.kept import ShownRow
from lynxbill.store.tables.machine import BuildRow
from lynxbill.store.tables.swap import RecognitionRow
from lynxbill.words.base.identified import say_departure


@dataclass(frozen=True, slots=True)
class WordedShown:
    """What the machine showed: when, as which build, and in words what of it is not as that build says."""

    at: datetime
    build: Build
    departs: tuple[str, ...]


def save_shown(sessions: Sessions, act: Act, machine_id: UUID, shown: Shown) -> WordedShown | None:
    """
    Keep what the machine shows; what a part that went in was expected to show, and was not looked at, is noted seen.

    Returns: None where the machine has no build yet.
    """
    with transaction(sessions) as session:
        machine = find_machine(session, machine_id, lock=True)
        case = read_case(session, machine_id)
        if case.fitted is None:
            return None
        row = session.get(ShownRow, machine_id)
        fresh = {
            "build_id": UUID(case.fitted.id),
            "parts": [asdict(part) for part in shown.parts],
            "firmware": shown.firmware,
            "system": shown.system,
        }
        is_new = row is None or any(getattr(row, name) != value for name, value in fresh.items())
        session.get_one(BuildRow, UUID(case.fitted.id)).read = _identities(shown)
        row = session.merge(ShownRow(machine_id=machine_id, at=act.at, **fresh))
        noted = list(_seen(case, shown, machine.decimal_mark))
        for line in noted:
            _note(session, line)
        if is_new or noted:
            announce(session, machine_id, "shown", machine_id)
        return _say(case, row)


def _identities(shown: Shown) -> dict[str, list[str]]:
    parts: dict[str, list[tuple[str, Mapping[str, object]]]] = {}
    for part in shown.parts:
        parts.setdefault(part.role, []).append((part.label, part.rated))
    return {role: list(texts) for role, texts in identities_of(parts).items()}


def as_identified(session: Session, case: Case) -> WordedShown | None:
    """What the machine showed when the agent last looked, if it was this build by then."""
    row = session.get(ShownRow, UUID(case.machine.id))
    if row is None or case.fitted is None or str(row.build_id) != case.fitted.id:
        return None
    return _say(case, row)


def _say(case: Case, row: ShownRow) -> WordedShown:
    build = case.build(str(row.build_id))  # type: ignore[arg-type]
    shown = Shown(tuple(ShownPart(**part) for part in row.parts), row.firmware, row.system)
    departs = (say_departure(departure, case.machine.decimal_mark) for departure in find_departures(build, shown))
    return WordedShown(row.at, build, tuple(departs))


def _seen(case: Case, shown: Shown, mark: DecimalMark) -> Iterator[Recognition]:
    """Lines of the case that is open which were not looked at, with what the machine shows of them."""
    build = case.fitted
    swap = next((s for s in case.swaps if s.state == "open" and build is not None and s.after == build.id), None)
    if swap is None or build is None:
        return
    told = _told(build, swap, shown)
    for line in swap.recognitions:
        seen = told.get(line.what)
        if line.result is None and not line.seen.strip() and seen is not None:
            result = judge_seen(line.what, line.expected, seen, mark)
            # A name is written in many ways: only the same one says something.
            if result is not None or not line.what.endswith(", name"):
                yield replace(line, seen=seen, result=result)


def _told(build: Build, swap: Swap, shown: Shown) -> dict[str, str]:
    """By what is looked at, what is shown; only of a role that both have one part of."""
    told = {}
    for part in shown.parts:
        if [p.role for p in build.parts].count(part.role) == [p.role for p in shown.parts].count(part.role) == 1:
            told[f"{part.role}, name"] = part.label
            for figure in PART_FIGURES[part.role]:
                if part.rated.get(figure.key) is not None:
                    told[f"{part.role}, {figure.label}"] = f"{part.rated[figure.key]} {figure.unit}".strip()
    expected = {line.what for line in swap.recognitions}
    return {what: seen for what, seen in told.items() if what in expected}


def _note(session: Session, line: Recognition) -> None:
    row = session.get_one(RecognitionRow, UUID(line.id))
    row.seen, row.result, row.version = line.seen, line.result, row.version + 1

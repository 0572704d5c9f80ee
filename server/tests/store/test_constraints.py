"""What the database itself refuses, whatever the program above it does."""

import json
from dataclasses import replace
from uuid import UUID, uuid4

import pytest
from sqlalchemy import Engine, text
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from lynxbill.core.record.frame import Case
from lynxbill.core.record.run import Run
from lynxbill.core.record.swap import Swap
from lynxbill.services.base.transaction import Sessions
from lynxbill.services.files.run_files import import_machine
from lynxbill.store.database import migrate, migration_config, open_engine, pending_revision, session_factory
from lynxbill.store.evidence import load_evidence
from lynxbill.store.kept import with_evidence
from lynxbill.store.snapshot import load_snapshot
from tests.conftest import ROOT

DEMO = (ROOT / "demo" / "fenwick-1-plotting-pc.json").read_bytes()


@pytest.fixture(scope="module")
def machine(sessions: Sessions) -> UUID:
    return import_machine(sessions, DEMO)


REFUSED = {
    "a ratio reading of zero": "UPDATE readings SET low = 0 WHERE scale = 'ratio'",
    "a reading that is not a number": "UPDATE readings SET high = 'NaN'",
    "an infinite reading": "UPDATE readings SET high = 'Infinity'",
    "a scale that is not the measure's": "UPDATE readings SET scale = 'difference' WHERE scale = 'ratio'",
    "a failed run without a reason": "UPDATE runs SET reason = NULL WHERE state = 'failed'",
    "a failed run with a blank reason": "UPDATE runs SET reason = '  ' WHERE state = 'failed'",
    "a state that does not exist": "UPDATE runs SET state = 'fine'",
    "two runs in one place": "UPDATE runs SET position = 1",
    "a run without a sitting": "DELETE FROM sittings",
    "two sittings in one place": "UPDATE sittings SET position = 1",
    "a swap to the same build": "UPDATE swaps SET after_id = before_id",
    "a negative amount": "UPDATE costs SET amount = -1",
    "a likely amount outside its range": "UPDATE costs SET low = amount + 1, high = amount + 2",
    "a margin of nothing": "UPDATE planned_measures SET matters_from = 0",
    "two open plans": "UPDATE plans SET swap_id = NULL",
    "other settings on a sealed build": "UPDATE builds SET settings = '{\"threads\": 99}'",
    "a part taken out of a sealed build": "DELETE FROM build_parts",
    "a part of a sealed build made another": "UPDATE parts SET label = 'faster'",
    "a whole that is its own part": "UPDATE measures SET part_of = id",
    "a swap in a state that does not exist": "UPDATE swaps SET state = 'lost'",
    "an open case without its date": "UPDATE swaps SET state = 'open', opened_at = NULL",
    "a candidate with a negative price": "UPDATE candidates SET price = -1",
    "a plan that rests for less than no time": "UPDATE plans SET rest_min = -1",
    "a currency that is none": "UPDATE machines SET currency = 'euro'",
}


@pytest.mark.parametrize("statement", REFUSED.values(), ids=REFUSED.keys())
def test_the_database_refuses(sessions: Sessions, machine: UUID, statement: str) -> None:
    with pytest.raises(DBAPIError):
        _execute(sessions, statement)


def whole(session: Session, machine: UUID) -> Case:
    """A machine with every run, read afresh."""
    frame = load_snapshot(session, machine).frame
    return with_evidence(frame, load_evidence(session, frame, None).runs, None)


def _execute(sessions: Sessions, *statements: str) -> None:
    with sessions.begin() as session:
        for statement in statements:
            session.execute(text(statement))


def test_a_recognition_passes_only_with_what_was_seen_and_a_remark_where_it_differs(sessions: Sessions) -> None:
    machine = import_machine(sessions, (ROOT / "demo" / "fenwick-3-scanner-room-tower.json").read_bytes())
    assert machine
    for statement in (
        "UPDATE recognitions SET result = 'pass', seen = ' '",
        "UPDATE recognitions SET result = 'pass with remark', seen = 'x', remark = ''",
        "UPDATE steps SET text = ' '",
        "UPDATE starts SET rework_min = -1",
        "UPDATE bench_notes SET picture_type = 'image/png'",
    ):
        with pytest.raises(DBAPIError):
            _execute(sessions, statement)


def test_a_build_without_runs_may_still_be_corrected(sessions: Sessions) -> None:
    machine, build = uuid4(), uuid4()
    _execute(
        sessions,
        "INSERT INTO machines (id, name, owner, question, currency, decimal_mark, time_zone) "
        f"VALUES ('{machine}', 'x', '', '', 'EUR', '.', 'UTC')",
        "INSERT INTO builds (id, machine_id, letter, label, position, settings) "
        f"VALUES ('{build}', '{machine}', 'A', 'x', 1, '{{}}')",
        f"UPDATE builds SET settings = '{{\"threads\": 2}}' WHERE id = '{build}'",
    )


def test_tables_and_migrations_agree_and_lead_back(new_database: object) -> None:
    from alembic import command

    engine: Engine = open_engine(new_database())  # type: ignore[operator]
    migrate(engine)
    migrate(engine)
    command.check(migration_config(engine))
    command.downgrade(migration_config(engine), "base")
    migrate(engine)
    engine.dispose()


def held(case: Case) -> list[tuple[object, ...]]:
    """What every program knew of a sitting."""
    return [(s.id, s.build_id, s.purpose, s.started_at, s.ambient_c, s.conditions) for s in case.sittings]


def made(case: Case) -> list[Run]:
    """Runs as every program knew them: without their conditions, and without which figure of its kind one is."""
    return [
        replace(run, conditions={}, readings={k: replace(r, statistic=None) for k, r in run.readings.items()})
        for run in case.runs
    ]


def shown(swap: Swap) -> dict[str, set[str]]:
    """What every program knew of verdicts that were given: of measures that are claimed or held alone."""
    entries = [entry for entry in swap.shown or () if entry.compared is None]
    roles = swap.plan.measures
    return {e.measure: set(e.sittings) for e in entries if roles[e.measure].role != "watch"}


def costs(swap: Swap) -> list[tuple[object, ...]]:
    """What every program knew of cost lines: whole amounts, and none that grows with the years."""
    return [
        (line.kind, line.label, line.amount * (line.quantity or 1), line.low, line.high)
        for line in swap.costs
        if line.running is None
    ]


@pytest.mark.nightly
def test_migrations_lead_up_and_down_over_data(new_database: object) -> None:
    from alembic import command

    from lynxbill.demo import load_demo

    engine: Engine = open_engine(new_database())  # type: ignore[operator]
    migrate(engine)
    sessions = session_factory(engine)
    load_demo(sessions)
    with sessions() as session:
        ids = session.scalars(text("SELECT id FROM machines ORDER BY name")).all()
    with sessions() as session:
        before = [whole(session, machine) for machine in ids]
    command.downgrade(migration_config(engine), "0001")
    assert pending_revision(engine) == "0001"
    migrate(engine)
    assert pending_revision(engine) is None
    with sessions() as session:
        after = [whole(session, machine) for machine in ids]
    assert [made(case) for case in after] == [made(case) for case in before]
    assert [held(case) for case in after] == [held(case) for case in before]
    for old, new in zip(before, after, strict=True):
        assert [(s.before, s.after, costs(s)) for s in new.swaps] == [
            (s.before, s.after, costs(s)) for s in old.swaps
        ]
        assert [shown(swap) for swap in new.swaps] == [shown(swap) for swap in old.swaps]
        assert {entry.level for swap in new.swaps for entry in swap.shown or ()} <= {0.95}
        assert all(sitting.closed_at is not None for sitting in new.sittings)
        assert [sorted(s.declares) for s in new.swaps] == [sorted(s.declares) for s in old.swaps]
        assert all(swap.state == "closed" for swap in new.swaps)
    engine.dispose()


def test_a_database_that_holds_impossible_dates_can_be_read_again(new_database: object) -> None:
    from alembic import command

    engine: Engine = open_engine(new_database())  # type: ignore[operator]
    migrate(engine)
    sessions = session_factory(engine)
    machine = import_machine(sessions, DEMO)
    with sessions() as session:
        before = whole(session, machine)
    command.downgrade(migration_config(engine), "0003")
    _execute(
        sessions,
        "UPDATE sittings SET started_at = '10000-01-01T04:00:00Z' WHERE position = 1",
        "UPDATE sittings SET started_at = '0001-12-31T19:00:00Z BC' WHERE position = 2",
        "UPDATE runs SET started_at = '10000-01-01T04:00:00Z' WHERE position = 1",
        "UPDATE swaps SET opened_at = '10000-01-01T04:00:00Z'",
    )
    migrate(engine)
    with sessions() as session:
        after = whole(session, machine)
    assert {sitting.id for sitting in after.sittings} == {sitting.id for sitting in before.sittings}
    assert {sitting.started_at.year for sitting in after.sittings} <= {1970, 2026, 2199}
    assert {run.id: run.readings for run in after.runs} == {run.id: run.readings for run in before.runs}
    engine.dispose()


def test_figures_made_from_told_sensors_are_marked_as_told_by_the_migration(new_database: object) -> None:
    from alembic import command

    engine: Engine = open_engine(new_database())  # type: ignore[operator]
    migrate(engine)
    sessions = session_factory(engine)
    file = {
        "format": "lynxbill-runs",
        "version": 1,
        "machine": {"name": "Bench", "currency": "EUR"},
        "measures": [
            {"id": name, "name": name, "workload": "soak", "unit": "Cel", "scale": "difference", "kind": "heat"}
            | {"better": "lower", "part_of": None if name == "die" else "die"}
            | {"combined_by": "highest" if name == "die" else None}
            for name in ("die", "one", "two")
        ],
        "builds": [{"id": "A", "label": "A"}],
        "sittings": [{"id": "s", "build": "A", "started_at": "2026-05-04T09:10:00Z"}],
        "runs": [
            {"id": f"r{n}", "sitting": "s", "workload": "soak", "workload_version": "1", "position": n}
            | {"state": "complete", "readings": {"die": 66.5, "one": 61.0, "two": two}}
            for n, two in enumerate((66.5, {"value": 66.5, "source": "claimed"}, {"value": 66.5, "about": True}), 1)
        ],
    }
    machine = import_machine(sessions, json.dumps(file).encode())
    command.downgrade(migration_config(engine), "0004")
    migrate(engine)
    with sessions() as session:
        case = whole(session, machine)
    die = next(measure.id for measure in case.measures if measure.name == "die")
    marks = [(run.readings[die].source, run.readings[die].about) for run in case.runs]
    assert marks == [(None, False), ("claimed", False), (None, True)]
    engine.dispose()


def test_instants_out_of_their_years_are_brought_into_them_and_told(
    new_database: object, caplog: pytest.LogCaptureFixture
) -> None:
    from alembic import command

    engine: Engine = open_engine(new_database())  # type: ignore[operator]
    migrate(engine)
    file = {
        "format": "lynxbill-runs",
        "version": 1,
        "machine": {"name": "Bench", "currency": "EUR"},
        "builds": [{"id": "A", "label": "A"}],
        "sittings": [{"id": f"s{n}", "build": "A", "started_at": "2026-05-04T09:10:00Z"} for n in (1, 2)],
    }
    machine = import_machine(session_factory(engine), json.dumps(file).encode())
    command.downgrade(migration_config(engine), "0032")
    with engine.begin() as connection:
        for wrong, position in (("2200-01-01T09:00:00Z", 1), ("1969-12-31T19:00:00Z", 2)):
            connection.execute(
                text("UPDATE sittings SET started_at = :at WHERE position = :n"), {"at": wrong, "n": position}
            )
    migrate(engine)
    told = caplog.text
    assert told.count("sittings.started_at: ") == 2
    assert "2200" in told
    with session_factory(engine)() as session:
        years = sorted(sitting.started_at.year for sitting in whole(session, machine).sittings)
    assert years == [1970, 2199]
    engine.dispose()

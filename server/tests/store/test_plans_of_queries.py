"""Every hot query finds its evidence by an index that begins with the machine or the sitting, never by a scan."""

import re
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from typing import Any
from uuid import UUID

import pytest
from sqlalchemy import Engine, event, text
from sqlalchemy.orm import Session

from lynxbill.api.wire.describe import KeptForm
from lynxbill.api.wire.spoken import write_comparison, write_comparisons
from lynxbill.cluster import Cluster
from lynxbill.services.base.act import Act
from lynxbill.services.base.transaction import Sessions
from lynxbill.services.base.transaction import reading as at_one_moment
from lynxbill.services.evidence.entries import Entry, Typed
from lynxbill.services.evidence.runs import save_run
from lynxbill.services.files.run_files import import_machine
from lynxbill.services.frame.machines import list_runs, view_machine
from lynxbill.services.verdicts.benches import renew_line
from lynxbill.services.verdicts.comparisons import compare, compare_all, note_shown
from lynxbill.services.verdicts.jobs import view_job
from lynxbill.store import kept
from lynxbill.store.database import open_engine, session_factory
from lynxbill.store.kept import read_case
from tests.conftest import ROOT

DEMO = (ROOT / "demo" / "fenwick-1-plotting-pc.json").read_bytes()
EVIDENCE = ("runs", "readings", "sheets")
MANY = 60
ACT = Act("a test", datetime(2026, 5, 4, tzinfo=UTC))
Sent = tuple[str, Any]


@pytest.fixture(scope="module")
def crowded(migrated_database: Callable[[], str], cluster: Cluster) -> Iterator[tuple[Engine, Sessions, UUID]]:
    """A database in which one machine's evidence is a small part of all, as the planner has to know."""
    engine = open_engine(url := migrated_database())
    sessions = session_factory(engine)
    machine = import_machine(sessions, DEMO)
    # Only who made the cluster may switch the rules between rows off.
    master = open_engine(f"{cluster.chores_url.rpartition('/')[0]}/{url.rpartition('/')[2]}")
    with session_factory(master).begin() as session:
        _multiply(session)
    master.dispose()
    with engine.connect().execution_options(isolation_level="AUTOCOMMIT") as connection:
        connection.execute(text("VACUUM ANALYZE"))
    yield engine, sessions, machine
    engine.dispose()


def _multiply(session: Session) -> None:
    """Sixty more machines with the same evidence: rows alone, the rules between them switched off."""
    session.execute(text("SET session_replication_role = replica"))
    copies = f"generate_series(1, {MANY}) AS copy"
    for table, keys in (
        ("runs", ("id", "machine_id", "sitting_id")),
        ("readings", ("run_id", "machine_id", "sitting_id")),
        ("sheets", ("sitting_id", "machine_id")),
    ):
        columns = session.scalars(
            text("SELECT column_name FROM information_schema.columns WHERE table_name = :table"), {"table": table}
        ).all()
        values = [f"md5({c}::text || copy)::uuid" if c in keys else f'"{c}"' for c in columns]
        names = ", ".join(f'"{c}"' for c in columns)
        session.execute(text(f"INSERT INTO {table} ({names}) SELECT {', '.join(values)} FROM {table}, {copies}"))
    session.execute(text("SET session_replication_role = origin"))


@contextmanager
def statements(engine: Engine) -> Iterator[list[Sent]]:
    """What is asked of the database meanwhile, as it is sent."""
    sent: list[Sent] = []

    def note(_c: object, _cursor: object, statement: str, parameters: object, *_: object) -> None:
        sent.append((statement, parameters))

    event.listen(engine, "before_cursor_execute", note)
    yield sent
    event.remove(engine, "before_cursor_execute", note)


def _save(sessions: Sessions, machine: UUID) -> None:
    with at_one_moment(sessions) as session:
        frame = read_case(session, machine)
    evidence = list_runs(sessions, machine, (), {frame.sittings[0].id})
    run = evidence.runs[0]
    workload = next(w for w in frame.workloads if w.name == run.workload)
    again = {key: Typed(f"{reading.low + 0.1:.6f}") for key, reading in run.readings.items()}
    save_run(sessions, ACT, machine, Entry(UUID(workload.id), run, again, evidence.versions[run.id]))


ASKED: dict[str, Callable[[Sessions, UUID], object]] = {
    "a line of home": lambda sessions, machine: renew_line(sessions, machine, KeptForm()),
    "a machine": view_machine,
    "job facts": lambda sessions, machine: view_job(sessions, machine, write_comparison),
    "a comparison": lambda sessions, machine: compare(sessions, machine, None, None, write_comparison),
    "every comparison": lambda sessions, machine: compare_all(sessions, machine, write_comparisons),
    "the runs of a sitting": lambda sessions, machine: list_runs(
        sessions, machine, (), {_sitting(sessions, machine)}
    ),
    "a saved reading": _save,
    "a verdict that was shown": lambda sessions, machine: _show(sessions, machine),
}


def _show(sessions: Sessions, machine: UUID) -> None:
    view = view_machine(sessions, machine)
    swap, counts = view.case.swaps[-1], view.counts
    seen = counts.revision, counts.evidence_revision
    note_shown(sessions, ACT, machine, (swap.before, swap.after), [UUID(m.id) for m in view.case.measures], seen)


def _sitting(sessions: Sessions, machine: UUID) -> str:
    return view_machine(sessions, machine).case.sittings[0].id


@pytest.mark.parametrize("question", ASKED)
def test_no_question_scans_evidence(crowded: tuple[Engine, Sessions, UUID], question: str) -> None:
    engine, sessions, machine = crowded
    # As a server process asks that has read nothing of the machine yet.
    kept._kept.clear()
    with sessions.begin() as session:
        session.execute(text("DELETE FROM answers"))
        session.execute(text("DELETE FROM lines"))
    with statements(engine) as sent:
        ASKED[question](sessions, machine)
    touching = [
        (statement, parameters)
        for statement, parameters in sent
        if statement.lstrip().upper().startswith(("SELECT", "UPDATE", "DELETE"))
        and any(re.search(rf"\b{table}\b", statement) for table in EVIDENCE)
    ]
    assert touching, "nothing of the evidence was asked for"
    with engine.connect() as connection:
        for statement, parameters in touching:
            plan = connection.exec_driver_sql(f"EXPLAIN {statement}", parameters).scalars().all()
            scans = [line for line in plan if re.search(rf"Seq Scan on ({'|'.join(EVIDENCE)})\b", line)]
            assert not scans, f"{statement}\n" + "\n".join(plan)

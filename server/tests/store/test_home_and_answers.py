"""Home reads lines that are kept, and what was computed is kept for all, until the machine or the program changes."""

import json
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from datetime import date
from itertools import count
from typing import Any
from uuid import UUID, uuid4

import pytest
from sqlalchemy import text

from lynxbill.api.wire.describe import KeptForm
from lynxbill.api.wire.spoken import write_comparison, write_comparisons
from lynxbill.core.plan.progress import tally_builds
from lynxbill.core.plan.stage import find_job_state
from lynxbill.core.record.build import Build, Part
from lynxbill.core.record.frame import Machine
from lynxbill.core.record.ids import BuildId, MachineId
from lynxbill.core.terms.measure import Measure
from lynxbill.core.value.bill import judge_and_bill
from lynxbill.exchange.run_file import read_run_file
from lynxbill.services.base import answers
from lynxbill.services.base.answers import answer
from lynxbill.services.base.transaction import Sessions
from lynxbill.services.files.run_files import import_machine
from lynxbill.services.frame.builds import save_build
from lynxbill.services.frame.machines import erase_machine, save_machine
from lynxbill.services.verdicts import comparisons
from lynxbill.services.verdicts.benches import PAGE, Line, find_stale, read_home, renew_line
from lynxbill.services.verdicts.comparisons import compare, compare_all, outcome_of
from lynxbill.store import answers as kept_answers
from lynxbill.store.answers import lock_line
from lynxbill.store.benches import Show
from lynxbill.store.database import announce, open_engine, session_factory
from lynxbill.words.results.results import say_result
from tests.builders import make_case
from tests.conftest import ROOT
from tests.store.test_plans_of_queries import statements

DEMO = ROOT / "demo"


@pytest.fixture
def shop(migrated_database: Callable[[], str]) -> Iterator[Sessions]:
    engine = open_engine(migrated_database())
    yield session_factory(engine)
    engine.dispose()


def described(sessions: Sessions, name: str, owner: str = "", part: str | None = None) -> UUID:
    machine = uuid4()
    save_machine(sessions, Machine(MachineId(str(machine)), name, "EUR", owner=owner), None)
    if part:
        save_build(
            sessions,
            machine,
            Build(BuildId(str(uuid4())), "A", "as received", (Part(str(uuid4()), "drive", part),)),
            None,
        )
    return machine


class Written(KeptForm):
    """What is kept of a machine, with its line as a test has it."""

    def __init__(self, line: Callable[[Line], str]):
        self.line = line  # type: ignore[assignment]


def set_state(sessions: Sessions, machine: UUID, job_state: str | None, due_on: str = "{}") -> None:
    """A line as if it had been written for a machine at a stand."""
    renew_line(sessions, machine, Written(lambda line: "{}"))
    with sessions.begin() as session:
        values = {"job_state": job_state, "due": due_on, "id": machine}
        session.execute(text("UPDATE lines SET job_state = :job_state, due_on = :due WHERE machine_id = :id"), values)


def names(sessions: Sessions, find: str = "", page: int = 1) -> list[str]:
    return [bench.name for bench in read_home(sessions, day=None, find=find, page=page).benches]


def test_a_search_finds_by_name_owner_and_part_and_wants_every_word(shop: Sessions) -> None:
    described(shop, "Plotting PC", "Fenwick Map Room", "Ostrel Grey 512 GB")
    described(shop, "Field laptop", "Fenwick Map Room", "Marl 100% flash")
    described(shop, "Scanner tower", "Reed & Daughter", "Ostrel Green")
    assert names(shop) == ["Plotting PC", "Field laptop", "Scanner tower"]
    assert names(shop, "fenwick") == ["Plotting PC", "Field laptop"]
    assert names(shop, "ostrel") == ["Plotting PC", "Scanner tower"]
    assert names(shop, "  ostrel  map ") == ["Plotting PC"]
    # What stands for anything in the database's own patterns stands for itself here.
    assert names(shop, "100%") == ["Field laptop"]
    assert names(shop, "%") == ["Field laptop"]
    assert names(shop, "_") == []


def test_pages_follow_each_other_and_count_what_was_found(shop: Sessions) -> None:
    for number in range(PAGE + 7):
        described(shop, f"Machine {number:03}")
    assert names(shop) == [f"Machine {number:03}" for number in range(PAGE)]
    assert names(shop, page=2) == [f"Machine {number:03}" for number in range(PAGE, PAGE + 7)]
    assert names(shop, page=3) == []
    home = read_home(shop, day=None, find="Machine 05", page=1)
    assert (home.found, home.totals.machines) == (8, PAGE + 7)


def test_who_waits_is_counted_over_all_machines_and_by_the_day_that_is_asked_for(shop: Sessions) -> None:
    machines = [described(shop, name) for name in ("finished", "half measured", "lies open", "to be checked")]
    for machine, job_state in zip(machines, ("judged", "baseline", "open", "judged"), strict=True):
        set_state(shop, machine, job_state, "{2027-05-05,2028-05-05}" if machine == machines[3] else "{}")
    early, late = (read_home(shop, day=date(2027, 5, day), find="lies", page=1) for day in (4, 5))
    assert (early.totals.waiting, late.totals.waiting) == (2, 3)
    assert (early.totals.due, early.totals.resting, late.totals.due, late.totals.resting) == (0, 2, 1, 1)
    assert (early.totals.rechecks, early.totals.next_due) == (2, date(2027, 5, 5))
    assert early.first is not None
    assert early.first.name == "lies open"
    set_state(shop, machines[2], "judged")
    after = read_home(shop, day=date(2027, 5, 4), find="", page=1)
    assert after.first is not None
    assert after.first.name == "half measured"


def test_those_that_wait_come_first_and_can_be_shown_alone(shop: Sessions) -> None:
    called = "finished", "half measured", "lies open", "to be checked", "unread"
    machines = [described(shop, name) for name in called]
    for machine, job_state in zip(machines[:4], ("judged", "baseline", "open", "judged"), strict=True):
        set_state(shop, machine, job_state, "{2027-05-05}" if machine == machines[3] else "{}")

    def shown(show: Show, find: str = "") -> list[str]:
        home = read_home(shop, day=date(2027, 5, 5), find=find, page=1, show=show)
        assert home.found == len(home.benches)
        return [bench.name for bench in home.benches]

    assert shown("all") == ["lies open", "half measured", "to be checked", "finished", "unread"]
    assert shown("waiting") == ["lies open", "half measured", "to be checked"]
    assert shown("due") == ["to be checked"]
    assert shown("resting") == ["finished"]
    assert shown("waiting", "half") == ["half measured"]


def test_home_reads_lines_alone(shop: Sessions) -> None:
    import_machine(shop, (DEMO / "fenwick-1-plotting-pc.json").read_bytes())
    with statements(shop.kw["bind"]) as sent:
        read_home(shop, day=None, find="ostrel", page=1)
    tables = {word for statement, _ in sent for word in statement.split() if word in TABLES}
    assert tables == {"machines", "lines", "parts"}


TABLES = (
    "machines",
    "lines",
    "parts",
    "builds",
    "swaps",
    "plans",
    "sittings",
    "sheets",
    "runs",
    "readings",
    "answers",
)


def test_a_line_is_stale_for_another_state_or_program_and_nothing_else(
    shop: Sessions, monkeypatch: pytest.MonkeyPatch
) -> None:
    machine = described(shop, "Plotting PC")
    (bench,) = read_home(shop, day=None, find="", page=1).benches
    assert (bench.holds, bench.content, find_stale(shop)) == (False, None, [machine])
    renew_line(shop, machine, Written(lambda line: f"at {line.job_state}"))
    (bench,) = read_home(shop, day=None, find="", page=1).benches
    assert (bench.holds, bench.content, find_stale(shop)) == (True, "at set up", [])
    with shop.begin() as session:
        announce(session, machine, "machine", machine)
    (bench,) = read_home(shop, day=None, find="", page=1).benches
    assert (bench.holds, bench.content, find_stale(shop)) == (False, "at set up", [machine])
    renew_line(shop, machine, Written(lambda line: "again"))
    monkeypatch.setattr(kept_answers, "fingerprint", lambda: "another program")
    assert find_stale(shop) == [machine]
    # What another program wrote is not read: it may say what this one does not know.
    monkeypatch.undo()
    with shop.begin() as session:
        session.execute(text("UPDATE lines SET program = 'an older one', content = '{\"swap\": 7}'"))
    (bench,) = read_home(shop, day=None, find="", page=1).benches
    assert (bench.holds, bench.content) == (False, None)


def test_one_process_at_a_time_writes_a_line_and_what_changes_meanwhile_leaves_it_stale(shop: Sessions) -> None:
    machine = described(shop, "Plotting PC")
    written: list[str] = []

    def write(line: Any) -> str:
        written.append(line.job_state)
        with shop.begin() as session:
            announce(session, machine, "machine", machine)
        return "{}"

    with shop.begin() as other:
        assert lock_line(other, machine)
        renew_line(shop, machine, Written(write))
    assert written == []
    renew_line(shop, machine, Written(write))
    assert (written, find_stale(shop)) == (["set up"], [machine])


def test_what_cannot_be_read_is_said_to_be_so_and_not_tried_again_until_it_changes(shop: Sessions) -> None:
    machine = described(shop, "Plotting PC")

    def fail(_line: object) -> str:
        raise ZeroDivisionError

    renew_line(shop, machine, Written(fail))
    (bench,) = read_home(shop, day=None, find="", page=1).benches
    assert (bench.holds, bench.content, find_stale(shop)) == (True, None, [])


def test_an_answer_is_computed_once_for_all_processes_until_machine_or_program_change(
    migrated_database: Callable[[], str], monkeypatch: pytest.MonkeyPatch
) -> None:
    address = migrated_database()
    engines = [open_engine(address) for _ in range(2)]
    one, other = (session_factory(engine) for engine in engines)
    machine = described(one, "Plotting PC")
    numbers = count(1)

    def ask(sessions: Sessions) -> str:
        return answer(sessions, machine, "how many", lambda: {"how many": f"asked {next(numbers)} times"})

    assert [ask(one), ask(other), ask(one)] == ["asked 1 times"] * 3
    with one.begin() as session:
        announce(session, machine, "machine", machine)
    assert [ask(other), ask(one)] == ["asked 2 times"] * 2
    monkeypatch.setattr(kept_answers, "fingerprint", lambda: "another program")
    assert [ask(one), ask(other)] == ["asked 3 times"] * 2
    erase_machine(one, machine)
    assert ask(one) == "asked 4 times"
    for engine in engines:
        engine.dispose()


def test_those_who_ask_the_same_at_once_wait_for_one_answer(shop: Sessions) -> None:
    machine = described(shop, "Plotting PC")
    numbers = count(1)

    def compute() -> dict[str, str]:
        return {"how many": str(next(numbers))}

    with ThreadPoolExecutor(8) as askers:
        asked = [
            askers.submit(answer, shop, machine, "how many", lambda: {"how many": str(next(numbers))})
            for _ in range(8)
        ]
        assert {each.result() for each in asked} == {"1"}
    assert not answers._turns


def test_an_older_state_never_takes_the_place_of_a_newer_one(shop: Sessions) -> None:
    machine = described(shop, "Plotting PC")
    with shop() as session:
        early = kept_answers.read_stamp(session, machine)
    with shop.begin() as session:
        announce(session, machine, "machine", machine)
    with shop() as session:
        late = kept_answers.read_stamp(session, machine)
    assert early is not None
    assert late is not None
    for stamp, content in ((late, "new"), (early, "old")):
        with shop.begin() as session:
            kept_answers.keep_answer(session, machine, "which", stamp, content)
    with shop() as session:
        assert kept_answers.find_answer(session, machine, "which") == "new"


def test_a_verdict_that_is_kept_is_not_judged_again_for_anybody(
    shop: Sessions, monkeypatch: pytest.MonkeyPatch
) -> None:
    machine = import_machine(shop, (DEMO / "fenwick-1-plotting-pc.json").read_bytes())

    def ask() -> tuple[str, str]:
        return compare(shop, machine, None, None, write_comparison), compare_all(shop, machine, write_comparisons)

    first = ask()

    def refuse(*_: object) -> None:
        raise AssertionError("judged again")

    monkeypatch.setattr(comparisons, "judge_and_bill", refuse)
    monkeypatch.setattr(comparisons, "judge_every_swap", refuse)
    assert ask() == first
    swap = json.loads(first[0])
    outcome = outcome_of(shop, machine, swap["before"], swap["after"], write_comparison)
    case = read_run_file((DEMO / "fenwick-1-plotting-pc.json").read_bytes())
    lead = judge_and_bill(case, BuildId(swap["before"]), BuildId(swap["after"])).comparison.lead
    assert lead is not None
    worded = say_result(lead, case.machine.decimal_mark)
    assert (outcome.gain_percent, outcome.known) == (lead.gain_percent, worded.known)
    assert outcome.bundle == swap["worded"]["bundle"]


def test_a_job_stands_where_its_newest_swap_and_its_plan_say() -> None:
    def state_of(before: int, after: int, **swap: Any) -> str:
        side = [[40.0, 40.2]]
        case = make_case(side * before, side * after, sittings_a_side=2, runs_a_sitting=2)
        if swap.get("state") is None:
            case = replace(case, swaps=(), builds=case.builds[:1], open_plan=case.swaps[0].plan)
        else:
            case = replace(case, swaps=(replace(case.swaps[0], **swap),))
        return find_job_state(case, tally_builds(case))

    assert [state_of(1, 0), state_of(2, 0)] == ["baseline", "swap"]
    assert [state_of(2, 0, state="planned"), state_of(2, 0, state="open")] == ["planned", "open"]
    assert [state_of(2, 1, state="closed"), state_of(2, 2, state="closed")] == ["after", "judged"]
    bare = replace(make_case([[40.0]], []), swaps=(), measures=tuple[Measure, ...](), runs=())
    assert find_job_state(bare, tally_builds(bare)) == "set up"

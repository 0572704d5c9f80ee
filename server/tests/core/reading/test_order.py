"""The order of sittings: by writing, notes by their dates, and what was typed sooner than it can have been made."""

from dataclasses import replace
from datetime import datetime, timedelta
from itertools import permutations

import pytest

from lynxbill.core.plan.progress import progress_of
from lynxbill.core.reading.order import first_writings, is_from_notes, order_of, swap_across, typed_too_soon
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import BuildId, SittingId, SwapId
from lynxbill.core.record.ledger_entries import Showing
from lynxbill.core.record.run import Reading, Run, Sitting
from lynxbill.core.record.swap import Swap
from lynxbill.core.result.comparison import judge
from lynxbill.core.terms.measure import MeasureId
from tests.builders import DAY, TIME, B, C, make_case, make_run

NOW = DAY + timedelta(days=500)
HOUR, MINUTE = timedelta(hours=1), timedelta(minutes=1)
SLOW = [[40.0, 40.2, 40.1], [40.3, 40.1, 40.2], [40.1, 40.0, 40.2]]
FAST = [[30.0, 30.2, 30.1], [30.3, 30.1, 30.2], [30.1, 30.0, 30.2]]


def a_sitting(name: str, held: datetime, *, notes: bool = False, read: bool = False) -> Sitting:
    purpose, by = ("earlier" if notes else "plan"), ("read" if read else "answered")
    return Sitting(SittingId(name), C, purpose, held, boot=name, boot_by=by)  # type: ignore[arg-type]


def run_of(name: str, written: datetime | None, position: int = 1) -> Run:
    return make_run(name, position, 30.0, written_at=written)


def names(sittings: list[Sitting], runs: list[Run], shown_at: datetime | None = None) -> str:
    return "".join(s.id for s in order_of(sittings, runs, shown_at).sort(sittings))


def test_what_is_typed_stands_by_its_writing_whatever_date_it_is_given() -> None:
    first, second = a_sitting("a", NOW), a_sitting("b", NOW - timedelta(days=90))
    runs = [run_of("a", NOW), run_of("b", NOW + HOUR)]
    assert names([second, first], runs) == "ab"
    assert names([second, first], [run_of("a", None), run_of("b", None)]) == "ba", "where no times were kept, by date"
    emptied = [replace(run_of("b", NOW - HOUR), readings={}), *runs]
    assert names([first, second], emptied) == "ba", "a reading that was taken back was read"
    assert first_writings(emptied)[SittingId("b")] == NOW - HOUR


def test_what_the_agent_measured_stands_by_when_it_was_measured() -> None:
    typed, measured = a_sitting("a", NOW), a_sitting("b", NOW - HOUR, read=True)
    assert names([typed, measured], [run_of("a", NOW), run_of("b", NOW + HOUR)]) == "ba"


def test_notes_stand_by_date_until_something_was_shown_and_by_writing_after_it() -> None:
    days = [NOW - timedelta(days=n) for n in (30, 20, 10)]
    held = [a_sitting(name, day, notes=True) for name, day in zip("abc", days, strict=True)]
    for typed in permutations("abc"):
        runs = [run_of(name, NOW + n * MINUTE) for n, name in enumerate(typed)]
        assert names(held, runs) == "abc"
        # Shown when two of them were there: the third was typed in the light of it.
        late = typed[2]
        assert names(held, runs, NOW + 1.5 * MINUTE) == "".join(sorted(typed[:2])) + late
    assert is_from_notes(held[0])
    live = a_sitting("z", NOW + 2 * HOUR)
    runs = [run_of("a", NOW + 3 * HOUR), run_of("z", NOW + 2 * HOUR)]
    assert names([held[0], live], runs) == "za", "the batch stands where it was first written"


def test_two_sittings_are_typed_too_soon_where_their_runs_alone_last_longer() -> None:
    sittings = [a_sitting(name, NOW) for name in "abc"]

    def soon(gap: timedelta, *, rest: float = 0.0, lasted: float | None = 40.0) -> str:
        runs = [
            replace(run_of(name, NOW + n * gap, position), duration_s=lasted)
            for n, name in enumerate("abc")
            for position in (1, 2, 3)
        ]
        return "".join(sorted(typed_too_soon(sittings, runs, rest)))

    assert soon(timedelta(seconds=119)) == "bc"
    assert soon(timedelta(seconds=120)) == ""
    assert soon(timedelta(seconds=239), rest=1.0) == "bc"
    assert soon(timedelta(seconds=240), rest=1.0) == ""
    assert soon(timedelta(0), lasted=None) == ""
    runs = [replace(run_of(name, NOW), duration_s=40.0) for name in "abc"]
    assert typed_too_soon([replace(s, boot_by="read") for s in sittings], runs, 0.0) == frozenset()
    assert typed_too_soon([replace(s, purpose="earlier") for s in sittings], runs, 0.0) == frozenset()


def written(case: Case, gap: timedelta) -> Case:
    """All sittings typed live one after another, each run of a sitting at once, restarts answered."""
    at = {sitting.id: NOW + n * gap for n, sitting in enumerate(case.sittings)}
    sittings = tuple(
        replace(s, started_at=at[s.id], closed_at=at[s.id] + gap / 2, boot_by="answered") for s in case.sittings
    )
    return replace(case, sittings=sittings, runs=tuple(replace(r, written_at=at[r.sitting_id]) for r in case.runs))


@pytest.mark.parametrize(("gap", "grade"), [(HOUR, "block_order"), (50 * timedelta(seconds=1), "boots_unknown")])
def test_sittings_typed_in_a_minute_have_no_restart_that_anybody_knows_of(gap: timedelta, grade: str) -> None:
    (result,) = judge(written(make_case(SLOW, FAST), gap)).measures
    assert (result.verdict.word, result.grade) == ("real_gain", grade)
    assert ("boots_unknown" in {flag.code for flag in result.flags}) == (grade == "boots_unknown")


def test_a_sitting_dated_earlier_enters_no_look_that_was_shown() -> None:
    """Three bad sittings were shown; a fourth, dated before them, would have made the look another one."""
    case = written(make_case(SLOW, [*[[41.0, 41.2, 41.1]] * 3, FAST[0]], sittings_a_side=3), HOUR)
    last = case.sittings[-1]
    early = replace(last, started_at=case.sittings[3].started_at - MINUTE)
    moved = replace(case, sittings=(*case.sittings[:-1], early))
    results = [judge(one).measures[0] for one in (case, moved)]
    assert [last.id in result.sittings for result in results] == [False, False]
    swap = case.swaps[0]
    entry = Showing(TIME.id, last.started_at - HOUR / 4, 1, 0.95, "sittings", "real_loss", ())
    notes = replace(early, purpose="earlier")
    shown = replace(moved, sittings=(*case.sittings[:-1], notes), swaps=(replace(swap, shown=(entry,)),))
    assert last.id not in judge(shown).measures[0].sittings


def test_an_old_log_of_both_sides_may_be_typed_in_any_order() -> None:
    case = make_case(SLOW, FAST)
    swap = replace(case.swaps[0], opened_at=DAY + timedelta(days=50))
    order = [*reversed(case.sittings)]
    at = {sitting.id: NOW + n * HOUR for n, sitting in enumerate(order)}
    sittings = tuple(replace(s, purpose="earlier", closed_at=at[s.id] + MINUTE) for s in case.sittings)
    runs = tuple(replace(r, written_at=at[r.sitting_id]) for r in case.runs)
    (result,) = judge(replace(case, sittings=sittings, runs=runs, swaps=(swap,))).measures
    assert (result.verdict.word, result.terms.look, len(result.sides.before)) == ("real_gain", 1, 3)
    assert result.grade == "from_notes"


def test_what_is_typed_from_notes_after_a_chart_was_seen_stands_by_its_writing() -> None:
    """The three good days of notes come after a look at the bad ones: chosen knowing how it stood."""
    case = make_case(SLOW, [*[[41.0, 41.2, 41.1]] * 3, *FAST], sittings_a_side=3)
    after = [sitting.id for sitting in case.sittings[3:]]
    at = {s.id: NOW + n * HOUR for n, s in enumerate(case.sittings)}
    days = {**{s.id: DAY + timedelta(days=n) for n, s in enumerate(case.sittings)}}
    days |= {name: DAY + timedelta(days=n, hours=60) for n, name in enumerate((*after[3:], *after[:3]))}
    sittings = tuple(
        replace(s, purpose="earlier", started_at=days[s.id], closed_at=at[s.id] + MINUTE) for s in case.sittings
    )
    notes = replace(case, sittings=sittings, runs=tuple(replace(r, written_at=at[r.sitting_id]) for r in case.runs))
    opened = replace(notes.swaps[0], opened_at=DAY + timedelta(days=2, hours=40))
    looked = replace(opened, looked_at=at[after[3]] - MINUTE)
    (fresh,), (seen,) = (judge(replace(notes, swaps=(swap,))).measures for swap in (opened, looked))
    assert (fresh.verdict.word, seen.verdict.word) == ("real_gain", "real_loss")


def test_the_day_of_a_sitting_is_held_against_those_of_the_swaps() -> None:
    case = make_case(SLOW, FAST)
    out = replace(case.swaps[0], opened_at=DAY + timedelta(days=50))
    back = Swap(SwapId("back"), C, B, "Back", out.plan, opened_at=DAY + timedelta(days=60))

    def across(build: BuildId, day: int, *swaps: Swap) -> Swap | None:
        sitting = replace(a_sitting("n", DAY + timedelta(days=day)), build_id=build)
        return swap_across(replace(case, swaps=swaps), sitting)

    assert [across(B, day, out) for day in (49, 50, 51)] == [None, None, out]
    assert [across(C, day, out) for day in (49, 50, 51)] == [out, None, None]
    assert [across(B, day, out, back) for day in (49, 55, 61)] == [None, None, None]
    assert [across(C, day, out, back) for day in (49, 55, 61)] == [out, None, back]
    assert across(C, 0, replace(out, opened_at=None)) is None


def test_a_failed_run_in_a_sitting_dated_before_the_swap_leaves_the_plan_as_it_is() -> None:
    case = make_case(SLOW, FAST)
    opened = DAY + timedelta(days=90)
    failed = replace(make_run("C9", 1, 30.0, state="failed", reason="it hung"), readings={}, started_at=opened - HOUR)
    sitting = replace(case.sittings[-1], id=SittingId("C9"), started_at=opened - HOUR, boot="C9")
    swap = replace(case.swaps[0], opened_at=opened)
    there = replace(case, sittings=(*case.sittings, sitting), runs=(*case.runs, failed), swaps=(swap,))
    (result,) = judge(there).measures
    assert (result.grade != "unplanned", result.terms.look) == (True, 1)
    seen = replace(failed, readings={TIME.id: Reading(30.0, 30.0)}, written_at=opened - HOUR)
    (early,) = judge(replace(there, runs=(*case.runs, seen))).measures
    assert early.grade == "unplanned"


def test_a_sitting_is_under_way_while_any_measure_of_it_lacks_a_run() -> None:
    """A run without its headline figure does not count as done."""
    case = make_case(SLOW, FAST, runs_a_sitting=3)
    open_one = tuple(replace(s, closed_at=None) if s.id == "C2" else s for s in case.sittings)
    (done,) = judge(replace(case, sittings=open_one)).measures
    assert done.terms.look == 1
    marked = {MeasureId("beside"): Reading(9.0, 9.0)}
    bare = tuple(replace(run, readings=marked) if run.id == "C2-3" else run for run in case.runs)
    (short,) = judge(replace(case, sittings=open_one, runs=bare)).measures
    assert (short.terms.look, len(short.sides.after)) == (None, 2)
    (progress,) = progress_of(replace(case, runs=bare), C, case.swaps[0].plan)
    assert (progress.units, progress.fewest_runs) == (3, 2)


def test_what_is_of_another_recipe_than_most_is_no_progress() -> None:
    case = make_case(SLOW, FAST, runs_a_sitting=3)
    odd = tuple(replace(run, workload_version="9") if run.sitting_id == "C2" else run for run in case.runs)
    (progress,) = progress_of(replace(case, runs=odd), C, case.swaps[0].plan)
    assert (progress.units, progress.sittings_left) == (2, 1)

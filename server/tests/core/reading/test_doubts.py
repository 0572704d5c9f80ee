"""Questions at entry: a slip of the hand is asked about, and what is merely odd never is."""

from dataclasses import replace

import pytest

from lynxbill.core.reading.doubts import doubts_of
from lynxbill.core.reading.tally import sheets_of
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import SittingId
from lynxbill.core.record.run import Reading, Run, Statistic
from lynxbill.core.terms.measure import Measure, MeasureId
from lynxbill.words.results.doubts import say_doubt
from tests.builders import TIME, make_case

RISE = Measure(MeasureId("rise"), "Core, highest", "job", "Cel", "difference", "heat", "lower")
SETTLED = replace(RISE, id=MeasureId("settled"), name="Core, settled")


def open_bench(readings: list[float], measure: Measure = TIME, earlier: list[list[float]] | None = None) -> Case:
    """A build with closed sittings, and a last one that is open."""
    case = make_case([*(earlier or []), readings], [], measure=measure)
    *closed, last = case.sittings
    with_sheets = replace(case, sheets=sheets_of(case))
    return replace(with_sheets, sittings=(*closed, replace(last, closed_at=None)))


def asked(case: Case) -> dict[int, tuple[str, float | None]]:
    """By position: what is asked, and what may have been meant."""
    sitting = case.sittings[-1].id
    runs = [run for run in case.runs if run.sitting_id == sitting]
    positions = {run.id: run.position for run in runs}
    found = doubts_of(case, sitting, runs)
    return {positions[run]: (doubt.code, doubt.meant) for run, doubts in found.items() for doubt in doubts}  # type: ignore[index]


@pytest.mark.parametrize(
    ("typed", "meant"),
    [(7330.0, 733.0), (73.3, 733.0), (12.2, 732.0), (43980.0, 733.0), (3000.0, None)],
)
def test_a_slip_of_digits_or_unit_among_its_siblings_is_asked_about(typed: float, meant: float | None) -> None:
    assert asked(open_bench([733.0, 735.0, typed, 731.0])) == {3: ("slip_of_digits", meant)}
    assert asked(open_bench([typed], earlier=[[733.0, 731.0], [735.0, 734.0]])) == {1: ("slip_of_digits", meant)}


@pytest.mark.parametrize("odd", [101.0, 140.0, 260.0, 35.0])
def test_what_is_odd_but_possible_is_asked_nothing(odd: float) -> None:
    assert asked(open_bench([97.2, 97.4, odd, 97.1, 97.3])) == {}


def test_against_another_build_only_a_digit_too_many_is_told() -> None:
    case = make_case([[40.0, 40.2]] * 2, [[10.0], [400.0]])
    case = replace(case, sheets=sheets_of(case))
    for number, expected in ((2, {}), (3, {1: ("slip_of_digits", 40.0)})):
        sitting = case.sittings[number]
        kept = [*case.sittings[:2], replace(sitting, closed_at=None)]
        assert asked(replace(case, sittings=tuple(kept))) == expected


def test_nothing_is_asked_of_a_closed_sitting_nor_again_of_what_was_confirmed() -> None:
    case = open_bench([733.0, 735.0, 7330.0])
    *rest, slip = case.runs
    confirmed = replace(slip, readings={TIME.id: replace(slip.readings[TIME.id], confirmed=True)})
    assert asked(replace(case, runs=(*rest, confirmed))) == {}
    *others, last = case.sittings
    closed = replace(case, sittings=(*others, replace(last, closed_at=last.started_at)))
    assert doubts_of(closed, last.id, case.runs) == {}


@pytest.mark.parametrize(
    ("typed", "code"), [(0.0, "no_temperature"), (150.0, "no_temperature"), (149.9, None), (71.0, None)]
)
def test_a_temperature_of_nothing_or_thousands_is_asked_about(typed: float, code: str | None) -> None:
    found = asked(open_bench([70.0, typed], RISE))
    assert [word for word, _ in found.values()] == ([code] if code else [])


CLOCK = Measure(MeasureId("clock"), "Clock", "job", "GHz", "ratio", "clock", "higher")


@pytest.mark.parametrize(
    ("unit", "typed", "meant"),
    [
        ("GHz", 4200.0, 4.2),
        ("MHz", 4_200_000.0, 4200.0),
        ("GHz", 4.2, "right"),
        ("/min", 90_000.0, 90.0),
        ("/min", 0.0, "right"),
        ("W", 65_000.0, 65.0),
    ],
)
def test_what_no_pc_is_read_at_is_asked_about_and_a_thousandth_may_be_meant(
    unit: str, typed: float, meant: float | str
) -> None:
    found = asked(open_bench([typed], replace(CLOCK, unit=unit, scale="difference", kind="other")))
    assert found == ({} if meant == "right" else {1: ("not_of_a_pc", meant)})


def test_a_clock_of_thousands_of_gigahertz_is_asked_about_though_all_are_typed_so() -> None:
    case = open_bench([4200.0, 4210.0, 4190.0], CLOCK)
    assert {word for word, _ in asked(case).values()} == {"not_of_a_pc"}
    (doubt, *_), *_rest = doubts_of(case, SittingId("B0"), case.runs).values()
    assert say_doubt(doubt, CLOCK) == "4200 GHz? No part of a PC runs at that. Is it typed right?"


def test_a_temperature_at_the_machines_own_stop_limit_is_a_safety_stop_or_a_slip() -> None:
    case = open_bench([88.0, 96.0, 95.0, 94.9], RISE)
    assert asked(case) == {}
    limited = replace(case, machine=replace(case.machine, limits={"stop_c": 95}))
    assert asked(limited) == {2: ("at_the_stop", None), 3: ("at_the_stop", None)}
    (doubt,) = doubts_of(limited, SittingId("B0"), limited.runs)["B0-2"]
    assert say_doubt(doubt, RISE) == "96 °C, and a run is stopped at 95 °C: a safety stop, or a slip?"


def two_columns(*rows: tuple[float, float]) -> Case:
    """Seconds and degrees of each run, in one open sitting."""
    case = open_bench([seconds for seconds, _ in rows])
    both = tuple(
        replace(run, readings={TIME.id: Reading(a, a), RISE.id: Reading(b, b)})
        for run, (a, b) in zip(case.runs, rows, strict=True)
    )
    return replace(case, measures=(TIME, RISE), runs=both)


def test_two_columns_typed_crosswise_are_asked_about_both() -> None:
    case = two_columns((41.9, 62.0), (42.1, 62.5), (62.1, 41.8), (41.8, 61.9))
    sitting = SittingId("B0")
    found = doubts_of(case, sitting, case.runs)
    assert list(found) == ["B0-3"]
    assert [(d.measure, d.meant, d.other) for d in found["B0-3"]] == [
        (TIME.id, 41.8, RISE.name),
        (RISE.id, 62.1, TIME.name),
    ]
    assert say_doubt(found["B0-3"][0], TIME) == (
        "62.1 s? Its siblings are near 41.9 s, and those of “Core, highest” are near this: typed crosswise?"
    )


@pytest.mark.parametrize("odd", [(62.1, 62.0), (41.9, 41.8), (52.0, 52.0), (47.0, 57.0)])
def test_a_figure_that_is_merely_odd_is_not_taken_for_the_other_columns(odd: tuple[float, float]) -> None:
    assert asked(two_columns((41.9, 62.0), (42.1, 62.5), odd, (41.8, 61.9))) == {}


def test_the_highest_cannot_lie_below_what_it_settled_at() -> None:
    case = open_bench([70.0], RISE)
    (run,) = case.runs

    def read(value: float, statistic: Statistic) -> Reading:
        return Reading(value, value, statistic=statistic)

    wrong: Run = replace(run, readings={RISE.id: read(61.0, "highest"), SETTLED.id: read(64.0, "settled")})
    both = replace(case, measures=(RISE, SETTLED), runs=(wrong,))
    assert asked(both) == {1: ("highest_below_settled", None)}
    right = replace(run, readings={RISE.id: read(66.0, "highest"), SETTLED.id: read(64.0, "settled")})
    assert asked(replace(both, runs=(right,))) == {}


def test_it_is_asked_in_the_unit_and_decimal_mark_of_the_machine() -> None:
    case = open_bench([97.5, 98.5, 1016.0])
    (doubts,) = doubts_of(case, SittingId("B0"), case.runs).values()
    assert say_doubt(doubts[0], TIME, ",") == "1016 s? Its siblings are near 98 s. Is it typed right?"
    later = say_doubt(replace(doubts[0], siblings=98.25), TIME, ",")
    assert later.startswith("1016 s? Its siblings are near 98,2 s.")


@pytest.mark.nightly
def test_a_build_of_thousands_of_runs_is_asked_at_once() -> None:
    case = open_bench([40.0 + 0.001 * number for number in range(3000)] + [400.0])
    assert asked(case) == {3001: ("slip_of_digits", 40.0)}

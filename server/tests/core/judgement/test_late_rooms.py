"""Rooms that were given when the readings were known: no shading of them brings a verdict, nor chooses a pair."""

from dataclasses import replace
from datetime import timedelta

import pytest

from lynxbill.core.judgement.sitting import room_came_late, with_late_rooms
from lynxbill.core.record.frame import Case
from lynxbill.core.record.run import Was
from lynxbill.core.result.comparison import judge
from lynxbill.words.results.remarks import say_remark
from tests.builders import DAY, RISE, make_case

LATER = DAY + timedelta(days=500)
SOAK = replace(RISE, unit="Cel", name="Soak")
NOTED = Was("ambient_c", None, LATER, "hand", "")


def soaked(before: list[float], after: list[float], *, late: str = "", **plan: object) -> Case:
    """Sittings of one soak each, in a room of 22 °C; in the builds named it was noted afterwards."""
    case = make_case([[t] * 3 for t in before], [[t] * 3 for t in after], SOAK, matters_from=1.0, **plan)
    sittings = tuple(
        replace(s, ambient_c=22.0, was=(NOTED,)) if s.build_id in late else replace(s, ambient_c=22.0)
        for s in case.sittings
    )
    return replace(case, sittings=sittings)


WARM = [74.8, 75.2, 75.0]


@pytest.mark.parametrize(
    ("fall", "late", "word"),
    [
        (2.0, "", "real_gain"),
        (1.5, "B", "not_settled"),
        (2.0, "BC", "not_settled"),
        (2.5, "C", "real_gain"),
        (4.0, "BC", "real_gain"),
    ],
)
def test_a_verdict_on_late_rooms_stands_only_where_a_kelvin_on_each_side_does_not_take_it(
    fall: float, late: str, word: str
) -> None:
    (result,) = judge(soaked(WARM, [t - fall for t in WARM], late=late)).measures
    assert result.verdict.word == word
    assert result.verdict.remark == ("room_unknown" if word == "not_settled" else None)
    assert ("room_noted_late" in {flag.code for flag in result.flags}) == bool(late)
    sentence = say_remark(result, ".")
    assert (sentence is not None and "given afterwards" in sentence) == (word == "not_settled")


def test_late_rooms_count_as_the_mean_of_their_side() -> None:
    """Shaded sitting by sitting they would have made the side look steady."""
    case = soaked([74.0, 75.0, 76.0], [70.0, 71.0, 72.0], late="B")
    shaded = tuple(replace(s, ambient_c=21.0 + n) if s.build_id == "B" else s for n, s in enumerate(case.sittings))
    steady, given = (judge(one).measures[0] for one in (replace(case, sittings=shaded), case))
    assert [unit.unit for unit in steady.sides.before] == [unit.unit for unit in given.sides.before]
    boots = tuple((s,) for s in shaded if s.build_id == "B")
    assert [s.ambient_c for boot in with_late_rooms(boots, 0.5) for s in boot] == [22.5] * 3
    measured = tuple((replace(s, was=()),) for (s,) in boots[:1]) + boots[1:]
    assert [s.ambient_c for boot in with_late_rooms(measured, 0.0) for s in boot] == [21.0, 22.5, 22.5]
    assert [room_came_late(s) for (s,) in measured] == [False, True, True]


def test_the_p_of_late_rooms_is_that_of_the_least_sure_of_them() -> None:
    late, known = (judge(soaked(WARM, [t - 4.0 for t in WARM], late=late)).measures[0] for late in ("C", ""))
    assert late.p is not None
    assert known.p is not None
    assert (late.estimate, late.p > known.p) == (known.estimate, True)


def test_pairs_by_room_become_pairs_by_order_where_a_room_came_late() -> None:
    case = soaked(WARM, [t - 4.0 for t in WARM], design="paired", pair_by="ambient")
    turned = {f"{build}{n}": 20.0 + (n if build == "B" else 2 - n) for build in "BC" for n in range(3)}
    sittings = tuple(replace(s, ambient_c=turned[s.id]) for s in case.sittings)
    by_room = judge(replace(case, sittings=sittings)).measures[0]
    assert by_room.pairing.sittings == ((0, 2), (1, 1), (2, 0))
    late = tuple(replace(s, was=(NOTED,)) if s.id == "C1" else s for s in sittings)
    assert judge(replace(case, sittings=late)).measures[0].pairing.sittings == ((0, 0), (1, 1), (2, 2))

"""Mounts: one a side can't be told from remounting; shared by sittings, each is asked about as one value."""

from dataclasses import replace

import pytest

from lynxbill.core.result.comparison import judge
from lynxbill.core.result.result import MeasureResult
from tests.builders import RISE, Side, make_case

# Two mounts a side, three sittings on each: on the before-side they lie 2 K apart, and sittings scatter by 0.1 K.
NEAR: Side = [[50.0], [50.1], [49.9], [52.0], [52.1], [51.9]]
COOLER: Side = [[48.6], [48.7], [48.5], [48.9], [49.0], [48.8]]
MUCH_COOLER: Side = [[20.0 + rise for rise in sitting] for sitting in [[0.0], [0.1], [-0.1], [0.2], [0.3], [0.1]]]
SHARED, OWN, ONE = (1, 1, 1, 2, 2, 2), (1, 2, 3, 4, 5, 6), (1, 1, 1, 1, 1, 1)


def judged(after: Side, mounts: tuple[int | None, ...], touched: tuple[str, ...] = ("fresh paste",)) -> MeasureResult:
    case = make_case(NEAR, after, RISE, matters_from=0.5)
    sittings = tuple(replace(s, mount=mount) for s, mount in zip(case.sittings, 2 * mounts, strict=True))
    swaps = tuple(replace(swap, side_changes=touched) for swap in case.swaps)
    (result,) = judge(replace(case, sittings=sittings, swaps=swaps)).measures
    assert result.verdict.word == "real_gain"
    return result


def flags(result: MeasureResult) -> set[str]:
    codes: set[str] = {flag.code for flag in result.flags}
    return codes & {"one_mount", "rests_on_mounts"}


def test_a_gain_that_two_mounts_a_side_do_not_tell_from_remounting_says_so() -> None:
    result = judged(COOLER, SHARED)
    (flag,) = (flag for flag in result.flags if flag.code == "rests_on_mounts")
    assert (flag.word, flag.count) == ("not_settled", 4)


@pytest.mark.parametrize(
    ("after", "mounts", "found"),
    [
        (MUCH_COOLER, SHARED, set()),
        (COOLER, OWN, set()),
        (COOLER, ONE, {"one_mount"}),
        (COOLER, (None,) * 6, {"one_mount"}),
    ],
)
def test_a_clear_gain_and_a_mount_of_its_own_for_each_sitting_stand(
    after: Side, mounts: tuple[int | None, ...], found: set[str]
) -> None:
    assert flags(judged(after, mounts)) == found


def test_the_grade_says_one_mount_and_nothing_is_asked_where_nothing_was_remounted() -> None:
    assert judged(COOLER, ONE).grade == "one_mount"
    assert flags(judged(COOLER, ONE, touched=())) == set()

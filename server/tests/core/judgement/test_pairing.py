import math
from dataclasses import replace

import numpy as np
import pytest

from lynxbill.core.judgement.pairing import pair_runs
from lynxbill.core.judgement.sitting import LeftOut, Sides, split_sides
from lynxbill.core.reading.counting import compared_sittings, group_runs
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import RunId
from lynxbill.core.record.plan import FixedPair
from lynxbill.core.result.comparison import judge
from tests.builders import B, C, make_case


def sides_of(before: list[list[float]], after: list[list[float]], rooms: dict[str, float] | None = None) -> Sides:
    case = make_case(before, after)
    sittings = tuple(replace(s, ambient_c=(rooms or {}).get(s.id, s.ambient_c)) for s in case.sittings)
    case = replace(case, sittings=sittings)
    chosen = compared_sittings(case, B), compared_sittings(case, C)
    return split_sides(group_runs(case.runs), case.measures[0], case.swaps[0].plan, *chosen)


def test_pairs_go_by_sitting_and_position_and_the_rest_is_named() -> None:
    pairing = pair_runs(sides_of([[40, 41], [40, 41]], [[30, 31]]), "order")
    assert pairing.pairs == (("B0-1", "C0-1"), ("B0-2", "C0-2"))
    assert pairing.unpaired == (LeftOut(RunId("B1-1"), "alone"), LeftOut(RunId("B1-2"), "alone"))


def test_nearest_ambient_is_the_best_assignment_not_the_greedy_one() -> None:
    # Greedy would take B0-C0 (0.0) and leave B1-C1 at 9; the best total crosses.
    rooms = {"B0": 20.0, "B1": 21.0, "C0": 20.6, "C1": 12.0}
    pairing = pair_runs(sides_of([[40], [41]], [[30], [31]], rooms), "ambient")
    assert set(pairing.sittings) == {(0, 1), (1, 0)}


def test_the_rule_none_pairs_nothing() -> None:
    pairing = pair_runs(sides_of([[40]], [[30]]), "none")
    assert pairing.pairs == ()
    assert pairing.unpaired == (LeftOut(RunId("B0-1"), "no_pairs"), LeftOut(RunId("C0-1"), "no_pairs"))


def test_labels_pair_runs_with_the_same_input() -> None:
    sides = sides_of([[40, 41]], [[30, 31]])
    labels = {"B0-1": "map", "B0-2": "photo", "C0-1": "photo", "C0-2": "map"}

    def label(units: tuple) -> tuple:  # type: ignore[type-arg]
        return tuple(
            replace(unit, runs=tuple(replace(run, pair_label=labels[run.id]) for run in unit.runs)) for unit in units
        )

    labelled = replace(sides, before=label(sides.before), after=label(sides.after))
    assert set(pair_runs(labelled, "label").pairs) == {("B0-1", "C0-2"), ("B0-2", "C0-1")}


def test_pairs_set_by_hand_replace_the_rule() -> None:
    fixed = (FixedPair(RunId("B0-1"), RunId("C0-2"), "same photo"),)
    pairing = pair_runs(sides_of([[40, 41]], [[30, 31]]), "order", fixed)
    assert pairing.pairs == (("B0-1", "C0-2"),)


def labelled(before: list[list[float]], after: list[list[float]]) -> Case:
    """The same three inputs in every sitting, each with its own level."""
    case = make_case(before, after, design="paired", pair_by="label", sittings_a_side=len(before))
    return replace(case, runs=tuple(replace(run, pair_label=f"file {run.position}") for run in case.runs))


def test_labelled_inputs_count_by_the_sitting_never_by_the_input() -> None:
    slow, fast = [[10.0, 40.0, 160.0]] * 3, [[8.0, 32.0, 128.0], [8.1, 32.1, 128.1], [7.9, 31.9, 127.9]]
    (result,) = judge(labelled(slow, fast)).measures
    assert result.interval is not None
    assert (result.interval.basis, result.interval.df) == ("paired_sittings", 2.0)
    assert result.verdict.word == "real_gain"
    assert result.interval.estimate == pytest.approx(math.log(1.25), abs=0.005)


def test_one_sitting_a_side_of_labelled_inputs_is_guarded_by_their_scatter() -> None:
    (result,) = judge(labelled([[10.0, 40.0, 160.0]], [[8.0, 32.2, 127.0]])).measures
    assert result.interval is not None
    assert (result.interval.basis, result.interval.df, result.provisional) == ("one_sitting", 2.0, True)
    differences = [math.log(10 / 8), math.log(40 / 32.2), math.log(160 / 127)]
    sd = float(np.std(differences, ddof=1)) / math.sqrt(2)
    half = 4.302653 * sd * math.sqrt(2 / 3 + 9 * 2)
    assert result.interval.high - result.interval.estimate == pytest.approx(half, rel=1e-5)


def test_inputs_that_a_side_lacks_enter_nothing() -> None:
    case = labelled([[10.0, 40.0, 160.0]] * 3, [[8.0, 32.0, 1.0]] * 3)
    runs = tuple(
        replace(run, pair_label="another") if run.sitting_id.startswith("C") and run.position == 3 else run
        for run in case.runs
    )
    (result,) = judge(replace(case, runs=runs)).measures
    assert result.estimate == pytest.approx(math.log(1.25), abs=1e-9)


def test_labelled_inputs_wait_for_their_plan_like_others() -> None:
    slow = [[10.0, 40.0, 160.0], [10.1, 40.2, 161.0], [9.9, 39.9, 159.5], [10.0, 40.1, 160.5]]
    fast = [[8.0, 32.0, 128.0], [8.1, 32.1, 128.1], [7.9, 31.9, 127.9], [8.0, 32.1, 128.2]]
    case = labelled(slow, fast)
    plan = replace(case.swaps[0].plan, sittings_a_side=5)
    (early,) = judge(replace(case, swaps=(replace(case.swaps[0], plan=plan),))).measures
    (planned,) = judge(case).measures
    assert early.interval is not None
    assert planned.interval is not None
    assert (early.interval.basis, early.complete, early.grade) == ("anytime", False, "early_look")
    assert early.interval.estimate == planned.interval.estimate
    assert early.interval.low < planned.interval.low


def test_labelled_inputs_that_share_nothing_or_too_little_have_no_verdict() -> None:
    slow, fast = [[10.0, 40.0, 160.0]] * 3, [[8.0, 32.0, 128.0]] * 3
    case = labelled(slow, fast)
    apart = tuple(
        replace(run, pair_label=f"{run.sitting_id[0]} {run.pair_label}") for run in case.runs
    )  # no input is on both sides
    (nothing,) = judge(replace(case, runs=apart)).measures
    assert (nothing.verdict.word, nothing.verdict.remark) == ("not_settled", "pairs_missing")
    assert nothing.interval is None
    two_labels = labelled([[10.0, 40.0]], [[8.0, 32.0]])
    (little,) = judge(two_labels).measures
    assert little.interval is None
    assert little.verdict.word in ("not_settled", "untested")


def test_an_input_that_one_sitting_lacks_enters_no_pair_of_sittings() -> None:
    case = labelled([[10.0, 40.0, 160.0]] * 3, [[8.0, 32.0, 64.0]] * 3)
    runs = tuple(replace(run, pair_label="other") if run.id == "C2-3" else run for run in case.runs)
    (result,) = judge(replace(case, runs=runs)).measures
    assert result.estimate == pytest.approx(math.log(1.25), abs=1e-9)

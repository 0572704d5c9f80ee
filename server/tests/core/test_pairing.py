from dataclasses import replace

from lynxbill.core.case import FixedPair
from lynxbill.core.pairing import pair_runs
from lynxbill.core.sitting import Sides, compared_sittings, group_runs, split_sides
from tests.builders import make_case


def sides_of(before: list[list[float]], after: list[list[float]], rooms: dict[str, float] | None = None) -> Sides:
    case = make_case(before, after)
    sittings = tuple(replace(s, ambient_c=(rooms or {}).get(s.id, s.ambient_c)) for s in case.sittings)
    case = replace(case, sittings=sittings)
    chosen = compared_sittings(case, "B"), compared_sittings(case, "C")
    return split_sides(group_runs(case), case.measures[0], case.swaps[0].plan, *chosen)


def test_pairs_go_by_sitting_and_position_and_the_rest_is_named() -> None:
    pairing = pair_runs(sides_of([[40, 41], [40, 41]], [[30, 31]]), "order")
    assert pairing.pairs == (("B0-1", "C0-1"), ("B0-2", "C0-2"))
    assert {item.run_id for item in pairing.unpaired} == {"B1-1", "B1-2"}


def test_nearest_ambient_is_the_best_assignment_not_the_greedy_one() -> None:
    # Greedy would take B0-C0 (0.0) and leave B1-C1 at 9; the best total crosses.
    rooms = {"B0": 20.0, "B1": 21.0, "C0": 20.6, "C1": 12.0}
    pairing = pair_runs(sides_of([[40], [41]], [[30], [31]], rooms), "ambient")
    assert set(pairing.sittings) == {(0, 1), (1, 0)}


def test_the_rule_none_pairs_nothing() -> None:
    pairing = pair_runs(sides_of([[40]], [[30]]), "none")
    assert pairing.pairs == ()
    assert len(pairing.unpaired) == 2


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
    fixed = (FixedPair("B0-1", "C0-2", "same photo"),)
    pairing = pair_runs(sides_of([[40, 41]], [[30, 31]]), "order", fixed)
    assert pairing.pairs == (("B0-1", "C0-2"),)

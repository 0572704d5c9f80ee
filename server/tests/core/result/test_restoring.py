"""Upkeep: the share of a loss that came back, and the line of a measure through all builds."""

from dataclasses import replace
from typing import Any, get_args

import numpy as np
import pytest

from lynxbill.core.change.difference import Difference, DifferenceKind
from lynxbill.core.plan.templates import BUILT_IN, OF_NEW, OF_OLD, apply_template, checklist_of
from lynxbill.core.record.build import Build, Part
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import BuildId, RunId, SittingId
from lynxbill.core.record.run import Reading
from lynxbill.core.record.swap import Stage
from lynxbill.core.record.vocabulary import LIMITS, PART_FIGURES, check_figures
from lynxbill.core.result.restoring import history_lines, recovered_share, recovered_shares, share_interval
from lynxbill.core.terms.errors import BadValue, Several
from lynxbill.core.terms.measure import Measure, MeasureId, combine_parts
from tests.builders import RISE, TIME, B, C, make_case


def three_states(worn: tuple[float, ...] = (60.0,)) -> Case:
    case = make_case([[value] * 3 for value in worn], [[50.0] * 3], measure=RISE)
    builds = (
        Build(B, "B", "Worn", wear="worn"),
        Build(C, "C", "Renewed", wear="renewed"),
        Build(BuildId("N"), "A", "New", wear="as new"),
    )
    new = [
        replace(run, id=RunId(f"n{run.id}"), sitting_id=SittingId("N0"), readings={RISE.id: Reading(45.0, 45.0)})
        for run in case.runs[:3]
    ]
    sitting = replace(case.sittings[0], id=SittingId("N0"), build_id=BuildId("N"), purpose="earlier")
    return replace(case, builds=builds, runs=(*case.runs, *new), sittings=(*case.sittings, sitting))


def test_the_share_recovered_relates_the_gain_to_the_loss() -> None:
    (share,) = recovered_shares(three_states())
    assert share.share == pytest.approx(10 / 15)
    assert share.as_new_measured
    assert recovered_share(0.0, -0.2, 0.0) == pytest.approx(1.0)
    assert recovered_share(0.0, -0.2, -0.3) == pytest.approx(-0.5)
    assert recovered_share(0.0, -0.005, 0.0, least=0.01) is None


def test_near_no_loss_there_is_no_share() -> None:
    """As new 45 K; worn sittings scatter by more than they stand above it."""
    (near,) = recovered_shares(three_states((44.0, 56.0, 50.0)))
    assert (near.share, near.low, near.loss_hidden) == (None, None, True)
    (far,) = recovered_shares(three_states((60.0, 61.0, 62.0)))
    assert far.share == pytest.approx(11 / 16)
    assert not far.loss_hidden


def test_a_remembered_as_new_value_is_told_apart_from_a_measured_one() -> None:
    case = three_states()
    told = tuple(
        replace(run, readings={RISE.id: Reading(45.0, 45.0, source="remembered")}) if run.sitting_id == "N0" else run
        for run in case.runs
    )
    (share,) = recovered_shares(replace(case, runs=told))
    assert share.share == pytest.approx(10 / 15)
    assert not share.as_new_measured


@pytest.mark.nightly
def test_the_share_has_an_interval_that_covers_the_true_one_as_often_as_it_says() -> None:
    draw = np.random.default_rng(20)
    covered = bounded = 0
    for _ in range(2000):
        as_new, worn, renewed = (draw.normal(mean, 1.0, size=3).tolist() for mean in (0.0, -8.0, -2.0))
        low, high = share_interval(as_new, worn, renewed)
        if low is None or high is None:
            continue
        bounded += 1
        covered += low <= 0.75 <= high
    assert bounded > 1900
    # Four binomial standard errors beside 95 %.
    assert covered / bounded == pytest.approx(0.95, abs=0.02)


def test_there_is_no_interval_of_a_share_of_a_loss_that_is_not_settled() -> None:
    assert share_interval([1.0, -1.0], [0.9, -1.2], [1.0, -1.0]) == (None, None)
    assert share_interval([0.0], [-5.0], [-1.0]) == (None, None), "one sitting a state has no scatter"
    assert share_interval([], [-5.0, -5.1], [-1.0, -1.1]) == (None, None), "as new was only told"
    low, high = share_interval([0.0, 0.0], [-8.0, -8.0], [-2.0, -2.0], step=0.1)
    assert low is not None
    assert high is not None
    assert low < 0.75 < high, "what is read to a tenth scatters by no less than that"


def test_what_came_back_belongs_to_all_that_was_changed_from_worn_to_renewed() -> None:
    case = three_states()
    paste, fan = (Part(name, role, name) for name, role in (("Ostrel", "thermal paste"), ("Marl", "cooler")))  # type: ignore[arg-type]
    renewed = replace(case.builds[1], parts=(paste, fan))
    (share,) = recovered_shares(replace(case, builds=(case.builds[0], renewed, case.builds[2])))
    assert share.changes == ("thermal paste", "cooler")


def test_without_all_three_states_there_is_no_share() -> None:
    assert recovered_shares(make_case([[60.0] * 3], [[50.0] * 3], measure=RISE)) == ()


def test_history_follows_a_measure_through_builds_with_rechecks_apart() -> None:
    case = make_case([[40.0] * 3], [[30.0] * 3, [33.0] * 3])
    later = tuple(replace(s, purpose="recheck") if s.id == "C1" else s for s in case.sittings)
    (line,) = history_lines(replace(case, sittings=later))
    assert [(p.build, round(p.mean, 6), p.recheck) for p in line.points] == [
        ("B", 40.0, False),
        ("C", 30.0, False),
        ("C", 33.0, True),
    ]


def test_temperatures_are_followed_above_the_room_wherever_it_is_known() -> None:
    degrees = replace(RISE, unit="Cel")
    case = make_case([[62.0] * 3], [[57.0] * 3], measure=degrees)
    warm = tuple(replace(s, ambient_c=20.0 if s.build_id == "B" else 27.0) for s in case.sittings)
    (line,) = history_lines(replace(case, sittings=warm))
    assert [(p.mean, p.above_room) for p in line.points] == [(42.0, True), (30.0, True)]
    blind = tuple(replace(s, ambient_c=20.0 if s.build_id == "B" else None) for s in case.sittings)
    (line,) = history_lines(replace(case, sittings=blind))
    assert [(p.mean, p.above_room) for p in line.points] == [(42.0, True), (57.0, False)]


@pytest.mark.parametrize("source", [None, "remembered"])
def test_the_share_of_a_temperature_is_taken_above_the_room_also_of_what_was_told(source: Any) -> None:
    case = three_states()
    degrees = replace(case.measures[0], unit="Cel")
    rooms = {"B0": 18.0, "C0": 25.0, "N0": 21.0}
    sittings = tuple(replace(s, ambient_c=rooms[s.id]) for s in case.sittings)
    runs = tuple(
        replace(
            r,
            readings={RISE.id: Reading(v := r.readings[RISE.id].low + rooms[r.sitting_id], v, source=source)},
        )
        if r.sitting_id == "N0"
        else replace(r, readings={RISE.id: Reading(v := r.readings[RISE.id].low + rooms[r.sitting_id], v)})
        for r in case.runs
    )
    (share,) = recovered_shares(replace(case, measures=(degrees,), sittings=sittings, runs=runs))
    assert share.share == pytest.approx(10 / 15)
    assert not share.room_missing
    blind = tuple(replace(s, ambient_c=None) if s.id == "C0" else s for s in sittings)
    (share,) = recovered_shares(replace(case, measures=(degrees,), sittings=blind, runs=runs))
    assert share.room_missing


def test_every_built_in_template_lays_a_plan_over_any_case() -> None:
    case = make_case([[1.0]], [[1.0]])
    for template in BUILT_IN:
        plan = apply_template(case, case.swaps[0].plan, template)
        assert set(plan.measures) == {"time"}
        assert plan.headline == "time"
        assert plan.measures[TIME.id].matters_from == 2.0
        assert bool(template.steps) == (template.change != "settings")
        assert all(stage in ("before opening", "case open", "first start") for stage, _ in template.steps)


def difference(kind: DifferenceKind, name: str) -> Difference:
    return Difference(f"{kind}:{name}", kind, name, "old", "new")


def test_a_checklist_is_merged_from_what_changes_in_the_order_of_its_stages() -> None:
    parts = [difference("part exchanged", name) for name in ("processor", "memory", "drive", "cooler")]
    steps = checklist_of([*parts, difference("setting", "threads")], ["fresh paste", "cables moved"])
    assert len(steps) == len(set(steps))
    assert [stage for stage, _ in steps] == sorted((s for s, _ in steps), key=get_args(Stage).index)
    for template in (known for known in BUILT_IN if known.steps):
        is_part = template.change in ("processor", "memory", "drive", "cooler", "thermal paste")
        assert (set(template.steps) <= set(steps)) == is_part
    assert checklist_of([difference("part in", "graphics")], []) == checklist_of(
        [difference("part out", "board")], []
    )


def test_a_part_that_is_added_has_no_steps_for_an_old_one_and_one_that_leaves_none_for_a_new_one() -> None:
    def steps(kind: DifferenceKind, *, beside: bool = False) -> str:
        changed = replace(difference(kind, "drive"), beside=beside)
        return " ".join(text for _, text in checklist_of([changed], ()))

    assert "old drive" in steps("part exchanged").casefold()
    # Where none was noted there was one all the same.
    assert "old drive" in steps("part in").casefold()
    added, gone = steps("part in", beside=True).casefold(), steps("part out").casefold()
    assert "old drive" not in added
    assert "new drive seated" in added
    assert "new drive seated" not in gone
    assert "drive out" in gone
    moved = " ".join(text for _, text in checklist_of([], ["drive moved"])).casefold()
    assert "old drive" not in moved
    assert "drive seen at its full size" in moved
    # Every step that is left out somewhere is one of a template's: none is spelt otherwise.
    everything = {text for template in BUILT_IN for _, text in template.steps}
    assert everything >= OF_OLD | OF_NEW


def test_what_has_a_battery_is_first_cut_off_from_it_before_it_is_opened() -> None:
    opened = checklist_of([difference("part exchanged", "memory")], [], "built in")
    assert "battery" in opened[0][1]
    assert len(opened) == 1 + len(checklist_of([difference("part exchanged", "memory")], [], "none"))


def test_a_setting_has_no_checklist() -> None:
    assert checklist_of([difference("setting", "memory_mts")], [], "built in") == ()


@pytest.mark.parametrize(
    ("given", "says"),
    [({"cores": "six"}, "whole number"), ({"cores": 2.5}, "whole number"), ({"boost_ghz": "fast"}, "GHz")],
)
def test_a_figure_of_the_wrong_kind_is_refused_with_its_place(given: dict[str, str], says: str) -> None:
    with pytest.raises(BadValue, match=says) as refusal:
        check_figures(given, PART_FIGURES["processor"], "rated")
    assert refusal.value.field == f"rated.{next(iter(given))}"


def test_free_keys_and_the_unknown_are_allowed_and_several_faults_are_named_at_once() -> None:
    check_figures({"noted": "from the shelf", "cores": None, "colour": "red"}, PART_FIGURES["processor"], "rated")
    check_figures({"applied": "2021-02"}, PART_FIGURES["thermal paste"], "rated")
    with pytest.raises(Several) as refusal:
        check_figures({"memory_slots": "two", "supply_w": "much"}, LIMITS, "limits")
    assert {item.field for item in refusal.value.refusals} == {"limits.memory_slots", "limits.supply_w"}


def test_a_quantity_of_several_sensors_is_the_hottest_or_the_mean() -> None:
    whole = Measure(MeasureId("die"), "Die", "soak", "Cel", "difference", "heat", "lower", combined_by="highest")
    assert combine_parts(whole, [61.0, 66.5, 60.0]) == 66.5
    assert combine_parts(replace(whole, combined_by="mean"), [60.0, 63.0]) == 61.5
    with pytest.raises(BadValue):
        combine_parts(TIME, [1.0])

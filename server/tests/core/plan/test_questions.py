"""Each question before measuring: asked where it is due, and not asked right beside that."""

from dataclasses import replace
from decimal import Decimal
from typing import Any

import pytest

from lynxbill.core.plan.gate import baseline_gate
from lynxbill.core.plan.planning import BenchTime
from lynxbill.core.plan.questions import loaded_by, loads_that_show, question_plan, question_proof
from lynxbill.core.plan.templates import BUILT_IN, Template, apply_template, quick_look
from lynxbill.core.record.build import PartRole
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import WorkloadId
from lynxbill.core.record.plan import Change, Plan, PlannedMeasure
from lynxbill.core.record.workload import Workload
from lynxbill.core.terms.measure import Measure, MeasureId
from tests.builders import RISE, B, make_case

TILES = Measure(MeasureId("tiles"), "Tiles", "Render", "s", "ratio", "time", "lower")
COPY = Measure(MeasureId("copy"), "Copy", "Copy", "s", "ratio", "time", "lower")
CLAIM, CONTROL = PlannedMeasure("claim", 2.0), PlannedMeasure("control", 2.0)


def bench(*, tiles: tuple[PartRole, ...] = ("processor",), copy: tuple[PartRole, ...] = ("drive",)) -> Case:
    workloads = (Workload(WorkloadId("w1"), "Render", loads=tiles), Workload(WorkloadId("w2"), "Copy", loads=copy))
    return replace(make_case([[1.0]], [[1.0]]), measures=(TILES, COPY), workloads=workloads)


def codes(case: Case, plan: Plan) -> set[tuple[str, str | None]]:
    return {(question.code, question.about) for question in question_plan(case, plan)}


def plan_for(change: Change, headline: MeasureId | None = TILES.id, **roles: PlannedMeasure) -> Plan:
    measures = {MeasureId(measure): planned for measure, planned in roles.items()}
    return Plan(change=change, headline=headline, measures=measures or {TILES.id: CLAIM, COPY.id: CONTROL})


@pytest.mark.parametrize(
    ("due", "beside", "code"),
    [
        (plan_for("processor", None), plan_for("processor"), ("no_headline", None)),
        (plan_for("processor", MeasureId("copy")), plan_for("processor"), ("no_headline", None)),
        (
            plan_for("drive"),
            plan_for("drive", MeasureId("copy"), tiles=CONTROL, copy=CLAIM),
            ("nothing_loads_it", None),
        ),
        (plan_for("drive"), plan_for("processor"), ("control_loads_it", "copy")),
        (plan_for("processor", tiles=CLAIM), plan_for("processor"), ("no_control", None)),
        (
            plan_for("drive", tiles=CLAIM, copy=CLAIM),
            plan_for("drive", MeasureId("copy"), tiles=CLAIM, copy=CLAIM),
            ("headline_does_not_load_it", "tiles"),
        ),
    ],
)
def test_a_question_is_asked_where_it_is_due(due: Plan, beside: Plan, code: tuple[str, str | None]) -> None:
    assert code in codes(bench(), due)
    assert code not in codes(bench(), beside)


def test_two_mounts_a_side_are_proposed_where_heat_is_claimed_of_paste_or_cooler() -> None:
    soak = replace(TILES, id=MeasureId("soak"), kind="heat", unit="K", scale="difference")
    case = replace(bench(tiles=("cooler", "processor")), measures=(soak, COPY))
    asked = ("two_mounts", None)
    for change in ("thermal paste", "cooler"):
        plan = replace(plan_for(change, soak.id, soak=CLAIM, copy=CONTROL), sittings_a_side=3)
        assert asked in codes(case, plan)
        assert asked not in codes(case, replace(plan, sittings_a_side=1))
        assert asked not in codes(case, replace(plan, change="processor"))
        assert asked not in codes(bench(), replace(plan_for(change), sittings_a_side=3))


def test_where_no_workload_says_what_it_loads_that_alone_is_asked() -> None:
    assert codes(bench(tiles=(), copy=()), plan_for("processor")) == {("loads_unknown", None)}


@pytest.mark.parametrize("change", ["settings", "other"])
def test_a_change_of_no_part_asks_for_no_load(change: Change) -> None:
    assert codes(bench(tiles=(), copy=()), plan_for(change)) == set()


@pytest.mark.parametrize("change", ["cooler", "thermal paste", "cleaning"])
def test_cooling_shows_in_what_heats_the_processor(change: Change) -> None:
    """A render job need not be said to load the paste: it loads what the paste cools."""
    assert codes(bench(), plan_for(change)) == set()
    assert codes(bench(tiles=("drive",)), plan_for(change)) >= {("nothing_loads_it", None)}


def test_what_may_show_a_part_is_what_may_show_its_change() -> None:
    assert loaded_by("processor") == {"processor"}
    assert loaded_by("adapter") == loads_that_show("drive") == {"drive", "adapter"}
    assert loaded_by("thermal paste") >= {"cooler", "processor", "graphics"}
    assert loaded_by("board") == loads_that_show(None) == frozenset()


@pytest.mark.parametrize("template", BUILT_IN, ids=lambda template: template.id)
def test_a_template_asks_nothing_of_the_plan_that_it_lays(template: object) -> None:
    """Its own roles answer its own questions, on a bench that loads every part."""
    known = next(t for t in BUILT_IN if t == template)
    loads: tuple[PartRole, ...] = ("processor", "memory", "graphics", "cooler", "thermal paste")
    plan = apply_template(bench(tiles=loads), Plan(), known)
    assert codes(bench(tiles=loads), plan) == set()


def test_a_proof_whose_hands_cost_more_than_the_change_is_asked_about() -> None:
    case = replace(bench(), machine=replace(bench().machine, labour_rate=Decimal("35.00")))
    time = BenchTime(90.0, 30.0, (), at_hand_a_side=30.0)
    question = question_proof(case, time, Decimal("34.99"))
    assert question is not None
    assert (question.hands, question.price) == (Decimal("35.00"), Decimal("34.99"))
    assert question_proof(case, time, Decimal("35.00")) is None
    assert question_proof(case, time, None) is None
    assert question_proof(bench(), time, Decimal("1.00")) is None


@pytest.mark.parametrize("template", BUILT_IN, ids=lambda template: template.id)
def test_a_second_look_is_planned_only_where_the_sides_take_turns(template: Template) -> None:
    plan = apply_template(bench(), Plan(), template)
    takes_turns = template.order in ("alternating", "abba")
    assert plan.at_most == (2 * template.sittings_a_side if takes_turns else None)
    assert (plan.order, plan.sittings_a_side) == (template.order, template.sittings_a_side)


def test_a_quick_look_is_one_sitting_a_side_of_three_runs_and_nothing_besides() -> None:
    plan = replace(Plan(), sittings_a_side=3, at_most=6, warm_ups=2, rest_min=2.0, soak_min=10.0, runs_a_sitting=5)
    quick = quick_look(plan)
    assert (quick.sittings_a_side, quick.at_most, quick.runs_a_sitting) == (1, None, 3)
    assert (quick.warm_ups, quick.rest_min, quick.soak_min) == (0, 0.0, 0.0)


@pytest.mark.parametrize(("sittings", "at_most", "asked"), [(2, None, True), (2, 4, False), (3, None, False)])
def test_two_sittings_a_side_are_asked_about(sittings: int, at_most: int | None, asked: bool) -> None:
    case = make_case([[40.0] * 3] * 2, [[30.0] * 3] * 2)
    planned = replace(case.swaps[0].plan, sittings_a_side=sittings, at_most=at_most)
    assert ("two_sittings" in {question.code for question in question_plan(case, planned)}) == asked


@pytest.mark.parametrize(("plan", "asked"), [({}, True), ({"at_most": 6}, False), ({"sittings_a_side": 4}, False)])
def test_what_works_or_is_felt_asks_for_four_sittings_a_side(plan: dict[str, Any], asked: bool) -> None:
    """Before the first run, and again before the part leaves: three and three can't reach 5 %."""
    works = replace(RISE, scale="outcome", kind="other", unit="1", better="higher")
    case = make_case([[0.0] * 3] * 3, [[1.0] * 3] * 3, works)
    planned = replace(case.swaps[0].plan, **{"sittings_a_side": 3, **plan})
    assert ("four_for_steps" in {question.code for question in question_plan(case, planned)}) == asked
    lacks = [lack for lack in baseline_gate(case, B, planned) if lack.code == "four_for_steps"]
    assert bool(lacks) == asked
    assert not any(lack.hint for lack in lacks)

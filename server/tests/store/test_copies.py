"""A plan or a template that is kept as a copy comes back as it was, and one that can't be understood is refused."""

from collections.abc import Callable
from dataclasses import replace
from typing import Any

import pytest
from alembic import command
from pydantic import ValidationError

from lynxbill.core.plan.templates import BUILT_IN
from lynxbill.core.record.ids import BuildId, RunId
from lynxbill.core.record.plan import FixedPair, Plan, PlannedMeasure
from lynxbill.core.terms.measure import MeasureId
from lynxbill.services.files.run_files import import_machine
from lynxbill.services.frame.templates import list_templates, save_template
from lynxbill.store.copies import (
    UnknownShape,
    copy_plan,
    copy_template,
    read_plan_copy,
    read_template_copy,
)
from lynxbill.store.database import migrate, migration_config, open_engine, session_factory
from lynxbill.store.kept import read_whole_case
from tests.conftest import ROOT

DEMO = (ROOT / "demo" / "fenwick-1-plotting-pc.json").read_bytes()
PLAN = Plan(
    pair_by="label",
    sittings_a_side=3,
    runs_a_sitting=4,
    headline=MeasureId("t"),
    measures={MeasureId("t"): PlannedMeasure("claim", 2.0, 25.0, 0.5, "mean")},
    pairs=(FixedPair(RunId("a"), RunId("b"), "same tile"),),
    borrow_spread_from=(BuildId("A"),),
    change="drive",
    conditions={"fan": "auto", "power_limit_w": 65, "dust": 0.5},
)


@pytest.mark.parametrize("plan", [Plan(), PLAN])
def test_a_plan_comes_back_as_it_was(plan: Plan) -> None:
    assert read_plan_copy(copy_plan(plan)) == plan


@pytest.mark.parametrize("template", BUILT_IN, ids=lambda template: template.id)
def test_a_template_comes_back_as_it_was(template: Any) -> None:
    of_row = {"id": template.id, "name": template.name, "change": template.change}
    assert read_template_copy(copy_template(template), **of_row) == template


@pytest.mark.parametrize("shape", [None, 0, 2, "1"])
def test_a_shape_of_another_program_is_not_guessed_at(shape: object) -> None:
    with pytest.raises(UnknownShape):
        read_plan_copy(copy_plan(PLAN) | {"shape": shape})


def test_a_damaged_copy_is_not_taken_for_a_plan() -> None:
    written = copy_plan(PLAN)
    with pytest.raises(ValidationError):
        read_plan_copy(written | {"copy": written["copy"] | {"design": "by feeling"}})


def test_copies_of_an_older_program_are_given_their_shape(migrated_database: Callable[[], str]) -> None:
    engine = open_engine(migrated_database())
    sessions = session_factory(engine)
    machine = import_machine(sessions, DEMO)
    own = replace(BUILT_IN[0], id="5f0c1d1e-4a53-4f4e-9a55-6f5d3f1f8a10", name="House rule")
    save_template(sessions, own, None)

    def kept() -> tuple[object, object]:
        with sessions() as session:
            return read_whole_case(session, machine).rechecks, list_templates(sessions)

    before = kept()
    command.downgrade(migration_config(engine), "0010")
    migrate(engine)
    assert kept() == before
    engine.dispose()

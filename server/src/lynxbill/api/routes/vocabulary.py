"""What the screens offer: units, figures of parts, limits, settings, conditions and templates."""

from collections.abc import Iterable
from typing import get_args
from uuid import UUID

from fastapi import APIRouter

from lynxbill.api.http.deps import SessionsDep
from lynxbill.api.wire.home_schemas import UnitOut
from lynxbill.api.wire.job_bodies import TemplateIn
from lynxbill.api.wire.job_schemas import FigureOut, PossibleOut, TemplateOut, VocabularyOut
from lynxbill.core.change.difference import FRESH_PASTE
from lynxbill.core.record.vocabulary import (
    CONDITIONS,
    FOUND_STEPS,
    LIMITS,
    PART_FIGURES,
    RUN_CONDITIONS,
    SETTINGS,
    Figure,
)
from lynxbill.core.terms.measure import Kind, Scale, usual_margin
from lynxbill.core.terms.quantity import known_units, unit_spelled
from lynxbill.services.frame.templates import KeptTemplate, list_templates, remove_template, save_template
from lynxbill.words.money.account import BASES, COST_KINDS
from lynxbill.words.results.doubts import say_impossible

router = APIRouter(tags=["vocabulary"])


@router.get("/units")
def list_units() -> list[UnitOut]:
    """Every unit that a measure may have."""
    return [UnitOut.model_validate(unit) for unit in known_units()]


@router.get("/vocabulary")
def read_vocabulary() -> VocabularyOut:
    """Rated figures a role of part, limits, settings and conditions, each with its unit; and the usual margins."""
    return VocabularyOut.model_validate(
        {
            "parts": {role: _figures_out(figures) for role, figures in PART_FIGURES.items()},
            "limits": _figures_out(LIMITS),
            "settings": _figures_out(SETTINGS),
            "conditions": _figures_out(CONDITIONS),
            "run_conditions": _figures_out(RUN_CONDITIONS),
            "found_steps": FOUND_STEPS,
            "cost_kinds": COST_KINDS,
            "bases": BASES,
            "fresh_paste": FRESH_PASTE,
            "margins": {
                f"{scale} {kind}": usual_margin(scale, kind) for scale in get_args(Scale) for kind in get_args(Kind)
            },
        }
    )


def _figures_out(figures: Iterable[Figure]) -> list[FigureOut]:
    return [
        FigureOut(
            key=figure.key,
            label=figure.label,
            kind=figure.kind,
            unit=figure.unit,
            words=list(figure.words),
            possible=_possible_out(figure),
        )
        for figure in figures
    ]


def _possible_out(figure: Figure) -> PossibleOut | None:
    possible, unit = figure.possible, unit_spelled(figure.unit)
    if possible is None or unit is None:
        return None
    return PossibleOut(low=possible.low, high=possible.high, beyond=say_impossible(unit))


@router.get("/templates")
def read_templates(sessions: SessionsDep) -> list[TemplateOut]:
    """The program's templates and the technician's own."""
    return [_template_out(kept) for kept in list_templates(sessions)]


@router.put("/templates/{template_id}")
def put_template(template_id: UUID, body: TemplateIn, sessions: SessionsDep) -> list[TemplateOut]:
    """Keep a template of the technician's own, or edit one."""
    save_template(sessions, body.to_core(template_id), body.version)
    return read_templates(sessions)


@router.delete("/templates/{template_id}")
def delete_template(template_id: UUID, sessions: SessionsDep) -> list[TemplateOut]:
    """Remove a template of the technician's own."""
    remove_template(sessions, template_id)
    return read_templates(sessions)


def _template_out(kept: KeptTemplate) -> TemplateOut:
    fields = {name: getattr(kept.template, name) for name in TemplateOut.model_fields if name != "version"}
    return TemplateOut.model_validate(fields | {"version": kept.version})

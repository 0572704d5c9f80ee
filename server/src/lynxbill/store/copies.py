"""Plans and templates that are kept as copies: written in a shape that is named, and checked when they are read."""

from collections.abc import Mapping
from typing import Any

from pydantic import TypeAdapter

from lynxbill.core.plan.templates import Template
from lynxbill.core.record.plan import Plan

# Raised when a member of a plan or a template changes its meaning; what was written before is then brought up here.
SHAPE = 1
_PLAN = TypeAdapter(Plan)
_TEMPLATE = TypeAdapter(Template)


class UnknownShape(Exception):
    """A copy was written by a newer program, or damaged."""


def copy_plan(plan: Plan) -> dict[str, Any]:
    """Write a plan as a copy."""
    return {"shape": SHAPE, "copy": _PLAN.dump_python(plan, mode="json")}


def read_plan_copy(written: Mapping[str, Any]) -> Plan:
    """Read a plan's copy; raises UnknownShape, or pydantic's ValidationError for one that is damaged."""
    return _PLAN.validate_python(_content(written))


def copy_template(template: Template) -> dict[str, Any]:
    """Write what of a template has no column of its own."""
    return {"shape": SHAPE, "copy": _TEMPLATE.dump_python(template, mode="json", exclude={"id", "name", "change"})}


def read_template_copy(written: Mapping[str, Any], **of_row: str) -> Template:
    """Read a template's copy; raises as `read_plan_copy` does."""
    return _TEMPLATE.validate_python({**_content(written), **of_row})


def _content(written: Mapping[str, Any]) -> Mapping[str, Any]:
    if written.get("shape") != SHAPE:
        raise UnknownShape(f"a copy of shape {written.get('shape')!r}; this program knows {SHAPE}")
    content: Mapping[str, Any] = written["copy"]
    return content

"""Templates: those that come with the program, and the technician's own."""

from dataclasses import dataclass
from uuid import UUID

from sqlalchemy import select
from sqlalchemy.orm import Session

from lynxbill.core.plan.templates import BUILT_IN, Template
from lynxbill.core.record.vocabulary import CONDITIONS, check_figures
from lynxbill.core.terms.errors import Missing
from lynxbill.services.base.transaction import Sessions, edit, transaction
from lynxbill.store.copies import copy_template, read_template_copy
from lynxbill.store.tables.machine import TemplateRow

NAME_TAKEN = "There is a template of that name already; give this one another."


@dataclass(frozen=True, slots=True)
class KeptTemplate:
    """`version` is None for a template that comes with the program and can't be changed in place."""

    template: Template
    version: int | None


def list_templates(sessions: Sessions) -> list[KeptTemplate]:
    """List the program's templates, then the technician's own by name."""
    with sessions() as session:
        own = session.scalars(select(TemplateRow).order_by(TemplateRow.name)).all()
        return [*(KeptTemplate(known, None) for known in BUILT_IN), *(KeptTemplate(_read(r), r.version) for r in own)]


def find_template(session: Session, template_id: str) -> Template:
    """Find a template by its id, of the program's or the technician's own."""
    for known in BUILT_IN:
        if known.id == template_id:
            return known
    try:
        row = session.get(TemplateRow, UUID(template_id))
    except ValueError:
        row = None
    if row is None:
        raise Missing("There is no such template.", field="template")
    return _read(row)


def save_template(sessions: Sessions, template: Template, version: int | None) -> None:
    """Keep a template of the technician's own, or edit one."""
    check_figures(template.conditions, CONDITIONS, "conditions")
    fields = {"name": template.name, "change": template.change, "content": copy_template(template)}
    with transaction(sessions, taken=NAME_TAKEN) as session:
        row = session.get(TemplateRow, UUID(template.id), with_for_update=True)
        if row is None:
            session.add(TemplateRow(id=UUID(template.id), **fields))
        else:
            edit(row, version, fields)


def remove_template(sessions: Sessions, template_id: UUID) -> None:
    """Remove a template of the technician's own; plans made from it stay."""
    with transaction(sessions) as session:
        row = session.get(TemplateRow, template_id)
        if row is not None:
            session.delete(row)


def _read(row: TemplateRow) -> Template:
    return read_template_copy(row.content, id=str(row.id), name=row.name, change=row.change)

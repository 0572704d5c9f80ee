"""Which rows belong to a machine: found by the keys that lead to it, in the order in which they can be written."""

from uuid import UUID

from sqlalchemy import ColumnElement, FromClause, select
from sqlalchemy import Table as Described

from lynxbill.store.tables.base import Table
from lynxbill.store.tables.machine import MachineRow

Owned = tuple[Described, ColumnElement[bool]]


def owned_by(machine_id: UUID) -> list[Owned]:
    """
    Name the rows of every table that belong to a machine.

    Returns: tables, each after those that its keys point at, with the condition that its rows meet.
    """
    machines = Table.metadata.tables[MachineRow.__tablename__]
    conditions: dict[FromClause, ColumnElement[bool]] = {machines: machines.c.id == machine_id}
    for table in Table.metadata.sorted_tables:
        if table is not machines and (found := _way_to(table, conditions)) is not None:
            conditions[table] = found
    return [(table, conditions[table]) for table in Table.metadata.sorted_tables if table in conditions]


def _way_to(table: Described, known: dict[FromClause, ColumnElement[bool]]) -> ColumnElement[bool] | None:
    """Straight to its machine, else by the first key that every row has and that leads to rows that belong to it."""
    keys = [key for column in table.columns for key in column.foreign_keys if not column.nullable]
    for key in sorted(keys, key=lambda key: key.column.table.name != MachineRow.__tablename__):
        target = key.column.table
        if target is not table and target in known:
            column: ColumnElement[UUID] = key.parent
            return column.in_(select(key.column).where(known[target]))
    return None

"""
Databases of a few early days, made by migrations that were changed after somebody had run them.

A migration that has landed stays as it is (`sums.txt` holds each): what is here mends those that did not.
"""

from dataclasses import dataclass

from alembic.runtime.migration import MigrationContext
from sqlalchemy import Connection, Engine, text

_COLUMN = """
SELECT NOT EXISTS (SELECT 1 FROM information_schema.columns
WHERE table_schema = 'public' AND table_name = '{table}' AND column_name = '{column}')
"""
_SCALED = """
SELECT EXISTS (SELECT 1 FROM information_schema.columns
WHERE table_schema = 'public' AND numeric_scale IS NOT NULL
AND (table_name, column_name) IN (('machines', 'labour_rate'), ('costs', 'amount')))
"""


@dataclass(frozen=True, slots=True)
class Repair:
    """What is missing from a revision on, in words; the question that tells, and the statements that make it good."""

    since: str
    what: str
    is_broken: str
    statements: tuple[str, ...]


REPAIRS: tuple[Repair, ...] = (
    Repair(
        "0001",
        "amounts were kept to four digits",
        _SCALED,
        tuple(
            f"ALTER TABLE {table} ALTER COLUMN {column} TYPE numeric"
            for table, column in (
                ("machines", "labour_rate"),
                ("costs", "amount"),
                ("costs", "low"),
                ("costs", "high"),
            )
        ),
    ),
    Repair(
        "0002",
        "the count of a machine's changes",
        _COLUMN.format(table="machines", column="revision"),
        ("ALTER TABLE machines ADD COLUMN revision integer DEFAULT 0 NOT NULL",),
    ),
    Repair(
        "0029",
        "what the agent was shown of a machine",
        _COLUMN.format(table="shown", column="machine_id"),
        (
            "CREATE TABLE shown (machine_id uuid NOT NULL, build_id uuid NOT NULL, at timestamptz NOT NULL, "
            "parts jsonb NOT NULL, firmware text, system text, CONSTRAINT pk_shown PRIMARY KEY (machine_id), "
            "CONSTRAINT fk_shown_machine_id_machines FOREIGN KEY (machine_id) REFERENCES machines (id), "
            "CONSTRAINT fk_shown_build_id_builds FOREIGN KEY (build_id) REFERENCES builds (id))",
            "CREATE INDEX ix_shown_build_id ON shown (build_id)",
        ),
    ),
    Repair(
        "0029",
        "what was seen of a trace",
        _COLUMN.format(table="traces", column="seen"),
        ("ALTER TABLE traces ADD COLUMN seen jsonb DEFAULT '{}' NOT NULL",),
    ),
    Repair(
        "0029",
        "the place of a picture that waits for its run",
        _COLUMN.format(table="run_pictures", column="workload_id"),
        (
            "ALTER TABLE run_pictures DROP CONSTRAINT IF EXISTS fk_run_pictures_run_id",
            "ALTER TABLE run_pictures ADD COLUMN workload_id uuid, ADD COLUMN position integer, "
            "ADD COLUMN warm_up boolean",
            "UPDATE run_pictures SET workload_id = runs.workload_id, position = runs.position, "
            "warm_up = runs.warm_up FROM runs WHERE runs.id = run_pictures.run_id",
            "ALTER TABLE run_pictures ALTER COLUMN workload_id SET NOT NULL, "
            "ALTER COLUMN position SET NOT NULL, ALTER COLUMN warm_up SET NOT NULL",
            "ALTER TABLE run_pictures ADD CONSTRAINT fk_run_pictures_workload_id_workloads "
            "FOREIGN KEY (workload_id) REFERENCES workloads (id)",
            "CREATE INDEX ix_run_pictures_workload_id ON run_pictures (workload_id)",
        ),
    ),
)


def find_broken(engine: Engine) -> tuple[Repair, ...]:
    """Say what a database needs mended before it can be brought up to date."""
    with engine.connect() as connection:
        return _broken(connection)


def repair(engine: Engine) -> tuple[Repair, ...]:
    """Mend what early migrations left out, all or nothing; answers what it was."""
    with engine.begin() as connection:
        found = _broken(connection)
        for broken in found:
            for statement in broken.statements:
                connection.execute(text(statement))
    return found


def _broken(connection: Connection) -> tuple[Repair, ...]:
    current = MigrationContext.configure(connection).get_current_revision()
    if current is None:
        return ()
    return tuple(r for r in REPAIRS if r.since <= current and connection.scalar(text(r.is_broken)))

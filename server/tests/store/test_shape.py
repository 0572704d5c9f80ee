"""The database is what its migrations make of it, and what landed of them stays as it is."""

import hashlib
import os
from collections.abc import Callable
from pathlib import Path

import pytest
from sqlalchemy import text

from lynxbill.installation import CannotStart
from lynxbill.serve import refuse_other_shape
from lynxbill.store.database import MIGRATIONS, migrate, open_engine
from lynxbill.store.repair import REPAIRS, find_broken, repair
from lynxbill.store.shape import SHAPE, differences_of, shape_of

SUMS = MIGRATIONS / "sums.txt"
WRITES = os.environ.get("LYNXBILL_WRITE_SHAPE") == "1"


def sums_of(folder: Path) -> dict[str, str]:
    return {path.stem: hashlib.sha256(path.read_bytes()).hexdigest() for path in sorted(folder.glob("0*.py"))}


def test_a_migration_that_has_landed_stays_as_it_is() -> None:
    """A database that ran it would lack what was put in afterwards: write another one, and add its sum."""
    known = dict(line.split() for line in SUMS.read_text().splitlines())
    found = sums_of(MIGRATIONS / "versions")
    if WRITES:
        SUMS.write_text("".join(f"{name} {known.get(name, digest)}\n" for name, digest in found.items()))
    assert found == known


@pytest.fixture
def url(new_database: Callable[[], str]) -> str:
    return new_database()


def test_a_fresh_database_has_the_shape_that_is_kept(url: str) -> None:
    engine = open_engine(url)
    migrate(engine)
    with engine.connect() as connection:
        if WRITES:
            SHAPE.write_text("\n".join(shape_of(connection)) + "\n", encoding="utf-8")
        assert differences_of(connection) == []
    engine.dispose()


@pytest.mark.parametrize(
    ("doctored", "sentence"),
    [
        ("ALTER TABLE machines DROP COLUMN serial_salt", "column machines.serial_salt is missing"),
        ("ALTER TABLE runs ALTER COLUMN position TYPE bigint", "column runs.position is another"),
        (
            "ALTER TABLE plans DROP CONSTRAINT ck_plans_change_known",
            "constraint plans.ck_plans_change_known is missing",
        ),
        ("ALTER TABLE runs ADD COLUMN spare text NOT NULL DEFAULT ''", "column runs.spare is not ours"),
    ],
)
def test_another_shape_is_refused_in_one_line_that_says_what_to_do(
    url: str, tmp_path: Path, doctored: str, sentence: str
) -> None:
    engine = open_engine(url)
    migrate(engine)
    with engine.begin() as connection:
        connection.execute(text(doctored))
        connection.execute(text("CREATE TABLE somebody_elses (name text)"))
    with pytest.raises(CannotStart, match=sentence) as refused:
        refuse_other_shape(engine, tmp_path)
    assert "\n" not in str(refused.value)
    assert "lynxbill restore FILE" in str(refused.value)
    engine.dispose()


def test_what_early_migrations_left_out_is_mended_once(url: str) -> None:
    engine = open_engine(url)
    migrate(engine)
    broken = (
        "ALTER TABLE machines ALTER COLUMN labour_rate TYPE numeric(14, 4)",
        "ALTER TABLE machines DROP COLUMN revision",
        "DROP TABLE shown",
        "ALTER TABLE traces DROP COLUMN seen",
        "ALTER TABLE run_pictures DROP COLUMN workload_id, DROP COLUMN position, DROP COLUMN warm_up",
        "ALTER TABLE run_pictures ADD CONSTRAINT fk_run_pictures_run_id FOREIGN KEY (run_id) REFERENCES runs (id)",
    )
    with engine.begin() as connection:
        for statement in broken:
            connection.execute(text(statement))
    assert [one.what for one in find_broken(engine)] == [one.what for one in REPAIRS]
    assert repair(engine) == REPAIRS
    assert repair(engine) == ()
    with engine.connect() as connection:
        assert differences_of(connection) == []
    engine.dispose()

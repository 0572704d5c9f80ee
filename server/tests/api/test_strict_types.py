"""What comes from outside is of the kind that it is written as: no field takes false for 0, or "yes" for true."""

from collections.abc import Iterator
from typing import Any

import httpx
import pytest
from fastapi.routing import APIRoute
from pydantic import BaseModel, TypeAdapter

from lynxbill.app import ROUTERS
from lynxbill.exchange.run_schema import RunFile
from tests.api.bodies import Job, new_id

LOOSE_BY_NATURE = {"int", "float", "bool", "date", "datetime"}


def incoming() -> dict[str, TypeAdapter[Any]]:
    """Every body that an operation takes, and the run file."""
    found: dict[str, TypeAdapter[Any]] = {"run file": TypeAdapter(RunFile)}
    for module in ROUTERS:
        for route in module.router.routes:
            if isinstance(route, APIRoute) and route.body_field is not None:
                annotation: Any = route.body_field.field_info.annotation
                found[f"{route.name} {route.path}"] = TypeAdapter(annotation)
    return found


def loose(schema: object, place: str = "") -> Iterator[str]:
    """Places at which Pydantic would take one kind for another."""
    if isinstance(schema, list | tuple):
        for each in schema:
            yield from loose(each, place)
    elif isinstance(schema, dict):
        kind = schema.get("type")
        checked = kind == "function-before" and schema["function"]["function"].__name__ == "_bench_date"
        if kind in LOOSE_BY_NATURE and not schema.get("strict"):
            yield f"{place}: {kind}"
        if not checked:
            for name, inner in schema.items():
                yield from loose(inner, f"{place}.{name}" if name not in ("schema", "schema_") else place)


@pytest.mark.parametrize("place", incoming())
def test_no_field_takes_one_kind_for_another(place: str) -> None:
    assert list(loose(incoming()[place].core_schema)) == []


def test_a_loose_field_would_be_found() -> None:
    class Loose(BaseModel):
        inner: dict[str, list[int | None]]

    assert list(loose(TypeAdapter(list[Loose]).core_schema))


def test_false_is_no_temperature_true_no_reading_yes_no_boolean_and_0_no_date(api: httpx.Client) -> None:
    job = Job(api).describe()
    sitting = job.sitting()
    for body, field in (
        ({"ambient_c": False}, "ambient_c"),
        ({"started_at": 0}, "started_at"),
        ({"started_at": "0"}, "started_at"),
        ({"mount": "1"}, "mount"),
    ):
        refused = job.put(f"/sittings/{new_id()}", {"build": job.build, "started_at": "2026-05-04T09:10:00Z"} | body)
        assert refused.status_code == 422, body
        assert refused.json()["errors"][0]["field"] == field
    run = job.row(sitting, 1, True)
    assert job.post("/runs", {"runs": [run]}).status_code == 422
    assert job.post("/runs", {"runs": [job.row(sitting, 1, 41.9, warm_up="yes")]}).status_code == 422
    assert api.get("/machines", params={"day": "0"}).status_code == 422
    assert job.runs() == []

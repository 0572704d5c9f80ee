"""Two columns of figures, before anything else is asked; nothing is kept."""

from typing import Annotated, Literal

from fastapi import APIRouter
from pydantic import Field

from lynxbill.core.terms.measure import Better, Kind, Measure, MeasureId, Scale
from lynxbill.exchange.fields import Strict, Unit
from lynxbill.services.evidence.columns import compare_columns
from lynxbill.words.results.columns import say_columns

router = APIRouter(tags=["columns"])
Column = Annotated[str, Field(max_length=200_000)]


class ColumnsIn(Strict):
    """What the figures are, and both columns as they were typed: one figure a line."""

    unit: Unit
    scale: Scale
    kind: Kind
    better: Better
    before: Column
    after: Column
    decimal_mark: Literal[".", ","] = "."


class ColumnsOut(Strict):
    """`lines` say it; the last of them, that it is no verdict."""

    lines: list[str]
    looks_before: int
    looks_after: int
    before: float
    after: float
    gain_percent: float | None
    time_saved_percent: float | None


@router.post("/columns")
def post_columns(body: ColumnsIn) -> ColumnsOut:
    """Say how two columns of figures differ, in both forms where they are times."""
    measure = Measure(MeasureId("figures"), "figures", "", body.unit, body.scale, body.kind, body.better)
    columns = compare_columns(measure, body.before, body.after, body.decimal_mark)
    return ColumnsOut(
        lines=say_columns(columns, body.decimal_mark),
        looks_before=columns.looks[0],
        looks_after=columns.looks[1],
        before=columns.before,
        after=columns.after,
        gain_percent=columns.gain_percent,
        time_saved_percent=columns.time_saved_percent,
    )

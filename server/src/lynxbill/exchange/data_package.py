"""A Data Package: datapackage.json and CSV tables of runs, readings, results and costs, in one zip archive."""

import csv
import io
import json
import zipfile
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from decimal import Decimal

from lynxbill.core.record.frame import Case
from lynxbill.core.value.account import account_of
from lynxbill.core.value.bill import Billed

Cell = str | float | int | bool | Decimal | datetime | None
# What a spreadsheet would take for the beginning of a formula.
_FORMULA = ("=", "+", "-", "@", "\t", "\r")
# A zip archive of the same tables is the same bytes: it bears no clock's time.
_EPOCH = (1980, 1, 1, 0, 0, 0)


@dataclass(frozen=True, slots=True)
class Table:
    """A table with the type of each column in the words of Table Schema."""

    name: str
    columns: Mapping[str, str]
    rows: Sequence[Sequence[Cell]]


def write_data_package(case: Case, comparisons: Iterable[Billed]) -> bytes:
    """
    Write a machine's runs, readings, results and costs.

    Args:
        case: with all its runs.
        comparisons: whose results are written; what Judge has given to nobody has no verdict there.
    Returns: a zip archive; the same case gives the same bytes.
    """
    tables = (_runs(case), _readings(case), _results(case, comparisons), _costs(case))
    described = {
        "name": "lynxbill-machine",
        "title": case.machine.name,
        "profile": "tabular-data-package",
        "resources": [_describe(table) for table in tables],
    }
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
        _add(archive, "datapackage.json", json.dumps(described, indent=2, ensure_ascii=False) + "\n")
        for table in tables:
            _add(archive, f"{table.name}.csv", write_csv(table))
    return packed.getvalue()


def write_csv(table: Table) -> str:
    """Write a table as CSV (RFC 4180), with no cell that a spreadsheet would run as a formula."""
    text = io.StringIO()
    writer = csv.writer(text, lineterminator="\r\n")
    writer.writerow(table.columns)
    writer.writerows([_safe(cell) for cell in row] for row in table.rows)
    return text.getvalue()


def _safe(cell: Cell) -> str:
    if cell is None:
        return ""
    if isinstance(cell, bool):
        return "true" if cell else "false"
    if isinstance(cell, datetime):
        return cell.isoformat()
    if isinstance(cell, str):
        return f"'{cell}" if cell.startswith(_FORMULA) else cell
    return str(cell)


def _describe(table: Table) -> dict[str, object]:
    return {
        "name": table.name,
        "path": f"{table.name}.csv",
        "profile": "tabular-data-resource",
        "format": "csv",
        "mediatype": "text/csv",
        "encoding": "utf-8",
        "schema": {"fields": [{"name": name, "type": kind} for name, kind in table.columns.items()]},
    }


def _add(archive: zipfile.ZipFile, name: str, content: str) -> None:
    info = zipfile.ZipInfo(name, _EPOCH)
    info.compress_type = zipfile.ZIP_DEFLATED
    archive.writestr(info, content.encode())


def _runs(case: Case) -> Table:
    columns = {
        "run": "string",
        "sitting": "string",
        "build": "string",
        "purpose": "string",
        "workload": "string",
        "workload_version": "string",
        "position": "integer",
        "state": "string",
        "reason": "string",
        "warm_up": "boolean",
        "started_at": "datetime",
        "room_c": "number",
    }
    sittings = {sitting.id: sitting for sitting in case.sittings}
    rows = []
    for run in case.runs:
        sitting = sittings[run.sitting_id]
        rows.append(
            (
                run.id,
                sitting.id,
                case.build(sitting.build_id).letter,
                sitting.purpose,
                run.workload,
                run.workload_version,
                run.position,
                run.state,
                run.reason,
                run.warm_up,
                run.started_at or sitting.started_at,
                sitting.ambient_c,
            )
        )
    return Table("runs", columns, rows)


def _readings(case: Case) -> Table:
    columns = {
        "run": "string",
        "measure": "string",
        "unit": "string",
        "low": "number",
        "high": "number",
        "about": "boolean",
        "source": "string",
    }
    measures = {measure.id: measure for measure in case.measures}
    rows = [
        (run.id, measures[key].name, measures[key].unit, reading.low, reading.high, reading.about, reading.source)
        for run in case.runs
        for key, reading in run.readings.items()
    ]
    return Table("readings", columns, rows)


def _results(case: Case, comparisons: Iterable[Billed]) -> Table:
    columns = {
        "before": "string",
        "after": "string",
        "measure": "string",
        "role": "string",
        "verdict": "string",
        "provisional": "boolean",
        "before_mean": "number",
        "after_mean": "number",
        "estimate": "number",
        "low": "number",
        "high": "number",
        "level": "number",
        "gain_percent": "number",
        "per_10": "number",
    }
    letters: dict[str, str] = {build.id: build.letter for build in case.builds}
    rows: list[tuple[Cell, ...]] = []
    for billed in comparisons:
        comparison = billed.comparison
        for result in comparison.measures:
            interval = result.interval if result.is_given else None
            value = billed.bill.values.get(result.measure.id) if result.is_given else None
            rows.append(
                (
                    letters[comparison.before],
                    letters[comparison.after],
                    result.measure.name,
                    result.planned.role,
                    result.verdict.word if result.is_given else "not given",
                    result.provisional,
                    result.before_mean,
                    result.after_mean,
                    result.estimate,
                    interval.low if interval else None,
                    interval.high if interval else None,
                    interval.level if interval else None,
                    result.gain_percent,
                    value.gain_per_10 if value else None,
                )
            )
    return Table("results", columns, rows)


def _costs(case: Case) -> Table:
    columns = {
        "swap": "string",
        "kind": "string",
        "label": "string",
        "amount": "number",
        "currency": "string",
        "quantity": "number",
        "basis": "string",
        "worth": "number",
        "booked": "number",
        "in_sum": "boolean",
        "account_currency": "string",
    }
    rows = [
        (
            swap.label,
            entry.line.kind,
            entry.line.label,
            entry.line.amount,
            entry.line.currency,
            entry.line.quantity,
            entry.line.basis,
            entry.line.worth,
            entry.booked.likely if entry.booked else None,
            entry.counts,
            case.machine.currency,
        )
        for swap in case.swaps
        for entry in account_of(case, (swap,)).entries
    ]
    return Table("costs", columns, rows)

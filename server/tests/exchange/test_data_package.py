"""The Data Package: tables that other programs read, the same bytes for the same case, no formula in a cell."""

import csv
import io
import json
import zipfile
from dataclasses import replace
from decimal import Decimal

from lynxbill.core.record.frame import Case
from lynxbill.core.result.comparison import judge
from lynxbill.core.terms.money import CostLine
from lynxbill.core.value.bill import judge_and_bill
from lynxbill.exchange.data_package import Table, write_csv, write_data_package
from tests.builders import TIME, make_case
from tests.words.test_report import job


def tables_of(packed: bytes) -> dict[str, list[dict[str, str]]]:
    with zipfile.ZipFile(io.BytesIO(packed)) as archive:
        described = json.loads(archive.read("datapackage.json"))
        found = {}
        for resource in described["resources"]:
            rows = list(csv.DictReader(io.StringIO(archive.read(resource["path"]).decode(), newline="")))
            named = [field["name"] for field in resource["schema"]["fields"]]
            assert all(list(row) == named for row in rows), resource["name"]
            found[resource["name"]] = rows
        return found


def packed(case: Case) -> bytes:
    return write_data_package(case, [judge_and_bill(case)])


def test_every_run_reading_result_and_cost_stands_in_its_table() -> None:
    case = job()
    tables = tables_of(packed(case))
    assert len(tables["runs"]) == len(case.runs)
    assert [float(row["low"]) for row in tables["readings"]] == [run.readings[TIME.id].value for run in case.runs]
    (result,) = tables["results"]
    assert (result["measure"], result["verdict"]) == ("Job", "real_gain")
    assert float(result["gain_percent"]) == judge(case).measures[0].gain_percent
    (cost,) = tables["costs"]
    assert (Decimal(cost["booked"]), cost["in_sum"], cost["account_currency"]) == (Decimal("94.90"), "true", "EUR")


def test_what_was_given_to_nobody_has_no_verdict_there() -> None:
    case = job()
    hidden = replace(case, swaps=(replace(case.swaps[0], shown=()),))
    (result,) = tables_of(packed(hidden))["results"]
    assert (result["verdict"], result["low"], result["per_10"]) == ("not given", "", "")


def test_the_same_case_gives_the_same_bytes() -> None:
    assert packed(job()) == packed(job())


def test_no_cell_begins_a_formula_and_quotes_are_those_of_the_standard() -> None:
    table = Table("t", {"a": "string", "b": "number"}, [("=1+1", -2.5), ('a "b", c', None), ("@x", Decimal("-1.00"))])
    assert write_csv(table) == 'a,b\r\n\'=1+1,-2.5\r\n"a ""b"", c",\r\n\'@x,-1.00\r\n'


def test_names_of_an_owner_that_look_like_formulas_are_harmless() -> None:
    case = make_case([[1.0]], [[1.0]])
    evil = CostLine("part", "=HYPERLINK(1)", Decimal(1), "EUR")
    case = replace(case, swaps=(replace(case.swaps[0], costs=(evil,)),))
    (cost,) = tables_of(packed(case))["costs"]
    assert cost["label"] == "'=HYPERLINK(1)"

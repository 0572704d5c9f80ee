"""Sensor logs as other programs write them: their form is found, their rows are read, their faults are named."""

import io
from typing import Any

import numpy as np
import pytest

from lynxbill.core.heat.trace import Floats
from lynxbill.core.terms.errors import BadValue
from lynxbill.exchange import sensor_log
from lynxbill.exchange.problem import UnusableText
from lynxbill.exchange.sensor_log import LogColumn, LogHead, look_at_log, read_log


def taken(text: str, **known: LogColumn) -> tuple[LogHead, Floats, list[Floats]]:
    raw = text.encode()
    head = look_at_log(raw, known)
    columns = [column for column in head.columns if column.role is not None]
    parts = list(read_log(io.BytesIO(raw), head.form, columns, lambda _done: None))
    at = np.concatenate([part.at for part in parts])
    return head, at, [np.concatenate([part.values[n] for part in parts]) for n in range(len(columns))]


@pytest.mark.parametrize(
    ("text", "at", "values"),
    [
        ("Time [s],CPU temp [°C]\n0,41.5\n2,42\n", [0, 2], [41.5, 42]),
        ("Zeit;Kern °C;Raum\n10:00:00;41,5;x\n10:00:02;42,0;x\n", [0, 2], [41.5, 42]),
        ("Zeit;Kern °C\n10:00:00;1.041,5\n10:00:02;42,0\n", [0, 2], [1041.5, 42]),
        ("a log\n\nDate Time\tCPU °C\n2026-05-04 23:59:59\t41\n2026-05-05 00:00:01.5\t42\n", [0, 2.5], [41, 42]),
        ("Time,CPU °C\n04.05.2026 10:00:00.250,41\n04.05.2026 10:00:01.250,42\n", [0, 1], [41, 42]),
        ("Elapsed ms,CPU °C\n500,41\n1500,42\n", [0, 1], [41, 42]),
    ],
)
def test_the_ways_in_which_a_log_may_be_written_say_the_same(text: str, at: list[float], values: list[float]) -> None:
    _, found, (told,) = taken(text)
    assert (found.tolist(), told.tolist()) == (at, values)


def test_columns_are_taken_for_what_their_headings_say_and_what_was_said_once_stays() -> None:
    sentence = {"T3": LogColumn(0, "T3", "temperature", "drive", "Cel")}
    heading = "t [s],CPU Package [°C],Fan 1 [RPM],CPU Clock [GHz],GPU Power [W],Note,T3"
    head = look_at_log(f"{heading}\n0,41,900,3.5,20,x,30\n1,42,910,3.6,21,x,30\n".encode(), sentence)
    taken_for = {column.heading: (column.role, column.of, column.unit) for column in head.columns}
    assert taken_for == {
        "CPU Package [°C]": ("temperature", "processor", "Cel"),
        "Fan 1 [RPM]": ("fan", "board", "/min"),
        "CPU Clock [GHz]": ("clock", "processor", "GHz"),
        "GPU Power [W]": ("power", "graphics", "W"),
        "Note": (None, "board", "1"),
        "T3": ("temperature", "drive", "Cel"),
    }


@pytest.mark.parametrize(
    ("heading", "role", "unit"),
    [
        ("CPU °F", "temperature", "[degF]"),
        ("CPU temp (F)", "temperature", "[degF]"),
        ("CPU W", "power", "W"),
        ("CPU clock GHz", "clock", "GHz"),
        ("Fan 1 [%]", "fan", "%"),
        ("Fan 1", "fan", "/min"),
        ("GPU power limit [%]", None, "1"),
        ("CPU usage %", "load", "%"),
    ],
)
def test_a_unit_is_the_one_that_the_heading_names_and_no_other_is_made_up(
    heading: str, role: str | None, unit: str
) -> None:
    (column,) = look_at_log(f"s,{heading}\n0,41\n1,42\n".encode(), {}).columns
    assert (column.role, column.unit) == (role, unit)


@pytest.mark.parametrize("cell", ["158", "158 °F", "158F"])
def test_degrees_fahrenheit_are_kept_in_celsius(cell: str) -> None:
    head, _, (told,) = taken(f"s,CPU °F\n0,32\n1,{cell}\n")
    assert told == pytest.approx([0.0, 70.0])
    assert head.columns[0].kept_unit == "Cel"
    with pytest.raises(UnusableText) as refused:
        taken("s,CPU °F\n0,32\n1,70 °C\n")
    assert "“70 °C” is not in °F" in str(refused.value)


def test_no_figures_of_a_sensor_are_taken_for_the_time() -> None:
    """Times that fall are no reason to take the temperatures, which happen to rise, for them."""
    with pytest.raises(BadValue, match="No column of this log is a time"):
        look_at_log("s,CPU °C\n900,50\n895,51\n890,52\n".encode(), {})
    # A column of another name may be the time, but not one that stands still.
    unnamed = look_at_log("kept,counted,CPU °C\n7,1,50\n7,2,51\n7,3,52\n".encode(), {})
    assert unnamed.form.time == 1


def test_a_figure_beyond_all_sensors_is_named_by_its_row() -> None:
    with pytest.raises(UnusableText, match="row 3, “CPU °C”"):
        taken("s,CPU °C\n0,41\n1,1e308\n")


def test_gaps_stay_gaps_and_a_heading_that_comes_again_is_no_row() -> None:
    _, at, (told,) = taken("s,CPU °C\n0,41\n1,\n2,N/A\ns,CPU °C\n3,44\n")
    assert at.tolist() == [0, 1, 2, 3]
    assert np.isnan(told).tolist() == [False, True, True, False]


def test_a_clock_passes_midnight_and_ticks_slower_than_the_log(monkeypatch: pytest.MonkeyPatch) -> None:
    rows = "".join(
        f"23:59:{50 + n // 4:02d},{n}\n" if n < 40 else f"00:00:{n // 4 - 10:02d},{n}\n" for n in range(60)
    )
    whole = taken(f"Time,CPU °C\n{rows}")[1]
    assert np.allclose(np.diff(whole), 0.25)
    # In whatever blocks it is read, it is the same.
    monkeypatch.setattr(sensor_log, "ROWS_AT_ONCE", 7)
    assert np.allclose(taken(f"Time,CPU °C\n{rows}")[1], whole)


def test_a_clock_that_was_set_back_goes_on_and_one_that_jumps_ahead_leaves_a_gap(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    hours = ("10:00:00", "10:00:05", "10:00:10", "09:00:11", "09:00:16", "09:00:21", "10:30:00", "10:30:05")
    rows = "".join(f"{time},{number}\n" for number, time in enumerate(hours))
    at = taken(f"Time,CPU °C\n{rows}")[1]
    assert at.tolist() == [0, 5, 10, 15, 20, 25, 5404, 5409]
    monkeypatch.setattr(sensor_log, "ROWS_AT_ONCE", 2)
    assert np.allclose(taken(f"Time,CPU °C\n{rows}")[1], at)


@pytest.mark.parametrize(
    ("row", "sentence"),
    [
        ("3,warm", "row 5, “CPU °C”: “warm” is not a number"),
        ("later,44", "row 5, “time”: “later” is not a number"),
        ("1,44", "row 5, “time”: 1 comes after a later time"),
        ("3", "row 5: it has 1 cells, and 2 are needed"),
        ("3,44 K", "row 5, “CPU °C”: “44 K” is not in °C"),
    ],
)
def test_what_can_not_be_read_is_named_by_row_and_column(row: str, sentence: str) -> None:
    with pytest.raises(UnusableText) as error:
        taken(f"s,CPU °C\n0,41\n1,42\n2,43\n{row}\n")
    assert str(error.value.problems[0]).startswith(sentence)


@pytest.mark.parametrize("text", ["", "hello\nworld\n", "a,b\nx,y\n", "name,CPU °C\nx,1\ny,2\n", "\x00\x01"])
def test_what_is_no_log_is_refused(text: str) -> None:
    with pytest.raises(BadValue):
        look_at_log(text.encode(), {})


def test_a_table_in_another_encoding_is_read() -> None:
    text = "Zeit s;Lüfter rpm\n0;900\n1;950\n"
    for encoding in ("cp1252", "utf-16", "utf-8-sig"):
        raw = text.encode(encoding)
        head = look_at_log(raw, {})
        (rows,) = read_log(io.BytesIO(raw), head.form, head.columns, lambda _done: None)
        assert (head.columns[0].role, rows.values[0].tolist()) == ("fan", [900.0, 950.0]), encoding


def test_progress_is_told_in_bytes() -> None:
    told: list[Any] = []
    raw = ("s,CPU °C\n" + "".join(f"{n},41\n" for n in range(30_000))).encode()
    head = look_at_log(raw, {})
    list(read_log(io.BytesIO(raw), head.form, head.columns, told.append))
    assert told == sorted(told)
    assert told[-1] == len(raw)


def test_no_row_is_lost_where_a_log_ends_with_a_block(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(sensor_log, "ROWS_AT_ONCE", 5)
    for rows in (4, 5, 9, 10, 11):
        text = "s,CPU °C\n" + "".join(f"{number},{40 + number}\n" for number in range(rows))
        assert taken(text)[1].tolist() == list(range(rows))

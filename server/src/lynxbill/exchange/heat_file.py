"""Heat outside the product: what a table of seconds and °C, or the traces of a run file, come to."""

import io
from collections.abc import Callable, Mapping
from dataclasses import asdict, replace
from typing import Any

import numpy as np

from lynxbill.core.heat.equilibrium import Equilibrium, NotReached
from lynxbill.core.heat.roles import UNITS, ChannelRole
from lynxbill.core.heat.run import (
    Figure,
    PhaseFigures,
    RunHeat,
    air_of,
    channels_by_role,
    in_units,
    last_levels,
    look_at_run,
)
from lynxbill.core.heat.settled import Course
from lynxbill.core.heat.trace import Floats, WholeTrace
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import RunId
from lynxbill.core.terms.errors import BadValue
from lynxbill.exchange.problem import Problem, UnusableText
from lynxbill.exchange.run_file import read_run_file
from lynxbill.exchange.sensor_log import HEAD_BYTES, LogColumn, look_at_log, read_log

FORMAT, VERSION = "lynxbill-heat", 1
Sensors = list[tuple[ChannelRole, str, Floats, Floats]]


def describe_heat(text: bytes, say: Callable[[NotReached], str]) -> dict[str, Any]:
    """
    Describe the heat of a table of sensors, or of each trace of a run file.

    Args:
        say: why there is no equilibrium, in words.
    Raises:
        UnusableText: neither, with each problem by its place; no temperature among what it tells.
    """
    return {"format": FORMAT, "version": VERSION} | (
        _of_run_file(text, say) if text.lstrip()[:1] == b"{" else _of_table(text, say)
    )


def _of_run_file(text: bytes, say: Callable[[NotReached], str]) -> dict[str, Any]:
    traces: dict[RunId, WholeTrace] = {}
    case = read_run_file(text, traces=traces)
    rooms = {sitting.id: sitting.ambient_c for sitting in case.sittings}
    airs = {run.id: air_of(run, rooms.get(run.sitting_id)) for run in case.runs}
    runs = []
    for run, trace in traces.items():
        heat = look_at_run(channels_by_role(sensors_of(trace)), trace.marks, airs.get(run))
        if heat is not None:
            runs.append({"run": run} | _written(heat, say))
    if not runs:
        raise UnusableText([Problem("$.runs", "No run of this file has a trace with a temperature.")])
    return runs[0] if len(runs) == 1 else {"runs": runs}


def sensors_of(trace: WholeTrace) -> Sensors:
    """Every sensor of a trace that the core looks at, in its units."""
    sensors: Sensors = []
    for channel in (channel for channel in trace.channels if channel.role in UNITS):
        told = np.array([np.nan if value is None else value for value in channel.values], dtype=float)
        values = in_units(channel.role, channel.unit, told)
        if values is not None:
            sensors.append((channel.role, channel.of, np.array(channel.at), values))
    return sensors


def with_traced(case: Case, traces: Mapping[RunId, WholeTrace]) -> Case:
    """A case with what the traces of its runs tell beside a heat."""
    return replace(
        case,
        traced={run: last_levels(channels_by_role(sensors_of(one)), one.marks) for run, one in traces.items()},
    )


def _of_table(text: bytes, say: Callable[[NotReached], str]) -> dict[str, Any]:
    headed = _with_heading(text)
    try:
        head = look_at_log(headed[:HEAD_BYTES], {})
        columns = _taken(head.columns)
    except BadValue as refusal:
        raise UnusableText([Problem("row 1", str(refusal))]) from refusal
    if not any(column.role == "temperature" for column in columns):
        raise _no_heat()
    blocks = list(read_log(io.BytesIO(headed), head.form, columns, lambda _: None))
    if not blocks:
        raise UnusableText([Problem("row 2", "This table has a heading and no row of figures.")])
    at = np.concatenate([block.at for block in blocks])
    sensors: Sensors = []
    for number, column in enumerate(columns):
        values = np.concatenate([block.values[number] for block in blocks])
        if column.role is not None and column.role in UNITS:
            told = in_units(column.role, column.kept_unit, values)
            if told is not None:
                sensors.append((column.role, column.of, at, told))
    heat = look_at_run(channels_by_role(sensors))
    if heat is None:
        raise _no_heat()
    return _written(heat, say)


def _no_heat() -> UnusableText:
    return UnusableText([Problem("row 1", "No column of this table has a temperature.")])


def _with_heading(text: bytes) -> bytes:
    """Figures without a heading are seconds and °C."""
    first = text.lstrip().split(b"\n", 1)[0].strip()
    separator = next((mark for mark in (b";", b"\t", b",") if mark in first), b",")
    cells = first.split(separator)
    try:
        [float(cell) for cell in cells]
    except ValueError:
        return text
    more = [b"column %d" % number for number in range(3, len(cells) + 1)]
    return separator.join([b"seconds", b"temperature", *more]) + b"\n" + text.lstrip()


def _taken(columns: tuple[LogColumn, ...]) -> tuple[LogColumn, ...]:
    """Columns with a role; where none is a temperature, the first that nothing is known of is."""
    taken = tuple(column for column in columns if column.role is not None)
    if any(column.role == "temperature" for column in taken):
        return taken
    unknown = next((column for column in columns if column.role is None), None)
    if unknown is None:
        return taken
    return (replace(unknown, role="temperature", of="processor", unit="Cel"), *taken)


def _written(heat: RunHeat, say: Callable[[NotReached], str]) -> dict[str, Any]:
    return {
        "phases": [_phase(figures) for figures in heat.phases],
        "settled": None if heat.course is None else _course(heat.course),
        "fit": None if heat.equilibrium is None else _fit(heat.equilibrium, say),
    }


def _phase(figures: PhaseFigures) -> dict[str, Any]:
    held = figures.held_back
    return {
        "name": figures.phase.name,
        "from_s": figures.phase.began_s,
        "to_s": figures.phase.ended_s,
        "mean_c": figures.mean,
        "peak_c": figures.peak,
        "last_minute_c": None if figures.last_minute is None else figures.last_minute.value,
        "rise_k": figures.rise,
        "clock_mhz": figures.clock,
        "power_w": None if figures.power is None else figures.power.value,
        "fan_rpm": figures.fan,
        "noise_db": figures.noise,
        "held_back": None
        if held is None
        else {"share": held.share, "causes": held.causes, "clock_mhz": held.clock, "sustained_mhz": held.sustained},
        "resistance_k_per_w": _figure(figures.resistance),
    }


def _figure(figure: Figure | None) -> dict[str, Any] | None:
    return None if figure is None else asdict(figure)


def _course(course: Course) -> dict[str, Any]:
    return {
        "settled": course.settled,
        "moving": course.moving,
        "value_c": course.value,
        "since_s": course.since_s if course.settled else None,
        "end_c": course.end,
        "heading_c": course.heading,
        "left_k": course.left,
        "gone": course.gone,
        "minutes_more": course.minutes,
        "slope_k_per_min": course.per_min,
        "may_move_k": course.drift,
    }


def _fit(found: Equilibrium | NotReached, say: Callable[[NotReached], str]) -> dict[str, Any]:
    if isinstance(found, NotReached):
        nothing = dict.fromkeys(("t_inf", "t_inf_error", "low", "high", "level", "tau", "tau_error"))
        more = dict.fromkeys(("tau_2", "tau_2_error", "amplitudes", "phi_per_s", "sd", "df", "n_eff"))
        return nothing | more | {"n": found.n, "refusal": found.why, "reason": say(found)}
    longest = len(found.taus) - 1
    return {
        "t_inf": found.t_inf,
        "t_inf_error": found.t_inf_error,
        "low": found.low,
        "high": found.high,
        "level": found.level,
        "tau": found.taus[longest],
        "tau_error": found.tau_errors[longest],
        "tau_2": found.taus[0] if longest else None,
        "tau_2_error": found.tau_errors[0] if longest else None,
        "amplitudes": found.amplitudes[::-1],
        "phi_per_s": found.phi,
        "sd": found.sd,
        "df": found.df,
        "n": found.n,
        "n_eff": found.n_eff,
        "refusal": None,
        "reason": None,
    }

"""
Soaks: all cores at work for so long, or in steps of a third, with what the sensors say meanwhile.

Figures of a trace are means of its last minute, or of as much as there is. What no sensor tells is missing, with the
reason; it is never zero.
"""

import time
from collections.abc import Iterator, Mapping
from contextlib import contextmanager

from lynxbill.bench.work.compute import relief_sheet
from lynxbill.bench.work.crew import crew, hand_out
from lynxbill.bench.work.own import OwnProgram, running
from lynxbill.bench.workload import (
    Bench,
    BenchWorkload,
    CannotRun,
    Figures,
    Parameters,
    StatedMeasure,
    seconds_in,
)

LAST_S = 60.0
ALONE = "nothing"
SHEETS = 50
# Below this spread of power the slope would be of noise.
LEAST_POWERS_W = 2.0


def _load(bench: Bench, threads: int, seconds: float, done_s: float, of_s: float) -> float | None:
    """Keep so many threads at work; answers the sheets a second of the last minute, None where none was done."""
    with crew(threads, relief_sheet, None) as pipes:
        ends, counted, since = time.perf_counter() + seconds, 0, None
        while (left := ends - time.perf_counter()) > 0:
            if since is None and left <= LAST_S:
                since = time.perf_counter()
                counted = 0
            for _ in hand_out(pipes, SHEETS * threads):
                counted += 1
            bench.progress(min(1.0, (done_s + seconds - max(0.0, left)) / of_s))
    return counted / (time.perf_counter() - (since or ends - seconds)) or None


def _perform_soak(parameters: Parameters, bench: Bench) -> Figures:
    seconds = seconds_in(parameters, "minutes") * 60
    bench.trace.mark("load")
    with _beside(parameters, bench):
        sheets = _load(bench, bench.threads, seconds, 0.0, seconds)
    readings, missing = _at_the_end(bench, min(LAST_S, seconds / 2))
    if sheets is None:
        return Figures(readings, {**missing, "rate": "not one sheet was done in the last minute"})
    return Figures({"rate": sheets, **readings}, missing)


@contextmanager
def _beside(parameters: Parameters, bench: Bench) -> Iterator[None]:
    """The technician's own program beside it, where one is named: for a part that shares the heatsink."""
    name = parameters.get("beside", ALONE)
    if name == ALONE:
        yield
        return
    program = bench.commands.get(str(name))
    if not isinstance(program, OwnProgram):
        raise CannotRun(f"“{name}” is not described on this machine: it was to run beside the soak.")
    with running(program):
        yield


def _at_the_end(bench: Bench, last_s: float) -> tuple[Mapping[str, float], Mapping[str, str]]:
    readings, missing = dict[str, float](), dict[str, str]()
    for role in ("temperature", "clock", "power", "fan"):
        value = bench.trace.settled(role, last_s)
        if value is None:
            missing[role] = f"no sensor for {role} here"
        else:
            readings[role] = value
    return readings, missing


def _perform_steps(parameters: Parameters, bench: Bench) -> Figures:
    seconds = seconds_in(parameters, "minutes a step") * 60
    points: list[tuple[float, float]] = []
    for step in range(3):
        threads = max(1, round(bench.threads * (step + 1) / 3))
        bench.trace.mark(("a third", "two thirds", "all cores")[step])
        _load(bench, threads, seconds, step * seconds, 3 * seconds)
        power, temperature = (
            bench.trace.settled(role, min(LAST_S, seconds / 2)) for role in ("power", "temperature")
        )
        if power is None or temperature is None:
            lacks = "power" if power is None else "temperature"
            return Figures({}, {"resistance": f"no sensor for {lacks} here"})
        points.append((power, temperature))
    slope = resistance(points)
    if slope is None:
        return Figures({}, {"resistance": "the three loads took about the same power"})
    return Figures({"resistance": slope})


def resistance(points: list[tuple[float, float]]) -> float | None:
    """The slope of temperature against power, in K/W; None where the powers lie too close."""
    powers = [power for power, _ in points]
    if max(powers) - min(powers) < LEAST_POWERS_W:
        return None
    centre_w, centre_c = sum(powers) / len(points), sum(celsius for _, celsius in points) / len(points)
    squares = sum((power - centre_w) ** 2 for power in powers)
    return sum((power - centre_w) * (celsius - centre_c) for power, celsius in points) / squares


SOAK = BenchWorkload(
    key="soak",
    name="Soak",
    version="1",
    parameters={"minutes": 20, "beside": ALONE},
    loads=("processor", "cooler", "thermal paste"),
    measures=(
        StatedMeasure("temperature", "Soak, processor, last minute", "Cel", "heat", "lower", "difference"),
        StatedMeasure("clock", "Soak, clock held, last minute", "MHz", "clock", "higher"),
        StatedMeasure("power", "Soak, power drawn, last minute", "W", "power", "lower"),
        StatedMeasure("fan", "Soak, fan, last minute", "/min", "fan", "lower", "difference"),
        StatedMeasure("rate", "Soak, sheets shaded, last minute", "/s", "rate", "higher"),
    ),
    perform=_perform_soak,
    card="All cores at work for twenty minutes; each figure is the mean of the last minute.",
    minutes=20.0,
)


def _needs_both(_parameters: Parameters, bench: Bench) -> None:
    lacking = [role for role in ("power", "temperature") if bench.told is not None and role not in bench.told]
    if lacking:
        raise CannotRun(f"no sensor for {' and '.join(lacking)} here: it reads kelvin for each watt more.")


STEPS = BenchWorkload(
    key="stepped-load",
    name="Stepped load",
    version="1",
    parameters={"minutes a step": 8},
    loads=("processor", "cooler", "thermal paste"),
    measures=(StatedMeasure("resistance", "Thermal resistance", "K/W", "other", "lower"),),
    perform=_perform_steps,
    needs=_needs_both,
    card="A third, two thirds and all of the cores at work, eight minutes each: kelvin for each watt more.",
    minutes=24.0,
)

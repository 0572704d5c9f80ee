"""What every machine of the demo is made with: jobs, their noise, costs, and runs on simulated PCs."""

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta
from decimal import Decimal
from typing import Any
from uuid import UUID, uuid5

import numpy as np

from lynxbill.core.change.difference import find_differences
from lynxbill.core.heat.held_back import limits_of
from lynxbill.core.heat.readoff import STATISTICS, as_noted, phases_of, read_off, role_read
from lynxbill.core.heat.run import Air, channels_by_role
from lynxbill.core.heat.trace import WholeTrace
from lynxbill.core.record.build import Build, PartRole
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import Plain, RunId
from lynxbill.core.record.run import Reading, Run, Sitting
from lynxbill.core.record.workload import Workload
from lynxbill.core.result.comparison import judge, showings_of
from lynxbill.core.terms.measure import Better, Kind, Measure, MeasureId, Role, Scale
from lynxbill.core.terms.money import CostKind, CostLine
from lynxbill.exchange.heat_file import sensors_of
from lynxbill.rig.machine import Noise, Rig
from lynxbill.rig.parts import Pc
from lynxbill.rig.sitting import RigRun, perform_once

Readings = Mapping[MeasureId, Reading]
SPACE = UUID("6d1f0c52-3a53-4c0e-9d4e-7c7d52a1b0f4")
FIRST_DAY = datetime(2026, 5, 4, 9, 10, tzinfo=UTC)
SITTINGS = 3
# Of a job, unless it takes so long that a shop repeats it less often.
RUNS = 5


@dataclass(frozen=True)
class Truth:
    """
    A measure of the owner's own program, with its true values on builds A to D; scatter in percent for ratios, else
    in its unit.
    """

    measure: Measure
    runs: int
    true: tuple[float, float, float, float]
    run_sd: float
    sitting_sd: float
    cold: float
    role: Role
    matters_from: float
    hoped_for: float | None = None
    weight: float | None = None


def identifier(noun: str) -> str:
    return str(uuid5(SPACE, noun))


def measure(
    name: str,
    workload: str,
    unit: str,
    kind: Kind,
    better: Better,
    step: float,
    scale: Scale = "ratio",
) -> Measure:
    return Measure(
        identifier(f"measure {workload} {name}"),
        name,
        workload,
        unit,
        scale,
        kind,
        better,
        step,
    )


WORKLOADS: dict[str, tuple[tuple[PartRole, ...], str | None, str, float]] = {
    "Day's map tiles": (
        ("processor", "memory", "cooler"),
        None,
        "Twelve sheets of the valley, from the queue.",
        0.7,
    ),
    "Aerial photo strip": (
        ("processor", "memory"),
        None,
        "Forty photos, stitched to one strip.",
        2.0,
    ),
    "Month's archive": (
        ("processor", "memory"),
        None,
        "May's sheets into one archive.",
        0.5,
    ),
    "Project open": (
        ("processor", "drive"),
        None,
        "The valley project, after a restart.",
        0.3,
    ),
    "Drive, long": (("drive",), "Siskin 480 GB", "", 0.5),
    "Drive, scattered": (
        ("drive",),
        "Siskin 480 GB",
        "16 KiB blocks, eight asked for at once.",
        0.5,
    ),
    "Twenty-minute soak": (
        ("processor", "cooler", "thermal paste"),
        None,
        "All cores busy for twenty minutes.",
        20.0,
    ),
    "Field map": (
        ("processor", "memory"),
        None,
        "The valley at full zoom, redrawn by hand.",
        0.2,
    ),
    "Soak in the sun": (
        ("processor", "cooler", "thermal paste"),
        None,
        "All cores busy for twenty minutes, in a room as warm as a van.",
        20.0,
    ),
    "Drive, from anywhere": (("drive",), None, "Blocks of 4 KiB from anywhere on the drive, one at a time.", 0.5),
    "Start to desktop": (
        ("drive",),
        None,
        "Power button to a desktop that answers, by stopwatch.",
        1.5,
    ),
    "Twenty map sheets": (
        ("drive", "processor"),
        None,
        "Twenty sheets through the feeder into one folder.",
        7.0,
    ),
    "Sharpen a sheet": (("processor",), None, "One sheet, already in memory.", 0.6),
}


def workloads_of(truths: tuple[Truth, ...]) -> tuple[Workload, ...]:
    names = dict.fromkeys(truth.measure.workload for truth in truths)
    return tuple(workload_named(name) for name in names)


# What each is held to in every run.
ALWAYS: dict[str, dict[str, Plain]] = {
    "Day's map tiles": {"MB of input": 820, "files": 12},
    "Aerial photo strip": {"MB of input": 3100, "files": 40},
    "Month's archive": {"MB of input": 1450, "files": 31},
    "Project open": {"MB of input": 240, "files": 18},
    "Drive, scattered": {"KiB a block": 16, "asked for at once": 8},
    "Drive, from anywhere": {"KiB a block": 4, "asked for at once": 1},
    "Twenty-minute soak": {"minutes": 20},
}


def workload_named(name: str) -> Workload:
    loads, target, card, minutes = WORKLOADS[name]
    return Workload(identifier(f"workload {name}"), name, "1", ALWAYS.get(name, {}), loads, target, card, minutes)


def declared(before: Build, after: Build) -> tuple[str, ...]:
    return tuple(difference.key for difference in find_differences(before, after))


def cost(
    kind: CostKind, label: str, amount: str, low: str | None = None, high: str | None = None, **members: Any
) -> CostLine:
    bounds = [None if bound is None else Decimal(bound) for bound in (low, high)]
    return CostLine(kind, label, Decimal(amount), "EUR", *bounds, **members)


def hours(amount: str) -> CostLine:
    return cost("labour", "Labour", "35.00", quantity=Decimal(amount), unit="h")


def with_ledger(case: Case, evenings: Sequence[datetime]) -> Case:
    """The verdict of each swap was shown to its owner on an evening after its last sitting."""
    for number, (swap, at) in enumerate(zip(case.swaps, evenings, strict=True)):
        comparison = judge(case, swap.before, swap.after)
        entries = showings_of(case, comparison, comparison.measures, at=at, by="this computer")
        swaps = list(case.swaps)
        swaps[number] = replace(swap, shown=entries)
        case = replace(case, swaps=tuple(swaps))
    return case


def held(start: datetime, boot: str) -> dict[str, Any]:
    """Every sitting was held in a boot of its own, which the agent read, and was closed at its end."""
    return {"boot": f"boot {boot}", "boot_by": "read", "closed_at": start + timedelta(minutes=95)}


HELD_TOWER = {"fan": "automatic", "power_source": "mains"}


Traces = dict[RunId, WholeTrace]
# No run of the demo fails by chance.
STEADY = Noise(fails=0, disturbed=0)


@dataclass(frozen=True)
class Bench:
    """
    Work that a simulated PC does: the machine's workload, the agent's work that stands behind it, how often it is
    done, after how long a rest, and what is read off it.
    """

    workload: str
    key: str
    parameters: Mapping[str, Plain]
    runs: int
    read: Callable[[RigRun, Sitting], Readings]
    rest_min: float = 0.0
    traced: bool = False
    every_s: float = 10.0


def held_on(pc: Pc, sitting: Sitting, seed: int, *works: Bench, noise: Noise = STEADY) -> tuple[list[Run], Traces]:
    """Do the works of one sitting on a simulated PC in the sitting's room, and keep the traces of those that ask."""
    rig = Rig(replace(pc, room_c=sitting.ambient_c or 22.0), seed, noise, speed=math.inf)
    runs, traces = list[Run](), Traces()
    for work in works:
        for position in range(1, work.runs + 1):
            rest = work.rest_min if position > 1 else 0.0
            made = perform_once(
                rig, work.key, work.parameters, sitting.started_at, rest_min=rest, every_s=work.every_s
            )
            run = Run(
                id=RunId(identifier(f"run {sitting.id} {work.workload} {position}")),
                sitting_id=sitting.id,
                workload=work.workload,
                workload_version="1",
                parameters=ALWAYS.get(work.workload, work.parameters),
                target=WORKLOADS[work.workload][1] if work.workload in WORKLOADS else None,
                position=position,
                state="complete",
                readings=work.read(made, sitting),
                started_at=made.started_at,
                duration_s=made.duration_s,
                conditions={"rest_min": made.rest_min, "start_c": made.start_c},
            )
            runs.append(run)
            if work.traced:
                traces[run.id] = made.trace
    return runs, traces


def off_trace(
    measures: tuple[Measure, ...], limits: Mapping[str, object] | None = None
) -> Callable[[RigRun, Sitting], Readings]:
    """Read what measures read off a run's trace, as the product reads it of a machine with these limits."""

    def read(made: RigRun, sitting: Sitting) -> Readings:
        channels = channels_by_role(sensors_of(made.trace))
        phases = phases_of(channels, made.trace.marks)
        air = None if sitting.ambient_c is None else Air(sitting.ambient_c)
        readings = {}
        for one in measures:
            role = role_read(one)
            if role is None or one.trace_figure is None:
                continue
            found = as_noted(read_off(one, role, channels, phases, air, limits_of(limits or {})), one)
            if found.value is not None:
                readings[one.id] = Reading(found.value, found.value, statistic=STATISTICS.get(one.trace_figure))
        return readings

    return read


def plain(value: float, digits: int, **fields: Any) -> Reading:
    """A reading, rounded as it is written down."""
    return Reading(round(value, digits), round(value, digits), **fields)


def own_runs(
    sitting: Sitting, build: int, generator: np.random.Generator, all_truths: tuple[Truth, ...], more: int = 0
) -> list[Run]:
    """Runs of the owner's own programs; `more` are done of the first than are planned."""
    shifts = {truth.measure.id: generator.normal(0, truth.sitting_sd) for truth in all_truths}
    runs = []
    for number, workload in enumerate(dict.fromkeys(truth.measure.workload for truth in all_truths)):
        truths = [truth for truth in all_truths if truth.measure.workload == workload]
        for position in range(1, truths[0].runs + (0 if number else more) + 1):
            noises = {t.measure.id: shifts[t.measure.id] + generator.normal(0, t.run_sd) for t in truths}
            runs.append(
                Run(
                    id=identifier(f"run {sitting.id} {workload} {position}"),
                    sitting_id=sitting.id,
                    workload=workload,
                    workload_version="1",
                    parameters=ALWAYS.get(workload, {}),
                    target=WORKLOADS[workload][1],
                    position=position,
                    state="complete",
                    readings={t.measure.id: _reading(t, build, noises[t.measure.id], position) for t in truths},
                )
            )
    return runs


def _reading(truth: Truth, build: int, noise: float, position: int) -> Reading:
    slowness = noise + (truth.cold if position == 1 else 0.0)
    direction = 1 if truth.measure.better == "lower" else -1
    true = truth.true[build]
    value = true * (1 + direction * slowness / 100) if truth.measure.scale == "ratio" else true + noise
    step = truth.measure.step or 0.01
    value = round(round(value / step) * step, 6)
    return Reading(value, value)

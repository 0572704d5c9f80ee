"""
Makes the demo, Fenwick Map Room, as run files beside this script: the plotting PC with a ladder of four builds and
known true gains, a field laptop whose baseline waits for one more sitting, the scanner-room tower, whose case is open
for a new drive, and the light-table PC, whose cooler was changed and judged.

Soaks of the laptop and the light table were held on simulated PCs (lynxbill.rig), with their traces.

Usage: make_fenwick.py

The noise is that of real benches: scatter between runs, a shift with every sitting, a cold first run.
"""

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from datetime import UTC, date, datetime, timedelta
from decimal import Decimal
from functools import partial
from pathlib import Path
from typing import Any
from uuid import UUID, uuid5

import numpy as np

from lynxbill.bench.job import measure_id, workload_id
from lynxbill.bench.work.soak import SOAK as AGENT_SOAK
from lynxbill.core.case import (
    BenchNote,
    Build,
    BuildId,
    Candidate,
    Case,
    Explanation,
    Machine,
    MachineId,
    Part,
    PartRole,
    Plain,
    Plan,
    PlannedMeasure,
    Reading,
    Recheck,
    Recognition,
    Run,
    RunId,
    Sitting,
    SittingId,
    Start,
    Step,
    Swap,
    SwapId,
    Workload,
    WorkloadId,
)
from lynxbill.core.comparison import judge, showings_of
from lynxbill.core.difference import find_differences
from lynxbill.core.measure import Better, Kind, Measure, MeasureId, Role, Scale
from lynxbill.core.money import CostKind, CostLine, Running
from lynxbill.core.templates import BUILT_IN
from lynxbill.core.trace import WholeTrace
from lynxbill.exchange.run_file import write_run_file
from lynxbill.rig.machine import Noise, Rig
from lynxbill.rig.parts import RIGS, Pc
from lynxbill.rig.sitting import RigRun, perform_once

Readings = Mapping[MeasureId, Reading]
SPACE = UUID("6d1f0c52-3a53-4c0e-9d4e-7c7d52a1b0f4")
FIRST_DAY = datetime(2026, 5, 4, 9, 10, tzinfo=UTC)
SITTINGS = 3
# Of a job, unless it takes so long that a shop repeats it less often.
RUNS = 5
DRAWN = {"Day's map tiles": 6}
SEED = 8440


@dataclass(frozen=True)
class Truth:
    """A measure with its true values on builds A to D; scatter in percent for ratios, else in its unit."""

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


SEQUENTIAL_READ = replace(measure("Long read", "Drive, long", "MBy/s", "rate", "higher", 1), rated_as="read_mbs")
TRUTHS = (
    Truth(measure("Tile rendering", "Day's map tiles", "s", "time", "lower", 0.1), 5,
          (43.9, 41.8, 31.2, 30.9), 0.6, 0.4, 1.5, "claim", 1.5, 25, 3),
    Truth(measure("Photo stitching", "Aerial photo strip", "s", "time", "lower", 0.1), 5,
          (131.0, 126.0, 97.4, 91.6), 0.6, 0.4, 1.0, "claim", 1.5, 20, 2),
    Truth(measure("Archive packing", "Month's archive", "MBy/s", "rate", "higher", 1), 5,
          (203.0, 212.0, 271.0, 272.0), 0.8, 0.4, 1.0, "claim", 1.5, None, 1),
    Truth(measure("Project open", "Project open", "s", "time", "lower", 0.01), 5,
          (9.14, 9.12, 9.08, 9.05), 0.8, 0.4, 2.0, "claim", 3.0, None, 1),
    Truth(SEQUENTIAL_READ, 5,
          (512.0, 512.0, 513.0, 512.0), 0.4, 0.2, 0.0, "control", 2.0),
    Truth(measure("Scattered read, 16 KiB blocks", "Drive, scattered", "MBy/s", "rate", "higher", 0.1), 5,
          (33.1, 33.0, 33.4, 33.5), 4.0, 3.5, 0.0, "control", 2.0),
    Truth(measure("Soak, above ambient", "Twenty-minute soak", "K", "heat", "lower", 0.1, "difference"), 2,
          (55.0, 48.2, 52.8, 52.9), 0.4, 0.3, 0.0, "claim", 1.0),
    Truth(measure("Noise at 50 cm", "Twenty-minute soak", "dB[SPL]", "noise", "lower", 0.1, "level"), 2,
          (38.6, 36.1, 36.4, 36.4), 0.25, 0.15, 0.0, "claim", 1.0),
)  # fmt: skip

FOUR_CORE = Part(identifier("four-core"), "processor", "Varro 4-core",
                 {"cores": 4, "threads": 4, "base_ghz": 3.2, "boost_ghz": 3.6, "power_w": 51,
                  "socket": "V2"})  # fmt: skip
SIX_CORE = Part(identifier("six-core"), "processor", "Varro 6-core, used",
                {"cores": 6, "threads": 12, "base_ghz": 3.4, "boost_ghz": 3.9, "power_w": 65,
                 "socket": "V2"})  # fmt: skip
COOLER = Part(
    identifier("cooler"),
    "cooler",
    "Ostrel tower, 92 mm fan",
    {"rated_w": 95, "fan_mm": 92},
)
OLD_PASTE = Part(identifier("old paste"), "thermal paste", "as delivered", {"applied": "2021-02"})
PASTE = Part(identifier("paste"), "thermal paste", "Ostrel P2", {"applied": "2026-05-05"})
ONE_MODULE = Part(
    identifier("module 1"),
    "memory",
    "Marl 8 GB",
    {"size_gb": 8, "modules": 1, "rate_mts": 2666, "channels": 1},
)
TWO_MODULES = Part(
    identifier("module 2"),
    "memory",
    "Marl 16 GB kit",
    {"size_gb": 16, "modules": 2, "rate_mts": 2666, "channels": 2},
)
DRIVE = Part(
    identifier("drive"),
    "drive",
    "Siskin 480 GB",
    {"size_gb": 480, "lanes": 4, "link_gts": 8, "read_mbs": 540},
)
SUPPLY = Part(identifier("supply"), "power supply", "Quarl 250 W", {"power_w": 250})

LIMITS = {"socket": "V2", "processor_max_w": 65, "processor_max_cores": 6, "memory_slots": 2, "memory_max_gb": 32,
          "memory_max_mts": 2666, "drive_link_gts": 8, "drive_lanes": 4, "supply_w": 250,
          "free_leads": 0}  # fmt: skip
HELD = {
    "ambient_low_c": 21,
    "ambient_high_c": 25,
    "fan": "automatic",
    "power_limit_w": 65,
    "power_source": "mains",
}

LAPTOP_PARTS = (
    Part(
        identifier("laptop processor"),
        "processor",
        "Varro 4-core, mobile",
        {"cores": 4, "threads": 8, "power_w": 28},
    ),
    Part(
        identifier("laptop paste"),
        "thermal paste",
        "as delivered",
        {"applied": "2023-06"},
    ),
    Part(identifier("laptop memory"), "memory", "Marl 8 GB", {"size_gb": 8}),
    Part(identifier("laptop drive"), "drive", "Siskin 240 GB", {"lanes": 2}),
)
LAPTOP_TRUTHS = (
    Truth(measure("Map redraw", "Field map", "s", "time", "lower", 0.01), 5,
          (8.4, 8.4, 8.4, 8.4), 1.0, 0.6, 2.0, "claim", 3.0),
)  # fmt: skip
LAPTOP_RISE = replace(
    measure("Soak, above ambient", "Ten-minute soak", "K", "heat", "lower", 0.1, "difference"),
    trace_figure="last minute",
)
LAPTOP_CLOCK = replace(
    measure("Clock held", "Ten-minute soak", "MHz", "clock", "higher", 1), trace_figure="last minute"
)
LAPTOP_SOAKS = 3
SOAK = {"work": "soak", "minutes": 10}

TOWER_BEFORE = (
    Part(
        identifier("tower processor"),
        "processor",
        "Varro 2-core",
        {"cores": 2, "threads": 2, "base_ghz": 3.0},
    ),
    Part(identifier("tower memory"), "memory", "Marl 4 GB", {"size_gb": 4, "modules": 1}),
    Part(
        identifier("tower drive"),
        "drive",
        "Siskin spinning, 500 GB",
        {"size_gb": 500, "read_mbs": 125},
    ),
)
TOWER_DRIVE = Part(
    identifier("tower new drive"),
    "drive",
    "Siskin 240 GB",
    {"size_gb": 240, "read_mbs": 520},
)
TOWER_TRUTHS = (
    Truth(measure("Start-up", "Start to desktop", "s", "time", "lower", 0.1), 5,
          (74.0, 18.0, 18.0, 18.0), 1.2, 0.8, 3.0, "claim", 5.0, 50),
    Truth(measure("Scan to folder", "Twenty map sheets", "s", "time", "lower", 1), 5,
          (412.0, 355.0, 355.0, 355.0), 0.8, 0.5, 0.5, "claim", 2.0, None),
    Truth(measure("Sheet sharpening", "Sharpen a sheet", "s", "time", "lower", 0.1), 5,
          (31.4, 31.4, 31.4, 31.4), 0.4, 0.2, 0.5, "control", 2.0),
)  # fmt: skip

BUILDS = (
    Build(identifier("build A"), "A", "As received",
          (FOUR_CORE, COOLER, OLD_PASTE, ONE_MODULE, DRIVE, SUPPLY), {"threads": 4, "power_limit_w": 65}),
    Build(identifier("build B"), "B", "Fresh paste",
          (FOUR_CORE, COOLER, PASTE, ONE_MODULE, DRIVE, SUPPLY), {"threads": 4, "power_limit_w": 65}),
    Build(identifier("build C"), "C", "Six cores",
          (SIX_CORE, COOLER, PASTE, ONE_MODULE, DRIVE, SUPPLY), {"threads": 12, "power_limit_w": 65}),
    Build(identifier("build D"), "D", "16 GB",
          (SIX_CORE, COOLER, PASTE, TWO_MODULES, DRIVE, SUPPLY), {"threads": 12, "power_limit_w": 65}),
)  # fmt: skip


def cost(
    kind: CostKind, label: str, amount: str, low: str | None = None, high: str | None = None, **members: Any
) -> CostLine:
    bounds = [None if bound is None else Decimal(bound) for bound in (low, high)]
    return CostLine(kind, label, Decimal(amount), "EUR", *bounds, **members)


def hours(amount: str) -> CostLine:
    return cost("labour", "Labour", "35.00", quantity=Decimal(amount), unit="h")


BOTH_PASTED = {identifier("swap 0"): Decimal(1), identifier("swap 1"): Decimal(1)}
MAPPING_DAY = Running(by="hours", a_day=6, days_a_year=250, before=58, after=66)
SWAPS = (
    ("Dust-out and paste", ("dust-out", "fresh paste"),
     [cost("consumable", "Paste, a small tube", "2.80", split_by="by use", shares=BOTH_PASTED),
      cost("consumable", "Compressed air", "5.00", quantity=Decimal("0.25"), unit="of a can"), hours("0.15")]),
    ("Processor, 4 to 6 cores", ("fresh paste",),
     [cost("part", "Varro 6-core", "118.00", basis="used", supplier="a local auction"),
      cost("shipping", "Shipping", "6.50"), hours("0.6"),
      cost("electricity", "Electricity while mapping", "0.32", running=MAPPING_DAY),
      cost("resale", "Old 4-core, offers so far", "52.00", "40.00", "60.00")]),
    ("Memory, 8 to 16 GB", (),
     [cost("part", "Marl 16 GB kit", "49.00", basis="new"), hours("0.1"),
      cost("resale", "Old module", "11.50", "8.00", "14.00")]),
)  # fmt: skip


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
    "Ten-minute soak": (
        ("processor", "cooler", "thermal paste"),
        None,
        "All cores busy for ten minutes.",
        10.0,
    ),
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


def repeats(truths: tuple[Truth, ...]) -> dict[str, int]:
    """How often each job is done in a sitting, where that is not the usual number."""
    return {truth.measure.workload: truth.runs for truth in truths if truth.runs != RUNS}


def workloads_of(truths: tuple[Truth, ...]) -> tuple[Workload, ...]:
    names = dict.fromkeys(truth.measure.workload for truth in truths)
    return tuple(_workload(name) for name in names)


# What each is held to in every run.
ALWAYS: dict[str, dict[str, Plain]] = {
    "Day's map tiles": {"MB of input": 820, "files": 12},
    "Aerial photo strip": {"MB of input": 3100, "files": 40},
    "Month's archive": {"MB of input": 1450, "files": 31},
    "Project open": {"MB of input": 240, "files": 18},
    "Drive, scattered": {"KiB a block": 16, "asked for at once": 8},
    "Twenty-minute soak": {"minutes": 20},
    "Ten-minute soak": {"minutes": 10},
}


def _workload(name: str) -> Workload:
    loads, target, card, minutes = WORKLOADS[name]
    return Workload(identifier(f"workload {name}"), name, "1", ALWAYS.get(name, {}), loads, target, card, minutes)


def declared(before: Build, after: Build) -> tuple[str, ...]:
    return tuple(difference.key for difference in find_differences(before, after))


def candidate(
    name: str,
    role: PartRole,
    label: str,
    price: tuple[str, str, str],
    gain: tuple[float, float, float],
    **members: Any,
) -> Candidate:
    low, likely, high = (Decimal(amount) for amount in price)
    return Candidate(
        identifier(f"candidate {name}"), role, label, price=likely, price_low=low, price_high=high,
        gain_low=gain[0], expected_gain=gain[1], gain_high=gain[2], **members,
    )  # fmt: skip


CANDIDATES = (
    candidate("drive", "drive", "Siskin 1 TB, twice the read rate", ("69.00", "74.00", "82.00"), (1, 4, 8),
              rated={"size_gb": 1000, "link_gts": 16, "lanes": 4, "source": "maker's sheet"},
              prerequisites="Clone to a spare first", expected_from="a friend's machine with the same jobs"),
    candidate("cooler", "cooler", "Ostrel tower, 120 mm fan", ("27.00", "29.00", "33.00"), (0, 1.5, 3),
              rated={"height_mm": 158, "rated_w": 150}, expected_from="clock held in the soak, read off the curve"),
    candidate("eight-core", "processor", "Varro 8-core", ("175.00", "189.00", "205.00"), (12, 22, 30),
              rated={"cores": 8, "threads": 16, "power_w": 95, "socket": "V2", "source": "maker's sheet"},
              basis="used", prerequisites="Newer firmware", expected_from="cores in proportion, less a quarter"),
    candidate("service", "other", "A service by the shop that sold it", ("79.00", "89.00", "99.00"), (0, 2, 4),
              basis="quoted", alternative="service", expected_from="what the dust-out brought, at best"),
    candidate("tower", "other", "A used 8-core tower", ("390.00", "420.00", "470.00"), (35, 60, 80),
              basis="used", alternative="another machine", expected_from="its cores and clock in proportion"),
)  # fmt: skip


# More memory is to show where the strips are stitched: that is what the module capped.
HEADLINES = (TRUTHS[0].measure.id, TRUTHS[0].measure.id, TRUTHS[1].measure.id)
EXPLANATIONS = {
    1: (
        Explanation(identifier("explanation memory"), "One memory module caps photo stitching", "supported",
                    "Fit two modules and stitch again", "Stitching gained again with two modules, tiles did not."),
        Explanation(identifier("explanation drive"), "Opening a project waits for the drive", "untested",
                    "Open it a second time, from memory"),
    ),
}  # fmt: skip


def held(start: datetime, boot: str) -> dict[str, Any]:
    """Every sitting was held in a boot of its own, which the agent read, and was closed at its end."""
    return {"boot": f"boot {boot}", "boot_by": "read", "closed_at": start + timedelta(minutes=95)}


def make_case(seed: int) -> Case:
    """Make the plotting PC's case with the noise of a seed; everything else is the same for every seed."""
    return with_ledger(_plotting_pc(seed))


def with_ledger(case: Case) -> Case:
    """The verdict of each swap was shown to its owner the evening after its last sitting."""
    for number, swap in enumerate(case.swaps):
        comparison = judge(case, swap.before, swap.after)
        at = FIRST_DAY + timedelta(days=2 * number + 2, hours=9)
        entries = showings_of(case, comparison, comparison.measures, at=at, by="this computer")
        swaps = list(case.swaps)
        swaps[number] = replace(swap, shown=entries)
        case = replace(case, swaps=tuple(swaps))
    last = case.swaps[-1]
    whole = judge(case, case.builds[0].id, last.after)
    at = FIRST_DAY + timedelta(days=2 * len(case.swaps), hours=10)
    entries = showings_of(case, whole, whole.measures, at=at, by="this computer")
    return replace(case, swaps=(*case.swaps[:-1], replace(last, shown=(*(last.shown or ()), *entries))))


def _plotting_pc(seed: int) -> Case:
    generator = np.random.default_rng(seed)
    sittings = [
        Sitting(
            id=identifier(f"sitting {build.letter}{number}"),
            build_id=build.id,
            purpose="plan",
            started_at=FIRST_DAY + timedelta(days=2 * index, hours=2 * number),
            ambient_c=round(float(22.6 + generator.normal(0, 0.5)), 1),
            conditions={
                "fan": "automatic",
                "power_limit_w": 65,
                "power_source": "mains",
            },
            **held(FIRST_DAY + timedelta(days=2 * index, hours=2 * number), f"{build.letter}{number + 1}"),
            mount=max(1, index),
        )
        for index, build in enumerate(BUILDS)
        for number in range(SITTINGS)
    ]
    runs = [run for index, sitting in enumerate(sittings) for run in _runs(sitting, index // SITTINGS, generator)]
    plan = Plan(
        sittings_a_side=SITTINGS,
        runs_a_sitting=RUNS,
        runs=repeats(TRUTHS),
        headline=TRUTHS[0].measure.id,
        measures={t.measure.id: PlannedMeasure(t.role, t.matters_from, t.hoped_for, t.weight) for t in TRUTHS},
        conditions=HELD,
        rest_min=1.0,
    )
    changes = ("cleaning", "processor", "memory")
    return Case(
        machine=Machine(
            id=identifier("plotting PC"),
            name="Plotting PC",
            currency="EUR",
            labour_rate=Decimal("35.00"),
            owner="Fenwick Map Room",
            question="Would six cores get a day's map tiles done before lunch? Worth it from 25 % faster, "
            "if it stays as quiet.",
            settles="The day's tiles in three quarters of the time, real, and no more than 1 dB louder.",
            asked_by="the owner",
            use="map rendering, all day",
            limits=LIMITS,
            time_zone="Europe/Vienna",
            price=Decimal("240.00"),
            jobs_a_week=300,
            hour_worth=Decimal("18.00"),
        ),
        measures=tuple(truth.measure for truth in TRUTHS),
        builds=BUILDS,
        sittings=tuple(sittings),
        runs=tuple(runs),
        swaps=tuple(
            Swap(
                id=identifier(f"swap {n}"),
                before=BUILDS[n].id,
                after=BUILDS[n + 1].id,
                label=label,
                plan=replace(plan, change=changes[n], headline=HEADLINES[n]),
                side_changes=side_changes,
                costs=tuple(costs),
                declares=declared(BUILDS[n], BUILDS[n + 1]),
                opened_at=FIRST_DAY + timedelta(days=2 * n, hours=6),
                closed_at=FIRST_DAY + timedelta(days=2 * n, hours=7),
                explanations=EXPLANATIONS.get(n, ()),
            )
            for n, (label, side_changes, costs) in enumerate(SWAPS)
        ),
        open_plan=replace(
            plan,
            change="drive",
            headline=TRUTHS[3].measure.id,
            measures=_for_a_drive(plan),
        ),
        workloads=workloads_of(TRUTHS),
        candidates=CANDIDATES,
        rechecks=(
            Recheck(
                identifier("recheck"),
                BUILDS[1].id,
                date(2027, 5, 5),
                plan,
                "Has the paste aged?",
                done=False,
            ),
        ),
    )


def _for_a_drive(plan: Plan) -> dict[str, PlannedMeasure]:
    """The next swap is to be a drive's: what loads the drive is claimed, the rest should not move."""
    loads = {truth.measure.id: WORKLOADS[truth.measure.workload][0] for truth in TRUTHS}
    hopes = {TRUTHS[3].measure.id: 10.0}
    return {
        key: replace(
            planned,
            role="claim" if "drive" in loads[key] else "control",
            hoped_for=hopes.get(key),
        )
        for key, planned in plan.measures.items()
    }


Traces = dict[RunId, WholeTrace]


def soaked(
    sitting: Sitting, pc: Pc, seed: int, workload: str, count: int, read: Callable[[RigRun, Sitting], Readings]
) -> tuple[list[Run], Traces]:
    """Soaks of one sitting on a simulated PC in the sitting's room, with their traces."""
    rig = Rig(replace(pc, room_c=sitting.ambient_c or 22.0), seed, Noise(fails=0, disturbed=0), speed=math.inf)
    runs, traces = list[Run](), Traces()
    for position in range(1, count + 1):
        made = perform_once(rig, "soak", SOAK, sitting.started_at, rest_min=15.0 if position > 1 else 0.0, every_s=10)
        run = Run(
            id=RunId(identifier(f"run {sitting.id} {workload} {position}")),
            sitting_id=sitting.id,
            workload=workload,
            workload_version="1",
            parameters=SOAK,
            position=position,
            state="complete",
            readings=read(made, sitting),
            started_at=made.started_at,
            duration_s=made.duration_s,
            conditions={"rest_min": made.rest_min, "start_c": made.start_c},
        )
        runs.append(run)
        traces[run.id] = made.trace
    return runs, traces


def plain(value: float, digits: int, **fields: Any) -> Reading:
    return Reading(round(value, digits), round(value, digits), **fields)


def laptop_readings(made: RigRun, sitting: Sitting) -> Readings:
    """What the laptop's measures read off a soak: how far above the room, and the clock that it held."""
    rise = made.readings["temperature"] - (sitting.ambient_c or 0.0)
    return {
        LAPTOP_RISE.id: plain(rise, 1, statistic="mean"),
        LAPTOP_CLOCK.id: plain(made.readings["clock"], 0, statistic="mean"),
    }


def make_laptop(seed: int) -> tuple[Case, Traces]:
    """Make the field laptop's case: worn paste, and two of three sittings of its baseline."""
    generator = np.random.default_rng(seed)
    settings = {"threads": 8, "power_limit_w": 28}
    build = Build(identifier("laptop A"), "A", "Paste of 2023", LAPTOP_PARTS, settings, "worn")
    sittings = [
        Sitting(
            identifier(f"sitting laptop {n}"),
            build.id,
            "plan",
            FIRST_DAY + timedelta(days=20 + n),
            21.5 + n / 2,
            **held(FIRST_DAY + timedelta(days=20 + n), f"laptop {n + 1}"),
        )
        for n in range(SITTINGS - 1)
    ]
    plan = Plan(
        sittings_a_side=SITTINGS,
        runs_a_sitting=RUNS,
        runs={"Ten-minute soak": LAPTOP_SOAKS},
        headline=LAPTOP_RISE.id,
        measures={t.measure.id: PlannedMeasure(t.role, t.matters_from, t.hoped_for) for t in LAPTOP_TRUTHS}
        | {LAPTOP_RISE.id: PlannedMeasure("claim", 2.0, 10), LAPTOP_CLOCK.id: PlannedMeasure("watch", 2.0)},
        change="thermal paste",
        rest_min=5.0,
    )
    runs, traces = list[Run](), Traces()
    for number, sitting in enumerate(sittings):
        made = soaked(sitting, RIGS["field-laptop"], seed + number, "Ten-minute soak", LAPTOP_SOAKS, laptop_readings)
        runs += [*_runs(sitting, 0, generator, LAPTOP_TRUTHS), *made[0]]
        traces |= made[1]
    case = Case(
        machine=Machine(
            id=identifier("field laptop"),
            name="Field laptop",
            currency="EUR",
            labour_rate=Decimal("35.00"),
            owner="Fenwick Map Room",
            question="It slows down after ten minutes in the sun. Is it the paste, or the dust?",
            time_zone="Europe/Vienna",
        ),
        measures=(*(truth.measure for truth in LAPTOP_TRUTHS), LAPTOP_RISE, LAPTOP_CLOCK),
        builds=(build,),
        sittings=tuple(sittings),
        runs=tuple(runs),
        swaps=(),
        open_plan=plan,
        workloads=(*workloads_of(LAPTOP_TRUTHS), replace(_workload("Ten-minute soak"), parameters=SOAK)),
    )
    return case, traces


LIGHT_TABLE_PARTS = (
    Part(identifier("light table processor"), "processor", "Varro 4-core",
         {"cores": 4, "threads": 4, "base_ghz": 3.2, "boost_ghz": 3.6, "power_w": 58}),
    Part(identifier("light table paste"), "thermal paste", "Ostrel P2", {"applied": "2023-03"}),
    Part(identifier("light table memory"), "memory", "Marl 8 GB", {"size_gb": 8, "modules": 1}),
)  # fmt: skip
OLD_TOWER = Part(identifier("light table cooler"), "cooler", "Ostrel tower, 92 mm fan", {"fan_mm": 92})
NEW_TOWER = Part(identifier("light table new cooler"), "cooler", "Ostrel tower, 120 mm fan", {"fan_mm": 120})
LIGHT_TABLE = identifier("light table")
LIGHT_TABLE_SOAKS = 2
LIGHT_TABLE_MEASURES = tuple(
    Measure(
        MeasureId(measure_id(LIGHT_TABLE, "Soak", stated.key)),
        stated.name,
        "Soak",
        *(stated.unit, stated.scale, stated.kind, stated.better),
    )
    for stated in AGENT_SOAK.measures
)
LIGHT_TABLE_MATTERS: dict[str, tuple[Role, float]] = {
    "temperature": ("claim", 1.0),
    "clock": ("watch", 2.0),
    "power": ("watch", 2.0),
    "fan": ("watch", 100.0),
    "rate": ("control", 2.0),
}


def light_table_readings(made: RigRun, _sitting: Sitting) -> Readings:
    """What the agent reads off a soak."""
    digits = {"temperature": 1, "power": 1, "rate": 1}
    return {
        measure.id: plain(made.readings[stated.key], digits.get(stated.key, 0))
        for measure, stated in zip(LIGHT_TABLE_MEASURES, AGENT_SOAK.measures, strict=True)
    }


def make_light_table(seed: int) -> tuple[Case, Traces]:
    """Make the light-table PC's case: a larger cooler, measured on both sides by the agent, and judged."""
    settings = {"threads": 4, "fan_mode": "automatic"}
    before = Build(BuildId(identifier("light table A")), "A", "As it came", (*LIGHT_TABLE_PARTS, OLD_TOWER), settings)
    after = Build(BuildId(identifier("light table B")), "B", "120 mm fan", (*LIGHT_TABLE_PARTS, NEW_TOWER), settings)
    generator = np.random.default_rng(seed)
    sittings, runs, traces = list[Sitting](), list[Run](), Traces()
    for side, (build, rig) in enumerate(((before, "plotting-pc"), (after, "plotting-pc-120-mm"))):
        for number in range(SITTINGS):
            start = FIRST_DAY + timedelta(days=34 + 2 * side, hours=2 * number)
            sitting = Sitting(
                SittingId(identifier(f"sitting light table {build.letter}{number}")),
                build.id,
                "plan",
                start,
                round(float(22.3 + generator.normal(0, 0.4)), 1),
                HELD_TOWER,
                **held(start, f"light table {build.letter}{number + 1}"),
                mount=side + 1,
            )
            made = soaked(
                sitting, RIGS[rig], seed + 10 * side + number, "Soak", LIGHT_TABLE_SOAKS, light_table_readings
            )
            sittings.append(sitting)
            runs += made[0]
            traces |= made[1]
    planned = {
        measure.id: PlannedMeasure(*LIGHT_TABLE_MATTERS[stated.key])
        for measure, stated in zip(LIGHT_TABLE_MEASURES, AGENT_SOAK.measures, strict=True)
    }
    plan = Plan(
        sittings_a_side=SITTINGS,
        runs_a_sitting=LIGHT_TABLE_SOAKS,
        headline=LIGHT_TABLE_MEASURES[0].id,
        measures=planned,
        change="cooler",
        conditions=HELD_TOWER,
        rest_min=15.0,
    )
    opened = FIRST_DAY + timedelta(days=34, hours=7)
    swap = Swap(
        id=SwapId(identifier("light table swap")),
        before=before.id,
        after=after.id,
        label="A larger cooler",
        plan=plan,
        costs=(cost("part", "Ostrel tower, 120 mm fan", "29.00"), cost("consumable", "Paste", "1.40")),
        declares=declared(before, after),
        opened_at=opened,
        closed_at=opened + timedelta(minutes=50),
    )
    workload = Workload(
        WorkloadId(workload_id(LIGHT_TABLE, "Soak")),
        "Soak",
        "1",
        SOAK,
        AGENT_SOAK.loads,
        card="All cores at work for ten minutes; each figure is the mean of the last minute.",
        minutes_a_run=10.0,
    )
    case = Case(
        machine=Machine(
            id=MachineId(LIGHT_TABLE),
            name="Light-table PC",
            currency="EUR",
            labour_rate=Decimal("35.00"),
            owner="Fenwick Map Room",
            question="It howls on long days. Does a larger cooler run it cooler, or only quieter?",
            time_zone="Europe/Vienna",
        ),
        measures=LIGHT_TABLE_MEASURES,
        builds=(before, after),
        sittings=tuple(sittings),
        runs=tuple(runs),
        swaps=(swap,),
        open_plan=plan,
        workloads=(workload,),
    )
    comparison = judge(case, before.id, after.id)
    entries = showings_of(case, comparison, comparison.measures, at=opened + timedelta(days=2), by="this computer")
    return replace(case, swaps=(replace(swap, shown=entries),)), traces


def make_tower(seed: int) -> Case:
    """Make the scanner-room tower's case: the baseline is complete, the case is open, the new drive not yet seen."""
    generator = np.random.default_rng(seed)
    before = Build(identifier("tower A"), "A", "As found", TOWER_BEFORE, {"threads": 2})
    after = Build(
        identifier("tower B"),
        "B",
        "Solid-state drive",
        (*TOWER_BEFORE[:2], TOWER_DRIVE),
        {"threads": 2},
    )
    day = FIRST_DAY + timedelta(days=30)
    sittings = [
        Sitting(
            identifier(f"sitting tower {n}"),
            before.id,
            "plan",
            day + timedelta(hours=n),
            20.5 + n / 4,
            HELD_TOWER,
            boot=f"boot tower {n + 1}",
            boot_by="read",
            closed_at=day + timedelta(hours=n, minutes=45),
        )
        for n in range(SITTINGS)
    ]
    plan = Plan(
        sittings_a_side=SITTINGS,
        runs_a_sitting=RUNS,
        runs=repeats(TOWER_TRUTHS),
        headline=TOWER_TRUTHS[0].measure.id,
        measures={t.measure.id: PlannedMeasure(t.role, t.matters_from, t.hoped_for) for t in TOWER_TRUTHS},
        change="drive",
        conditions=HELD_TOWER,
        rest_min=1.0,
    )
    opened = day + timedelta(hours=5)
    swap = Swap(
        id=identifier("tower swap"),
        before=before.id,
        after=after.id,
        label="Spinning to solid-state drive",
        plan=plan,
        costs=(
            cost("part", "Siskin 240 GB", "34.90"),
            cost("shipping", "Shipping", "4.90"),
        ),
        state="open",
        declares=declared(before, after),
        opened_at=opened,
        steps=_ticked(opened, 8),
        recognitions=(
            Recognition(
                identifier("tower name"),
                "drive, name",
                "Siskin 240 GB",
                "SISKIN 240GB",
                "pass",
            ),
            Recognition(identifier("tower size"), "drive, size", "240 GB"),
        ),
        starts=(
            Start(
                identifier("tower start 1"),
                opened + timedelta(minutes=31),
                False,
                "power lead of the drive loose",
                6,
            ),
        ),
        notes=(
            BenchNote(
                identifier("tower note 1"),
                opened + timedelta(minutes=4),
                "Drive lead runs under the supply.",
            ),
            BenchNote(
                identifier("tower note 2"),
                opened + timedelta(minutes=9),
                "Two short screws left, two long right.",
            ),
            BenchNote(
                identifier("tower note 3"),
                opened + timedelta(minutes=12),
                "Most of it in the supply.",
                kind="dust found",
                step=3,
            ),
        ),
    )
    return Case(
        machine=Machine(
            id=identifier("tower"),
            name="Scanner-room tower",
            currency="EUR",
            labour_rate=Decimal("35.00"),
            owner="Fenwick Map Room",
            question="Start-up takes over a minute, twice a day. Does a new drive make it worth keeping?",
            settles="Start-up in half the time, and scanning no slower.",
            limits={"memory_slots": 2, "memory_max_gb": 8, "supply_w": 300},
            time_zone="Europe/Vienna",
        ),
        measures=tuple(truth.measure for truth in TOWER_TRUTHS),
        builds=(before, after),
        sittings=tuple(sittings),
        runs=tuple(run for sitting in sittings for run in _runs(sitting, 0, generator, TOWER_TRUTHS)),
        swaps=(swap,),
        open_plan=plan,
        workloads=workloads_of(TOWER_TRUTHS),
    )


HELD_TOWER = {"fan": "automatic", "power_source": "mains"}


def _ticked(opened: datetime, done: int) -> tuple[Step, ...]:
    """The checklist for a drive, its first steps ticked a few minutes apart."""
    steps = next(template.steps for template in BUILT_IN if template.id == "drive")
    return tuple(
        Step(
            identifier(f"tower step {n}"),
            stage,
            text,
            opened + timedelta(minutes=3 * n) if n < done else None,
        )
        for n, (stage, text) in enumerate(steps)
    )


# A sixth run made the spoiled one good.
SIXTH = (identifier("sitting B1"), "Day's map tiles", 6)


def _runs(
    sitting: Sitting,
    build: int,
    generator: np.random.Generator,
    all_truths: tuple[Truth, ...] = TRUTHS,
) -> list[Run]:
    workloads = dict.fromkeys(truth.measure.workload for truth in all_truths)
    shifts = {truth.measure.id: generator.normal(0, truth.sitting_sd) for truth in all_truths}
    runs = []
    for workload in workloads:
        truths = [truth for truth in all_truths if truth.measure.workload == workload]
        # As many are drawn whatever is kept: the rest stays as it was where a job is repeated less often.
        for position in range(1, DRAWN.get(workload, RUNS) + 1):
            noises = {t.measure.id: shifts[t.measure.id] + generator.normal(0, t.run_sd) for t in truths}
            readings = {t.measure.id: _reading(t, build, noises[t.measure.id], position) for t in truths}
            if position > truths[0].runs and (sitting.id, workload, position) != SIXTH:
                continue
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
                    readings=readings,
                )
            )
    return [*map(partial(_mishap, sitting), runs), *_made_good(sitting, runs)]


def _reading(truth: Truth, build: int, noise: float, position: int) -> Reading:
    slowness = noise + (truth.cold if position == 1 else 0.0)
    direction = 1 if truth.measure.better == "lower" else -1
    true = truth.true[build]
    value = true * (1 + direction * slowness / 100) if truth.measure.scale == "ratio" else true + noise
    step = truth.measure.step or 0.01
    value = round(round(value / step) * step, 6)
    return Reading(value, value)


def _made_good(sitting: Sitting, runs: list[Run]) -> list[Run]:
    """The run that failed was made good by another at the end of the same sitting."""
    if sitting.id != identifier("sitting C2"):
        return []
    (like,) = (run for run in runs if (run.workload, run.position) == ("Aerial photo strip", 4))
    return [replace(like, id=identifier(f"run {sitting.id} made good"), position=6)]


def _mishap(sitting: Sitting, run: Run) -> Run:
    """One run spoiled and one failed, as on any bench."""
    place = (sitting.id, run.workload, run.position)
    if place == (identifier("sitting B1"), "Day's map tiles", 4):
        readings = {key: Reading(round(r.low * 1.06, 1), round(r.low * 1.06, 1)) for key, r in run.readings.items()}
        return _with(run, "spoiled", "indexing used the drive from 10:41", readings)
    if place == (identifier("sitting C2"), "Aerial photo strip", 3):
        return _with(run, "failed", "the stitcher closed by itself", {})
    return run


def _with(run: Run, state: str, reason: str, readings: dict[str, Reading]) -> Run:
    fields = {name: getattr(run, name) for name in Run.__slots__}
    return Run(**(fields | {"state": state, "reason": reason, "readings": readings}))


def run_files() -> dict[str, str]:
    """Every run file of the demo by its name."""
    return {
        "fenwick-1-plotting-pc.json": write_run_file(make_case(SEED)),
        "fenwick-2-field-laptop.json": write_run_file(*make_laptop(SEED)),
        "fenwick-3-scanner-room-tower.json": write_run_file(make_tower(SEED)),
        "fenwick-4-light-table-pc.json": write_run_file(*make_light_table(SEED)),
    }


if __name__ == "__main__":
    for name, text in run_files().items():
        (Path(__file__).parent / name).write_text(text + "\n")

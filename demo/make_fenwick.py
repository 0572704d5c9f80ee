"""
Makes the demo, Fenwick Map Room, as run files beside this script: the plotting PC with a ladder of four builds and
known true gains, and a field laptop whose baseline waits for one more sitting.

Usage: make_fenwick.py

The noise is that of real benches: scatter between runs, a shift with every sitting, a cold first run.
"""

from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from decimal import Decimal
from pathlib import Path
from uuid import UUID, uuid5

import numpy as np

from lynxbill.core.case import (
    Build,
    Case,
    Machine,
    Part,
    Plan,
    PlannedMeasure,
    Reading,
    Run,
    Sitting,
    Swap,
)
from lynxbill.core.measure import Better, Kind, Measure, Role, Scale
from lynxbill.core.money import CostLine
from lynxbill.exchange.run_file import write_run_file

SPACE = UUID("6d1f0c52-3a53-4c0e-9d4e-7c7d52a1b0f4")
FIRST_DAY = datetime(2026, 5, 4, 9, 10, tzinfo=UTC)
SITTINGS = 3
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
    weight: float = 1.0


def identifier(noun: str) -> str:
    return str(uuid5(SPACE, noun))


def measure(
    name: str, workload: str, unit: str, kind: Kind, better: Better, step: float, scale: Scale = "ratio"
) -> Measure:
    return Measure(identifier(f"measure {workload} {name}"), name, workload, unit, scale, kind, better, step)


TRUTHS = (
    Truth(measure("Tile rendering", "Day's map tiles", "s", "time", "lower", 0.1), 6,
          (43.9, 41.8, 31.2, 30.9), 0.6, 0.4, 1.5, "claim", 1.5, 25, 3),
    Truth(measure("Photo stitching", "Aerial photo strip", "s", "time", "lower", 0.1), 5,
          (131.0, 126.0, 97.4, 91.6), 0.6, 0.4, 1.0, "claim", 1.5, 20, 2),
    Truth(measure("Archive packing", "Month's archive", "MBy/s", "rate", "higher", 1), 5,
          (203.0, 212.0, 271.0, 272.0), 0.8, 0.4, 1.0, "claim", 1.5, None, 1),
    Truth(measure("Project open", "Project open", "s", "time", "lower", 0.01), 5,
          (9.14, 9.12, 9.08, 9.05), 0.8, 0.4, 2.0, "claim", 3.0, None, 1),
    Truth(measure("Sequential read", "Drive, sequential", "MBy/s", "rate", "higher", 1), 5,
          (512.0, 512.0, 513.0, 512.0), 0.4, 0.2, 0.0, "control", 2.0),
    Truth(measure("Random read, 4 KiB blocks", "Drive, scattered", "MBy/s", "rate", "higher", 0.1), 5,
          (33.1, 33.0, 33.4, 33.5), 4.0, 3.5, 0.0, "control", 2.0),
    Truth(measure("Soak, above ambient", "Twenty-minute soak", "K", "heat", "lower", 0.1, "difference"), 4,
          (55.0, 48.2, 52.8, 52.9), 0.4, 0.3, 0.0, "claim", 1.0),
    Truth(measure("Noise at 50 cm", "Twenty-minute soak", "dB[SPL]", "noise", "lower", 0.1, "level"), 4,
          (38.6, 36.1, 36.4, 36.4), 0.25, 0.15, 0.0, "claim", 1.0),
)  # fmt: skip

FOUR_CORE = Part(identifier("four-core"), "processor", "Varro 4-core",
                 {"cores": 4, "threads": 4, "base_ghz": 3.2, "boost_ghz": 3.6, "power_w": 51})  # fmt: skip
SIX_CORE = Part(identifier("six-core"), "processor", "Varro 6-core, used",
                {"cores": 6, "threads": 12, "base_ghz": 3.4, "boost_ghz": 3.9, "power_w": 65})  # fmt: skip
COOLER = Part(identifier("cooler"), "cooler", "Ostrel tower, 92 mm fan", {"rated_w": 95})
OLD_PASTE = Part(identifier("old paste"), "thermal paste", "as delivered", {"applied": "2021-02"})
PASTE = Part(identifier("paste"), "thermal paste", "Ostrel P2", {"applied": "2026-05-05"})
ONE_MODULE = Part(identifier("module 1"), "memory", "Marl 8 GB", {"size_gb": 8, "rate_mts": 2666})
TWO_MODULES = Part(identifier("module 2"), "memory", "Marl 16 GB kit", {"size_gb": 16, "rate_mts": 2666})
DRIVE = Part(identifier("drive"), "drive", "Siskin 480 GB", {"lanes": 4, "link_gts": 8})
SUPPLY = Part(identifier("supply"), "power supply", "Quarl 250 W", {"power_w": 250})

LAPTOP_PARTS = (
    Part(
        identifier("laptop processor"), "processor", "Varro 4-core, mobile", {"cores": 4, "threads": 8, "power_w": 28}
    ),
    Part(identifier("laptop paste"), "thermal paste", "as delivered", {"applied": "2023-06"}),
    Part(identifier("laptop memory"), "memory", "Marl 8 GB", {"size_gb": 8}),
    Part(identifier("laptop drive"), "drive", "Siskin 240 GB", {"lanes": 2}),
)
LAPTOP_TRUTHS = (
    Truth(measure("Map redraw", "Field map", "s", "time", "lower", 0.01), 5,
          (8.4, 8.4, 8.4, 8.4), 1.0, 0.6, 2.0, "claim", 3.0),
    Truth(measure("Soak, above ambient", "Ten-minute soak", "K", "heat", "lower", 0.1, "difference"), 5,
          (61.0, 61.0, 61.0, 61.0), 0.5, 0.4, 0.0, "claim", 2.0, 10),
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


def cost(kind: str, label: str, amount: str, low: str | None = None, high: str | None = None) -> CostLine:
    bounds = [None if bound is None else Decimal(bound) for bound in (low, high)]
    return CostLine(kind, label, Decimal(amount), "EUR", *bounds)  # type: ignore[arg-type]


SWAPS = (
    ("Dust-out and paste", ("dust-out", "fresh paste"),
     [cost("consumable", "Paste, one application", "1.40"), cost("consumable", "Compressed air, a quarter", "1.25"),
      cost("labour", "Labour, 0.15 h at 35.00", "5.25")]),
    ("Processor, 4 to 6 cores", ("fresh paste",),
     [cost("part", "Varro 6-core, used", "118.00"), cost("shipping", "Shipping", "6.50"),
      cost("consumable", "Paste, one application", "1.40"), cost("labour", "Labour, 0.6 h at 35.00", "21.00"),
      cost("resale", "Old 4-core, offers so far", "52.00", "40.00", "60.00")]),
    ("Memory, 8 to 16 GB", (),
     [cost("part", "Marl 16 GB kit", "49.00"), cost("labour", "Labour, 0.1 h at 35.00", "3.50"),
      cost("resale", "Old module", "11.50", "8.00", "14.00")]),
)  # fmt: skip


def make_case(seed: int) -> Case:
    """Make the plotting PC's case with the noise of a seed; everything else is the same for every seed."""
    generator = np.random.default_rng(seed)
    sittings = [
        Sitting(
            id=identifier(f"sitting {build.letter}{number}"),
            build_id=build.id,
            purpose="plan",
            started_at=FIRST_DAY + timedelta(days=2 * index, hours=2 * number),
            ambient_c=round(float(22.6 + generator.normal(0, 0.5)), 1),
            conditions={"fan": "automatic", "power_limit_w": 65, "power_source": "mains"},
        )
        for index, build in enumerate(BUILDS)
        for number in range(SITTINGS)
    ]
    runs = [run for index, sitting in enumerate(sittings) for run in _runs(sitting, index // SITTINGS, generator)]
    plan = Plan(
        sittings_a_side=SITTINGS,
        runs_a_sitting=5,
        headline=TRUTHS[0].measure.id,
        measures={t.measure.id: PlannedMeasure(t.role, t.matters_from, t.hoped_for, t.weight) for t in TRUTHS},
    )
    return Case(
        machine=Machine(
            id=identifier("plotting PC"),
            name="Plotting PC",
            currency="EUR",
            labour_rate="35.00",
            owner="Fenwick Map Room",
            question="Would six cores get a day's map tiles done before lunch? Worth it from 25 % faster, "
            "if it stays as quiet.",
            time_zone="Europe/Vienna",
        ),
        measures=tuple(truth.measure for truth in TRUTHS),
        builds=BUILDS,
        sittings=tuple(sittings),
        runs=tuple(runs),
        swaps=tuple(
            Swap(identifier(f"swap {n}"), BUILDS[n].id, BUILDS[n + 1].id, label, plan, changes, None, tuple(costs))
            for n, (label, changes, costs) in enumerate(SWAPS)
        ),
    )


def make_laptop(seed: int) -> Case:
    """Make the field laptop's case: worn paste, and two of three sittings of its baseline."""
    generator = np.random.default_rng(seed)
    build = Build(identifier("laptop A"), "A", "Paste of 2023", LAPTOP_PARTS, {"threads": 8, "power_limit_w": 28})
    sittings = [
        Sitting(identifier(f"sitting laptop {n}"), build.id, "plan", FIRST_DAY + timedelta(days=20 + n), 21.5 + n / 2)
        for n in range(SITTINGS - 1)
    ]
    plan = Plan(
        sittings_a_side=SITTINGS,
        runs_a_sitting=5,
        headline=LAPTOP_TRUTHS[1].measure.id,
        measures={t.measure.id: PlannedMeasure(t.role, t.matters_from, t.hoped_for) for t in LAPTOP_TRUTHS},
    )
    return Case(
        machine=Machine(
            id=identifier("field laptop"),
            name="Field laptop",
            currency="EUR",
            labour_rate="35.00",
            owner="Fenwick Map Room",
            question="It slows down after ten minutes in the sun. Is it the paste, or the dust?",
            time_zone="Europe/Vienna",
        ),
        measures=tuple(truth.measure for truth in LAPTOP_TRUTHS),
        builds=(build,),
        sittings=tuple(sittings),
        runs=tuple(run for sitting in sittings for run in _runs(sitting, 0, generator, LAPTOP_TRUTHS)),
        swaps=(),
        open_plan=plan,
    )


def _runs(
    sitting: Sitting, build: int, generator: np.random.Generator, all_truths: tuple[Truth, ...] = TRUTHS
) -> list[Run]:
    workloads = dict.fromkeys(truth.measure.workload for truth in all_truths)
    shifts = {truth.measure.id: generator.normal(0, truth.sitting_sd) for truth in all_truths}
    runs = []
    for workload in workloads:
        truths = [truth for truth in all_truths if truth.measure.workload == workload]
        for position in range(1, truths[0].runs + 1):
            noises = {t.measure.id: shifts[t.measure.id] + generator.normal(0, t.run_sd) for t in truths}
            readings = {t.measure.id: _reading(t, build, noises[t.measure.id], position) for t in truths}
            runs.append(
                Run(
                    id=identifier(f"run {sitting.id} {workload} {position}"),
                    sitting_id=sitting.id,
                    workload=workload,
                    workload_version="1",
                    position=position,
                    state="complete",
                    readings=readings,
                )
            )
    return [_mishap(run, sitting) for run in runs]


def _reading(truth: Truth, build: int, noise: float, position: int) -> Reading:
    slowness = noise + (truth.cold if position == 1 else 0.0)
    direction = 1 if truth.measure.better == "lower" else -1
    true = truth.true[build]
    value = true * (1 + direction * slowness / 100) if truth.measure.scale == "ratio" else true + noise
    step = truth.measure.step or 0.01
    value = round(round(value / step) * step, 6)
    return Reading(value, value)


def _mishap(run: Run, sitting: Sitting) -> Run:
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


if __name__ == "__main__":
    here = Path(__file__).parent
    (here / "fenwick-1-plotting-pc.json").write_text(write_run_file(make_case(SEED)) + "\n")
    (here / "fenwick-2-field-laptop.json").write_text(write_run_file(make_laptop(SEED)) + "\n")

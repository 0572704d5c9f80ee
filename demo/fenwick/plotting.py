"""The plotting PC: a ladder of four builds, its owner's programs and its bench."""

import math
from dataclasses import replace
from datetime import date, timedelta
from decimal import Decimal
from typing import Any

import numpy as np

from fenwick.making import (
    FIRST_DAY,
    RUNS,
    SITTINGS,
    STEADY,
    WORKLOADS,
    Bench,
    Traces,
    Truth,
    cost,
    declared,
    held,
    held_on,
    hours,
    identifier,
    measure,
    off_trace,
    own_runs,
    plain,
    with_ledger,
    workload_named,
)
from lynxbill.core.record.build import Build, Candidate, Part, PartRole
from lynxbill.core.record.frame import Case, Machine
from lynxbill.core.record.plan import Plan, PlannedMeasure, Recheck
from lynxbill.core.record.run import Reading, Run, Sitting
from lynxbill.core.record.swap import Explanation, Swap
from lynxbill.core.result.comparison import judge, showings_of
from lynxbill.core.terms.measure import Measure, MeasureId
from lynxbill.core.terms.money import Running
from lynxbill.rig.machine import QUIET, Rig
from lynxbill.rig.parts import RIGS, Pc

OWN_PROGRAMS = (
    Truth(measure("Tile rendering", "Day's map tiles", "s", "time", "lower", 0.1), 5,
          (43.9, 41.8, 31.2, 30.9), 0.6, 0.4, 1.5, "claim", 1.5, 25, 3),
    Truth(measure("Photo stitching", "Aerial photo strip", "s", "time", "lower", 0.1), 5,
          (131.0, 126.0, 97.4, 91.6), 0.6, 0.4, 1.0, "claim", 1.5, 20, 2),
    Truth(measure("Archive packing", "Month's archive", "MBy/s", "rate", "higher", 1), 5,
          (203.0, 212.0, 271.0, 272.0), 0.8, 0.4, 1.0, "claim", 1.5, None, 1),
    Truth(measure("Project open", "Project open", "s", "time", "lower", 0.01), 5,
          (9.14, 9.12, 9.08, 9.05), 0.8, 0.4, 2.0, "claim", 3.0, None, 1),
)  # fmt: skip
# What the bench measured on simulated PCs, build by build.
LADDER = tuple(RIGS[f"plotting-pc-{name}"] for name in ("received", "renewed", "6-cores", "16-gb"))
LONG_READ = replace(measure("Long read", "Drive, long", "MBy/s", "rate", "higher", 1), rated_as="read_mbs")
SCATTERED = measure("Scattered read, 16 KiB blocks", "Drive, scattered", "MBy/s", "rate", "higher", 0.1)
RISE = replace(
    measure("Soak, above ambient", "Twenty-minute soak", "K", "heat", "lower", 0.1, "difference"),
    trace_figure="last minute",
)
NOISE = replace(
    measure("Noise at 50 cm", "Twenty-minute soak", "dB[SPL]", "noise", "lower", 0.1, "level"),
    trace_figure="last minute",
)
BLOCK_MB = 16 * 1024 / 1e6
SOAK_RUNS, SOAK_MIN = 2, 20
# A drive reads long blocks more evenly than a processor computes, and scattered ones far less so.
SCATTER = replace(STEADY, cold=0.01, times={"drive-long-read-2048KiB-1": 0.5, "drive-scattered-read-16KiB-8": 4.0})
BENCHED = (
    Bench("Drive, long", "drive-long-read-2048KiB-1", {}, RUNS,
          lambda made, _: {LONG_READ.id: plain(made.readings["rate"], 0)}),
    Bench("Drive, scattered", "drive-scattered-read-16KiB-8", {}, RUNS,
          lambda made, _: {SCATTERED.id: plain(made.readings["rate"] * BLOCK_MB, 1)}),
    Bench("Twenty-minute soak", "soak", {"minutes": SOAK_MIN}, SOAK_RUNS, off_trace((RISE, NOISE)),
          rest_min=10.0, traced=True),
)  # fmt: skip


def true_values(pc: Pc) -> dict[MeasureId, float]:
    """What the bench's measures truly are on a PC, without noise."""
    rig = Rig(pc, noise=QUIET, speed=math.inf)
    rates = [rig.true(rig.known()[work.key], rig.known()[work.key].parameters)["rate"] for work in BENCHED[:2]]
    rig.state.load = 1.0
    rig.wait(60 * SOAK_MIN)
    return {
        LONG_READ.id: rates[0],
        SCATTERED.id: rates[1] * BLOCK_MB,
        RISE.id: rig.state.die_c - pc.room_c,
        NOISE.id: rig.state.noise_db,
    }


def truths() -> dict[Measure, tuple[float, ...]]:
    """Every measure with its true values on builds A to D."""
    benched = [true_values(pc) for pc in LADDER]
    return {truth.measure: truth.true for truth in OWN_PROGRAMS} | {
        one: tuple(values[one.id] for values in benched) for one in (LONG_READ, SCATTERED, RISE, NOISE)
    }


PLANNED = {truth.measure: PlannedMeasure(truth.role, truth.matters_from, truth.hoped_for, truth.weight)
           for truth in OWN_PROGRAMS} | {
    LONG_READ: PlannedMeasure("control", 2.0),
    SCATTERED: PlannedMeasure("control", 2.0),
    RISE: PlannedMeasure("claim", 1.0),
    NOISE: PlannedMeasure("claim", 1.0),
}  # fmt: skip
JOBS = tuple(dict.fromkeys(measured.workload for measured in PLANNED))

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
TILES, STITCHING, _, OPENING = (truth.measure.id for truth in OWN_PROGRAMS)
HEADLINES = (TILES, TILES, STITCHING)
EXPLANATIONS = {
    1: (
        Explanation(identifier("explanation memory"), "One memory module caps photo stitching", "supported",
                    "Fit two modules and stitch again", "Stitching gained again with two modules, tiles did not."),
        Explanation(identifier("explanation drive"), "Opening a project waits for the drive", "untested",
                    "Open it a second time, from memory"),
    ),
}  # fmt: skip


def make_plotting_pc(seed: int) -> tuple[Case, Traces]:
    """Make the plotting PC's case with the noise of a seed; everything else is the same for every seed."""
    case, traces = _plotting_pc(seed)
    evenings = [FIRST_DAY + timedelta(days=2 * number + 2, hours=9) for number in range(len(case.swaps))]
    return _with_whole(with_ledger(case, evenings)), traces


def _with_whole(case: Case) -> Case:
    """In the end its owner was shown what all steps together brought."""
    last = case.swaps[-1]
    whole = judge(case, case.builds[0].id, last.after)
    at = FIRST_DAY + timedelta(days=2 * len(case.swaps), hours=10)
    entries = showings_of(case, whole, whole.measures, at=at, by="this computer")
    return replace(case, swaps=(*case.swaps[:-1], replace(last, shown=(*(last.shown or ()), *entries))))


def _plotting_pc(seed: int) -> tuple[Case, Traces]:
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
    runs, traces = list[Run](), Traces()
    for index, sitting in enumerate(sittings):
        benched = held_on(LADDER[index // SITTINGS], sitting, seed + 100 * index, *BENCHED, noise=SCATTER)
        runs += [*_own_runs(sitting, index // SITTINGS, generator), *benched[0]]
        traces |= benched[1]
    plan = Plan(
        sittings_a_side=SITTINGS,
        runs_a_sitting=RUNS,
        runs={"Twenty-minute soak": SOAK_RUNS},
        headline=TILES,
        measures={measured.id: planned for measured, planned in PLANNED.items()},
        conditions=HELD,
        rest_min=1.0,
    )
    changes = ("cleaning", "processor", "memory")
    case = Case(
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
            tasks_a_week=300,
            hour_worth=Decimal("18.00"),
        ),
        measures=tuple(PLANNED),
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
            headline=OPENING,
            measures=_for_a_drive(plan),
        ),
        workloads=tuple(map(workload_named, JOBS)),
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
    return case, traces


def _for_a_drive(plan: Plan) -> dict[str, PlannedMeasure]:
    """The next swap is to be a drive's: what loads the drive is claimed, the rest should not move."""
    loads = {measured.id: WORKLOADS[measured.workload][0] for measured in PLANNED}
    hopes = {OPENING: 10.0}
    return {
        key: replace(
            planned,
            role="claim" if "drive" in loads[key] else "control",
            hoped_for=hopes.get(key),
        )
        for key, planned in plan.measures.items()
    }


# A sixth run made the spoiled one good.
SIXTH = (identifier("sitting B1"), "Day's map tiles", 6)


def _own_runs(sitting: Sitting, build: int, generator: np.random.Generator) -> list[Run]:
    """Runs of the owner's programs, with what went wrong among them."""
    drawn = own_runs(sitting, build, generator, OWN_PROGRAMS, more=1)
    places = {run.id: (sitting.id, run.workload, run.position) for run in drawn}
    runs = [run for run in drawn if run.position <= RUNS or places[run.id] == SIXTH]
    return [*(_mishap(sitting, run) for run in runs), *_made_good(sitting, runs)]


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

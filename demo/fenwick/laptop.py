"""The field laptop: dust and paste kept apart, in two steps, on simulated PCs with traces."""

from dataclasses import replace
from datetime import timedelta
from decimal import Decimal

import numpy as np

from fenwick.making import (
    FIRST_DAY,
    HELD_TOWER,
    RUNS,
    SITTINGS,
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
    with_ledger,
    workload_named,
)
from lynxbill.core.record.build import Build, Part
from lynxbill.core.record.frame import Case, Machine
from lynxbill.core.record.ids import BuildId, MachineId, Plain, SittingId, SwapId
from lynxbill.core.record.plan import Plan, PlannedMeasure
from lynxbill.core.record.run import Run, Sitting
from lynxbill.core.record.swap import Swap
from lynxbill.rig.parts import RIGS, Pc

DUSTY = Part(identifier("laptop cooler"), "cooler", "Slim blower", {"fan_mm": 60})
WORN = Part(identifier("laptop paste"), "thermal paste", "as delivered", {"applied": "2021-06"})
FRESH = Part(identifier("laptop new paste"), "thermal paste", "Ostrel P2", {"applied": "2026-05-28"})
KEPT = (
    Part(identifier("laptop processor"), "processor", "Varro 4-core, mobile",
         {"cores": 4, "threads": 8, "power_w": 44}),
    DUSTY,
    Part(identifier("laptop memory"), "memory", "Marl 8 GB", {"size_gb": 8}),
    Part(identifier("laptop drive"), "drive", "Siskin 240 GB", {"lanes": 2}),
)  # fmt: skip
SETTINGS: dict[str, Plain] = {"threads": 8, "power_limit_w": 44, "fan_mode": "automatic"}
BUILDS = (
    Build(BuildId(identifier("laptop A")), "A", "As found", (*KEPT, WORN), SETTINGS, "worn"),
    Build(BuildId(identifier("laptop B")), "B", "Dust out", (*KEPT, WORN), SETTINGS),
    Build(BuildId(identifier("laptop C")), "C", "Fresh paste", (*KEPT, FRESH), SETTINGS, "renewed"),
)
RIGS_OF = ("field-laptop", "field-laptop-clean", "field-laptop-pasted")
# The cooler was lifted and set again between sittings: dust needs none of it, paste two mounts a side.
MOUNTS = ((1, 1, 1), (1, 1, 2), (3, 3, 4))
# By how much a mount scatters the paste's resistance.
MOUNT_SD = 0.05
REDRAW = Truth(measure("Map redraw", "Field map", "s", "time", "lower", 0.01), 5,
               (8.72, 8.42, 8.41, 8.41), 1.0, 0.6, 2.0, "claim", 3.0)  # fmt: skip
SOAK = "Soak in the sun"
RISE = replace(measure("Soak, above ambient", SOAK, "K", "heat", "lower", 0.1, "difference"), trace_figure="settled")
HELD_BACK = replace(
    measure("Held back by heat", SOAK, "%", "other", "lower", 1, "difference"), trace_figure="held back"
)
CLOCK, FAN, SOUND = (
    replace(measure(name, SOAK, unit, kind, better, step, scale), trace_figure="last minute")
    for name, unit, kind, better, step, scale in (
        ("Clock held", "MHz", "clock", "higher", 1, "ratio"),
        ("Fan", "/min", "fan", "lower", 10, "difference"),
        ("Sound at 50 cm", "dB[SPL]", "noise", "lower", 0.1, "level"),
    )
)
RESISTANCE = replace(measure("Rise by power", SOAK, "K/W", "other", "lower", 0.001), trace_figure="resistance")
OFF_TRACE = (RISE, CLOCK, HELD_BACK, FAN, SOUND, RESISTANCE)
PLANNED = {
    REDRAW.measure: PlannedMeasure("claim", REDRAW.matters_from),
    RISE: PlannedMeasure("claim", 2.0, 10),
    CLOCK: PlannedMeasure("claim", 2.0),
    HELD_BACK: PlannedMeasure("watch", 5.0),
    FAN: PlannedMeasure("watch", 150.0),
    SOUND: PlannedMeasure("watch", 1.0),
    RESISTANCE: PlannedMeasure("watch", 3.0),
}
SOAKS = 2
LIMITS = {"permitted_c": 92, "stop_c": 98}
# In the sun.
ROOM_C = 27.0
PARAMETERS: dict[str, Plain] = {"work": "soak", "minutes": 20}
BENCH = Bench(SOAK, "soak", PARAMETERS, SOAKS, off_trace(OFF_TRACE, LIMITS), rest_min=12.0, traced=True)


def make_laptop(seed: int) -> tuple[Case, Traces]:
    """Make the field laptop's case: as found, cleaned, and pasted a step later, so that each has its own share."""
    generator = np.random.default_rng(seed)
    sittings, runs, traces = list[Sitting](), list[Run](), Traces()
    for index, build in enumerate(BUILDS):
        pcs = _mounted(RIGS[RIGS_OF[index]], index, generator)
        for number in range(SITTINGS):
            start = FIRST_DAY + timedelta(days=20 + 2 * index, hours=3 * number)
            sitting = Sitting(
                SittingId(identifier(f"sitting laptop {build.letter}{number}")),
                build.id,
                "plan",
                start,
                round(float(ROOM_C + generator.normal(0, 0.5)), 1),
                HELD_TOWER,
                **held(start, f"laptop {build.letter}{number + 1}"),
                mount=MOUNTS[index][number],
            )
            made = held_on(pcs[MOUNTS[index][number]], sitting, seed + 10 * index + number, BENCH)
            sittings.append(sitting)
            runs += [*own_runs(sitting, index, generator, (REDRAW,)), *made[0]]
            traces |= made[1]
    plan = Plan(
        sittings_a_side=SITTINGS,
        runs_a_sitting=RUNS,
        runs={SOAK: SOAKS},
        headline=RISE.id,
        measures={measured.id: planned for measured, planned in PLANNED.items()},
        change="thermal paste",
        conditions=HELD_TOWER,
        rest_min=12.0,
    )
    evenings = [FIRST_DAY + timedelta(days=22 + 2 * number, hours=10) for number in range(2)]
    case = Case(
        machine=Machine(
            id=MachineId(identifier("field laptop")),
            name="Field laptop",
            currency="EUR",
            labour_rate=Decimal("35.00"),
            owner="Fenwick Map Room",
            question="It slows down after ten minutes in the sun. Is it the paste, or the dust?",
            settles="Dust out first, paste a step later, each measured by itself.",
            limits=LIMITS,
            time_zone="Europe/Vienna",
        ),
        measures=tuple(PLANNED),
        builds=BUILDS,
        sittings=tuple(sittings),
        runs=tuple(runs),
        swaps=tuple(_swap(number, plan) for number in range(2)),
        open_plan=plan,
        workloads=(
            workload_named("Field map"),
            replace(workload_named(SOAK), parameters=PARAMETERS),
        ),
    )
    return with_ledger(case, evenings), traces


def _mounted(pc: Pc, index: int, generator: np.random.Generator) -> dict[int, Pc]:
    """The PC with each mount of a build's sittings: paste spreads a little otherwise every time."""
    factors = {mount: float(1 + generator.normal(0, MOUNT_SD)) for mount in dict.fromkeys(MOUNTS[index])}
    return {
        mount: replace(pc, paste=replace(pc.paste, kelvin_per_watt=pc.paste.kelvin_per_watt * factor))
        for mount, factor in factors.items()
    }


STEPS = (
    ("Dust out", ("cleaning",), "cleaning",
     (cost("consumable", "Compressed air", "5.00", quantity=Decimal("0.25"), unit="of a can"), hours("0.25"))),
    ("Fresh paste", (), "thermal paste",
     (cost("consumable", "Paste, a small tube", "2.80"), hours("0.5"))),
)  # fmt: skip


def _swap(number: int, plan: Plan) -> Swap:
    label, side_changes, change, costs = STEPS[number]
    opened = FIRST_DAY + timedelta(days=20 + 2 * number, hours=9)
    before, after = BUILDS[number], BUILDS[number + 1]
    return Swap(
        id=SwapId(identifier(f"laptop swap {number}")),
        before=before.id,
        after=after.id,
        label=label,
        plan=replace(plan, change=change),
        side_changes=side_changes,
        costs=costs,
        declares=declared(before, after),
        opened_at=opened,
        closed_at=opened + timedelta(minutes=40),
    )

"""The scanner-room tower."""

from dataclasses import replace
from datetime import datetime, timedelta
from decimal import Decimal

import numpy as np

from fenwick.making import (
    FIRST_DAY,
    HELD_TOWER,
    RUNS,
    SITTINGS,
    STEADY,
    Bench,
    Traces,
    Truth,
    cost,
    declared,
    held_on,
    identifier,
    measure,
    own_runs,
    plain,
    workload_named,
    workloads_of,
)
from lynxbill.core.plan.templates import BUILT_IN
from lynxbill.core.record.build import Build, Part
from lynxbill.core.record.frame import Case, Machine
from lynxbill.core.record.plan import Plan, PlannedMeasure
from lynxbill.core.record.run import Run, Sitting
from lynxbill.core.record.swap import BenchNote, Recognition, Start, Step, Swap
from lynxbill.rig.parts import RIGS

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

FROM_ANYWHERE = measure("Scattered read, 4 KiB blocks", "Drive, from anywhere", "/s", "rate", "higher", 0.1)
# Heads that seek read far less evenly than a processor computes.
SCATTER = replace(STEADY, times={"drive-scattered-read-4KiB-1": 3.0})
BENCHED = (
    Bench("Drive, from anywhere", "drive-scattered-read-4KiB-1", {}, RUNS,
          lambda made, _: {FROM_ANYWHERE.id: plain(made.readings["rate"], 1)}, traced=True, every_s=2.0),
)  # fmt: skip


def make_tower(seed: int) -> tuple[Case, Traces]:
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
        headline=TOWER_TRUTHS[0].measure.id,
        measures={t.measure.id: PlannedMeasure(t.role, t.matters_from, t.hoped_for) for t in TOWER_TRUTHS}
        | {FROM_ANYWHERE.id: PlannedMeasure("claim", 5.0)},
        change="drive",
        conditions=HELD_TOWER,
        rest_min=1.0,
    )
    runs, traces = list[Run](), Traces()
    for number, sitting in enumerate(sittings):
        benched = held_on(RIGS["scanner-room-tower"], sitting, seed + number, *BENCHED, noise=SCATTER)
        runs += [*own_runs(sitting, 0, generator, TOWER_TRUTHS), *benched[0]]
        traces |= benched[1]
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
    case = Case(
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
        measures=(*(truth.measure for truth in TOWER_TRUTHS), FROM_ANYWHERE),
        builds=(before, after),
        sittings=tuple(sittings),
        runs=tuple(runs),
        swaps=(swap,),
        open_plan=plan,
        workloads=(*workloads_of(TOWER_TRUTHS), workload_named("Drive, from anywhere")),
    )
    return case, traces


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

"""The light-table PC: a larger cooler, measured on both sides by the agent, and judged."""

from datetime import timedelta
from decimal import Decimal

import numpy as np

from fenwick.making import (
    FIRST_DAY,
    HELD_TOWER,
    SITTINGS,
    Bench,
    Readings,
    Traces,
    cost,
    declared,
    held,
    held_on,
    identifier,
    plain,
    with_ledger,
)
from lynxbill.bench.job import measure_id, workload_id
from lynxbill.bench.work.soak import SOAK as AGENT_SOAK
from lynxbill.core.record.build import Build, Part
from lynxbill.core.record.frame import Case, Machine
from lynxbill.core.record.ids import BuildId, MachineId, Plain, SittingId, SwapId, WorkloadId
from lynxbill.core.record.plan import Plan, PlannedMeasure
from lynxbill.core.record.run import Run, Sitting
from lynxbill.core.record.swap import Swap
from lynxbill.core.record.workload import Workload
from lynxbill.core.terms.measure import Measure, MeasureId, Role
from lynxbill.rig.parts import RIGS
from lynxbill.rig.sitting import RigRun

LIGHT_TABLE_PARTS = (
    Part(identifier("light table processor"), "processor", "Varro 4-core",
         {"cores": 4, "threads": 4, "base_ghz": 3.2, "boost_ghz": 3.6, "power_w": 58}),
    Part(identifier("light table paste"), "thermal paste", "Ostrel P2", {"applied": "2023-03"}),
    Part(identifier("light table memory"), "memory", "Marl 8 GB", {"size_gb": 8, "modules": 1}),
)  # fmt: skip
OLD_TOWER = Part(identifier("light table cooler"), "cooler", "Ostrel tower, 92 mm fan", {"fan_mm": 92})
NEW_TOWER = Part(identifier("light table new cooler"), "cooler", "Ostrel tower, 120 mm fan", {"fan_mm": 120})
SOAK: dict[str, Plain] = {"work": "soak", "minutes": 10}
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


LIGHT_TABLE_BENCH = Bench("Soak", "soak", SOAK, LIGHT_TABLE_SOAKS, light_table_readings, rest_min=15.0, traced=True)


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
            made = held_on(RIGS[rig], sitting, seed + 10 * side + number, LIGHT_TABLE_BENCH)
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
    return with_ledger(case, [opened + timedelta(days=2)]), traces

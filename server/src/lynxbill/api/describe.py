"""Snapshots into what travels over HTTP."""

from uuid import UUID

from lynxbill.api.schemas import (
    BenchOut,
    BuildOut,
    CaseOut,
    CostOut,
    MachineOut,
    MeasureOut,
    OpenPlanOut,
    PartOut,
    ReadingOut,
    RunOut,
    SittingOut,
    SwapOut,
    WorkloadOut,
)
from lynxbill.core.case import Run, Swap
from lynxbill.core.measure import Measure
from lynxbill.core.money import net_cost
from lynxbill.core.quantity import unit_of
from lynxbill.exchange.run_members import from_plan
from lynxbill.exchange.verdict_file import describe
from lynxbill.services.machines import Bench
from lynxbill.store.snapshot import Snapshot


def bench_out(bench: Bench) -> BenchOut:
    """Describe a machine for the home screen."""
    return BenchOut(case=case_out(bench.snapshot), newest=describe(bench.newest) if bench.newest else None)


def case_out(snapshot: Snapshot) -> CaseOut:
    """Describe everything recorded of a machine."""
    case, versions = snapshot.case, snapshot.versions
    machine = {name: getattr(case.machine, name) for name in MachineOut.model_fields if name != "version"}
    return CaseOut(
        machine=MachineOut.model_validate(machine | {"version": versions[case.machine.id]}),
        builds=[
            BuildOut(
                id=UUID(build.id),
                letter=build.letter,
                label=build.label,
                parts=[PartOut.model_validate(part) for part in build.parts],
                settings=dict(build.settings),
                sealed=build.id in snapshot.sealed,
                version=versions[build.id],
            )
            for build in case.builds
        ],
        workloads=[WorkloadOut.model_validate(workload) for workload in snapshot.workloads],
        measures=[measure_out(measure) for measure in case.measures],
        sittings=[
            SittingOut(
                id=UUID(sitting.id),
                build=UUID(sitting.build_id),
                purpose=sitting.purpose,
                started_at=sitting.started_at,
                ambient_c=sitting.ambient_c,
                conditions=dict(sitting.conditions),
                version=versions[sitting.id],
            )
            for sitting in case.sittings
        ],
        runs=[run_out(run, versions[run.id]) for run in case.runs],
        swaps=[_swap_out(swap, case.machine.currency, versions[swap.id]) for swap in case.swaps],
        open_plan=OpenPlanOut(plan=from_plan(snapshot.open_plan), version=versions["plan"]),
    )


def measure_out(measure: Measure) -> MeasureOut:
    fields = {name: getattr(measure, name) for name in MeasureOut.model_fields if name != "unit_display"}
    return MeasureOut.model_validate(fields | {"unit_display": unit_of(measure.unit).display})


def run_out(run: Run, version: int) -> RunOut:
    """Describe one run as it stands recorded."""
    return RunOut(
        id=UUID(run.id),
        sitting=UUID(run.sitting_id),
        workload=run.workload,
        workload_version=run.workload_version,
        position=run.position,
        state=run.state,
        reason=run.reason,
        warm_up=run.warm_up,
        readings={measure: ReadingOut.model_validate(reading) for measure, reading in run.readings.items()},
        version=version,
    )


def _swap_out(swap: Swap, currency: str, version: int) -> SwapOut:
    return SwapOut(
        id=UUID(swap.id),
        before=UUID(swap.before),
        after=UUID(swap.after),
        label=swap.label,
        side_changes=list(swap.side_changes),
        costs=[CostOut.model_validate(line) for line in swap.costs],
        net_cost=net_cost(swap.costs, currency),
        plan=from_plan(swap.plan),
        version=version,
    )

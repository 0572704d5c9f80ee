"""One machine: what it is and what is to be done with it, and the case of it with its runs."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from decimal import Decimal
from typing import Literal

from lynxbill.core.record.build import Build, Candidate
from lynxbill.core.record.ids import BuildId, MachineId, Plain, RunId, SittingId
from lynxbill.core.record.plan import Plan, Recheck
from lynxbill.core.record.run import Run, Sitting
from lynxbill.core.record.sheet import Sheet, SheetKey
from lynxbill.core.record.swap import Swap
from lynxbill.core.record.workload import Workload
from lynxbill.core.terms.errors import UnknownBuild
from lynxbill.core.terms.measure import Kind, Measure, MeasureId


@dataclass(frozen=True, slots=True)
class Machine:
    """
    One PC under test; `price` is what the machine itself was bought for or is worth.

    `jobs_a_week` is how often the headline’s task is done, `hour_worth` what an hour of waiting for it is worth: both
    in the payback of a swap alone. `set_aside` says why it waits for nobody any more.
    """

    id: MachineId
    name: str
    currency: str
    labour_rate: Decimal | None = None
    owner: str = ""
    question: str = ""
    settles: str = ""
    asked_by: str = ""
    use: str = ""
    limits: Mapping[str, Plain] = field(default_factory=dict)
    decimal_mark: Literal[".", ","] = "."
    time_zone: str = "UTC"
    price: Decimal | None = None
    tasks_a_week: float | None = None
    hour_worth: Decimal | None = None
    set_aside: str | None = None


@dataclass(frozen=True, slots=True)
class Frame:
    """
    What a machine is and what is to be done with it, without its runs; `open_plan` is the plan for the next swap.
    """

    machine: Machine
    measures: tuple[Measure, ...]
    builds: tuple[Build, ...]
    sittings: tuple[Sitting, ...]
    swaps: tuple[Swap, ...]
    open_plan: Plan | None = None
    workloads: tuple[Workload, ...] = ()
    candidates: tuple[Candidate, ...] = ()
    rechecks: tuple[Recheck, ...] = ()
    # Asked for once a measure and build: a look through all sittings each time is what a long past would cost.
    _by_build: Mapping[BuildId, tuple[Sitting, ...]] = field(init=False, repr=False, compare=False)

    def __post_init__(self) -> None:
        by_build: dict[BuildId, list[Sitting]] = {}
        for sitting in self.sittings:
            by_build.setdefault(sitting.build_id, []).append(sitting)
        object.__setattr__(self, "_by_build", {build: tuple(sittings) for build, sittings in by_build.items()})

    def sittings_of(self, build_id: BuildId) -> tuple[Sitting, ...]:
        """List a build's sittings of any purpose, in their order."""
        return self._by_build.get(build_id, ())

    @property
    def fitted(self) -> Build | None:
        """The build that the machine is now: where its newest swap that was begun led, else its first."""
        begun = [swap for swap in self.swaps if swap.state != "planned"]
        if begun:
            return self.build(begun[-1].after)
        return self.builds[0] if self.builds else None

    @property
    def workload_names(self) -> tuple[str, ...]:
        """Every workload that a measure is read off, in the order of measures."""
        return tuple(dict.fromkeys(measure.workload for measure in self.measures))

    @property
    def weighed(self) -> tuple[Candidate, ...]:
        """The candidates that were not set aside."""
        return tuple(candidate for candidate in self.candidates if candidate.set_aside is None)

    @property
    def aside(self) -> Mapping[MeasureId, str]:
        """Why a measure, or the workload that it is read off, was set aside; by measure."""
        workloads = {workload.name: workload.set_aside for workload in self.workloads}
        reasons = {m.id: m.set_aside or workloads.get(m.workload) for m in self.measures}
        return {measure: reason for measure, reason in reasons.items() if reason is not None}

    def build(self, build_id: BuildId) -> Build:
        """
        Find a build by its id.

        Raises:
            UnknownBuild: the case has no such build.
        """
        for build in self.builds:
            if build.id == build_id:
                return build
        known = ", ".join(build.id for build in self.builds)
        raise UnknownBuild(f"There is no build “{build_id}”; this machine has {known or 'none'}.")

    def swap_into(self, build_id: BuildId) -> Swap | None:
        """Find the newest swap that led to a build, or None for a first build."""
        return next((swap for swap in reversed(self.swaps) if swap.after == build_id), None)

    def swap_between(self, one: BuildId, other: BuildId) -> Swap | None:
        """Find the first swap between two builds, in either direction: its plan is that of the pair, for ever."""
        return next((s for s in self.swaps if {s.before, s.after} == {one, other}), None)

    def step_into(self, before: BuildId, after: BuildId) -> Swap | None:
        """Find the newest swap from one build to another, else the newest into the second; None for a first build."""
        direct = (s for s in reversed(self.swaps) if (s.before, s.after) == (before, after))
        return next(direct, None) or self.swap_into(after)

    def swaps_between(self, before: BuildId, after: BuildId) -> tuple[Swap, ...] | None:
        """
        Follow the swaps that lead from one build to the other, oldest first.

        Returns: None where no chain leads there.
        """
        chain: list[Swap] = []
        here = after
        while here != before:
            swap = self.step_into(before, here)
            if swap is None or swap in chain:
                return None
            chain.insert(0, swap)
            here = swap.before
        return tuple(chain)

    def plan_of(self, build_id: BuildId) -> Plan:
        """
        Choose the plan that a build is measured by: that of the swap that first led to it, else of the first swap
        from it, else the open plan.
        """
        into = next((swap for swap in self.swaps if swap.after == build_id), None)
        out = next((swap for swap in self.swaps if swap.before == build_id), None)
        chosen = into or out
        return chosen.plan if chosen else self.open_plan or Plan()


@dataclass(frozen=True, slots=True)
class Case(Frame):
    """
    A machine with evidence: all its runs, or (with `sheets`) those that a question needs.

    `sheets` are those that the store keeps of all its runs; None where all the runs are at hand instead.
    `traced` is by run what its trace told beside its readings, by the kind of measure that would read it: the mean
    over the last minute of the load, in the unit in which such a sensor is looked at; only where a question needs it.
    """

    runs: tuple[Run, ...] = ()
    sheets: Mapping[SheetKey, Sheet] | None = None
    traced: Mapping[RunId, Mapping[Kind, float]] = field(default_factory=dict)

    @property
    def used_sittings(self) -> frozenset[SittingId]:
        """The sittings that have a run; a row that was emptied is none."""
        if self.sheets is not None:
            return frozenset(sitting for sitting, _ in self.sheets)
        return frozenset(run.sitting_id for run in self.runs if not run.is_emptied)

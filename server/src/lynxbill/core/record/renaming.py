"""A case under other ids: every thing keeps what it holds, and is pointed at by its new name."""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import replace
from typing import TypeVar

from lynxbill.core.record.build import Build, Candidate
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import BuildId, MachineId, RunId, SittingId, SwapId, WorkloadId
from lynxbill.core.record.ledger_entries import Showing
from lynxbill.core.record.plan import FixedPair, Plan, Recheck
from lynxbill.core.record.run import READING, Run, Sitting, Was
from lynxbill.core.record.swap import Swap
from lynxbill.core.terms.measure import Measure, MeasureId
from lynxbill.core.terms.money import CostLine

Value = TypeVar("Value")
# From a noun and an id to the id that the thing has from now on.
Name = Callable[[str, str], str]


def rename(case: Case, name: Name) -> Case:
    """
    Give everything of a case another id.

    Args:
        name: from a noun ("run") and an id to the new id; the same for the same, and different for different things.
    Returns: the case with all that points at something pointing at its new id, in the same order. Pictures stay
        behind, and so do kept tallies; what the ledger holds keeps the digests that were made with the old ids.
    """
    new = _Renamed(name)
    return Case(
        machine=replace(case.machine, id=MachineId(name("machine", case.machine.id))),
        measures=tuple(map(new.whole_measure, case.measures)),
        workloads=tuple(replace(w, id=WorkloadId(name("workload", w.id))) for w in case.workloads),
        builds=tuple(map(new.whole_build, case.builds)),
        sittings=tuple(map(new.whole_sitting, case.sittings)),
        runs=tuple(map(new.whole_run, case.runs)),
        swaps=tuple(map(new.whole_swap, case.swaps)),
        open_plan=new.plan(case.open_plan) if case.open_plan else None,
        candidates=tuple(map(new.whole_candidate, case.candidates)),
        rechecks=tuple(map(new.whole_recheck, case.rechecks)),
    )


class _Renamed:
    """Each noun under its new name; `whole_…` with all that it holds."""

    def __init__(self, name: Name):
        self.name = name

    def measure(self, identifier: str) -> MeasureId:
        return MeasureId(self.name("measure", identifier))

    def build(self, identifier: str) -> BuildId:
        return BuildId(self.name("build", identifier))

    def sitting(self, identifier: str) -> SittingId:
        return SittingId(self.name("sitting", identifier))

    def run(self, identifier: str) -> RunId:
        return RunId(self.name("run", identifier))

    def swap(self, identifier: str) -> SwapId:
        return SwapId(self.name("swap", identifier))

    def by_measure(self, held: Mapping[MeasureId, Value]) -> dict[MeasureId, Value]:
        return {self.measure(key): value for key, value in held.items()}

    def by_sitting(self, held: Mapping[SittingId, Value]) -> dict[SittingId, Value]:
        return {self.sitting(key): value for key, value in held.items()}

    def was(self, entries: Iterable[Was]) -> tuple[Was, ...]:
        return tuple(
            replace(entry, member=READING + self.measure(entry.member.removeprefix(READING)))
            if entry.member.startswith(READING)
            else entry
            for entry in entries
        )

    def plan(self, old: Plan) -> Plan:
        return replace(
            old,
            headline=self.measure(old.headline) if old.headline else None,
            measures=self.by_measure(old.measures),
            pairs=tuple(FixedPair(self.run(p.before_run), self.run(p.after_run), p.reason) for p in old.pairs),
            borrow_spread_from=tuple(map(self.build, old.borrow_spread_from)),
            judge_whole=self.build(old.judge_whole) if old.judge_whole else None,
        )

    def showing(self, entry: Showing) -> Showing:
        return replace(
            entry,
            measure=self.measure(entry.measure),
            sittings=tuple(map(self.sitting, entry.sittings)),
            compared=self.build(entry.compared) if entry.compared else None,
            boots=self.by_sitting(entry.boots),
            conditions=self.by_sitting(entry.conditions),
        )

    def cost(self, line: CostLine) -> CostLine:
        running = line.running
        if running is not None:
            power, time = (self.measure(read) if read else None for read in (running.power, running.time))
            running = replace(running, power=power, time=time)
        return replace(line, running=running, shares={self.swap(swap): share for swap, share in line.shares.items()})

    def whole_measure(self, measure: Measure) -> Measure:
        return replace(
            measure,
            id=self.measure(measure.id),
            part_of=measure.part_of and self.measure(measure.part_of),
            derived_from=measure.derived_from and self.measure(measure.derived_from),
            per_measure=measure.per_measure and self.measure(measure.per_measure),
        )

    def whole_build(self, build: Build) -> Build:
        parts = tuple(replace(part, id=self.name("part", part.id)) for part in build.parts)
        return replace(build, id=self.build(build.id), parts=parts)

    def whole_sitting(self, sitting: Sitting) -> Sitting:
        return replace(sitting, id=self.sitting(sitting.id), build_id=self.build(sitting.build_id))

    def whole_run(self, run: Run) -> Run:
        return replace(
            run,
            id=self.run(run.id),
            sitting_id=self.sitting(run.sitting_id),
            readings=self.by_measure(run.readings),
            was=self.was(run.was),
        )

    def whole_swap(self, swap: Swap) -> Swap:
        return replace(
            swap,
            id=self.swap(swap.id),
            before=self.build(swap.before),
            after=self.build(swap.after),
            plan=self.plan(swap.plan),
            costs=tuple(map(self.cost, swap.costs)),
            shown=None if swap.shown is None else tuple(map(self.showing, swap.shown)),
            steps=tuple(replace(step, id=self.name("step", step.id)) for step in swap.steps),
            recognitions=tuple(replace(line, id=self.name("recognition", line.id)) for line in swap.recognitions),
            starts=tuple(replace(start, id=self.name("start", start.id)) for start in swap.starts),
            notes=tuple(replace(note, id=self.name("note", note.id), picture=False) for note in swap.notes),
            explanations=tuple(replace(one, id=self.name("explanation", one.id)) for one in swap.explanations),
            margin_edits=tuple(replace(edit, measure=self.measure(edit.measure)) for edit in swap.margin_edits),
        )

    def whole_candidate(self, candidate: Candidate) -> Candidate:
        swap = self.swap(candidate.swap) if candidate.swap else None
        return replace(candidate, id=self.name("candidate", candidate.id), swap=swap)

    def whole_recheck(self, recheck: Recheck) -> Recheck:
        named = self.name("recheck", recheck.id)
        return replace(recheck, id=named, build=self.build(recheck.build), plan=self.plan(recheck.plan))

"""Snapshots into what travels over HTTP."""

from collections.abc import Iterable, Mapping
from dataclasses import asdict, replace
from uuid import UUID

from lynxbill.api.wire.home_schemas import (
    BenchBuildOut,
    BenchLineOut,
    BenchOut,
    BenchSwapOut,
    DueOut,
    HomeOut,
    NewestOut,
)
from lynxbill.api.wire.schemas import (
    BenchNoteOut,
    BuildOut,
    CandidateOut,
    CaseOut,
    ChangeOut,
    CostOut,
    DoubtOut,
    ExplanationOut,
    MachineOut,
    MeasureOut,
    OpenPlanOut,
    PartOut,
    PlanOut,
    ReadingOut,
    RecheckOut,
    RecognitionOut,
    RunOut,
    RunsSavedOut,
    ShownOut,
    SittingOut,
    StartOut,
    StepOut,
    SwapOut,
    TallyOut,
    WhatIfOut,
    WorkloadOut,
)
from lynxbill.api.wire.spoken import write_comparison
from lynxbill.core.change.difference import find_differences, is_opened
from lynxbill.core.plan.progress import tally_builds
from lynxbill.core.plan.stage import find_job_state
from lynxbill.core.reading.counting import counts_for
from lynxbill.core.reading.doubts import Doubt
from lynxbill.core.reading.tally import sheets_of
from lynxbill.core.record.frame import Frame
from lynxbill.core.record.history import changes_of
from lynxbill.core.record.ids import RunId
from lynxbill.core.record.plan import Plan, Recheck
from lynxbill.core.record.run import RUN_MEMBERS, Run, Sitting
from lynxbill.core.record.swap import Swap
from lynxbill.core.result.what_if import WhatIf
from lynxbill.core.terms.measure import Measure, difference_unit
from lynxbill.core.terms.quantity import unit_of
from lynxbill.core.value.account import account_of
from lynxbill.exchange.evidence_schema import SetAsideFile
from lynxbill.exchange.run_members import from_value
from lynxbill.exchange.swap_members import from_plan, from_showing
from lynxbill.exchange.swap_schema import AttemptFile, MarginEditFile
from lynxbill.services.evidence.runs import Saved
from lynxbill.services.frame.identified import WordedShown
from lynxbill.services.frame.machines import MachineView
from lynxbill.services.verdicts.benches import PAGE, Home, Line
from lynxbill.services.verdicts.comparisons import Compared, Outcome
from lynxbill.store.benches import Bench
from lynxbill.words.money.account import say_net


def what_if_out(what_if: WhatIf) -> WhatIfOut:
    """Describe what leaving something out would change."""
    return WhatIfOut(
        before=UUID(what_if.before),
        after=UUID(what_if.after),
        measure=UUID(what_if.measure),
        now=what_if.now.word,
        then=what_if.then.word,
    )


def plan_out(plan: Plan) -> PlanOut:
    """Describe a plan."""
    return PlanOut.model_validate(from_plan(plan))


def home_out(home: Home) -> HomeOut:
    """Describe the home screen."""
    totals = home.totals
    return HomeOut(
        benches=[_bench_out(bench) for bench in home.benches],
        found=home.found,
        page_size=PAGE,
        total=totals.machines,
        waiting=totals.waiting,
        due=totals.due,
        resting=totals.resting,
        first=_bench_out(home.first) if home.first else None,
        rechecks=totals.rechecks,
        next_due=totals.next_due,
    )


def _bench_out(bench: Bench) -> BenchOut:
    return BenchOut(
        id=bench.machine_id,
        name=bench.name,
        owner=bench.owner,
        state="being judged" if not bench.holds else "unreadable" if bench.content is None else "judged",
        set_aside=bench.set_aside,
        line=BenchLineOut.model_validate_json(bench.content) if bench.content else None,
    )


class KeptForm:
    """What is kept of a machine, in the form in which it travels."""

    @staticmethod
    def line(line: Line) -> str:
        """Write a machine's line, which `home_out` reads again."""
        return _line_out(line).model_dump_json()

    @staticmethod
    def comparison(compared: Compared) -> str:
        return write_comparison(compared)


def _line_out(line: Line) -> BenchLineOut:
    case, versions, build, swap = line.case, line.snapshot.versions, line.fitted, line.current
    return BenchLineOut(
        question=case.machine.question,
        job_state=line.job_state,
        fitted=BenchBuildOut(
            letter=build.letter,
            parts=[PartOut.model_validate(part) for part in build.parts],
            sittings_left=line.sittings_left,
        )
        if build
        else None,
        swap=BenchSwapOut(
            label=swap.label,
            state=swap.state,
            opens=_opens(case, swap),
            steps=_steps_out(swap, versions),
            recognitions=_recognitions_out(swap, versions),
        )
        if swap
        else None,
        newest=_newest_out(case.swaps[-1], line.newest) if line.newest else None,
        rechecks=[DueOut(due_on=r.due_on, note=r.note, done=False) for r in case.rechecks if not r.done],
    )


def _newest_out(swap: Swap, outcome: Outcome) -> NewestOut:
    return NewestOut(label=swap.label, bundle=outcome.bundle, known=outcome.known)


def _recheck_out(recheck: Recheck, versions: Mapping[str, int]) -> RecheckOut:
    return RecheckOut(**asdict(recheck) | {"plan": plan_out(recheck.plan)}, version=versions[recheck.id])


def _steps_out(swap: Swap, versions: Mapping[str, int]) -> list[StepOut]:
    return [StepOut(**asdict(step), version=versions[step.id]) for step in swap.steps]


def _recognitions_out(swap: Swap, versions: Mapping[str, int]) -> list[RecognitionOut]:
    return [RecognitionOut(**asdict(line), version=versions[line.id]) for line in swap.recognitions]


def shown_out(shown: WordedShown | None) -> ShownOut | None:
    return None if shown is None else ShownOut(at=shown.at, build=shown.build.letter, departs=list(shown.departs))


def case_out(view: MachineView) -> CaseOut:
    """Describe everything recorded of a machine but its runs."""
    case, versions, tallies = view.case, view.snapshot.versions, tally_builds(view.case)
    measured = {workload for _, workload in sheets_of(case)}
    used, aside = case.used_sittings, case.aside
    sealed = {sitting.build_id for sitting in case.sittings if sitting.id in used}
    machine = {name: getattr(case.machine, name) for name in MachineOut.model_fields if name != "version"}
    return CaseOut(
        revision=view.counts.revision,
        evidence_revision=view.counts.evidence_revision,
        lasting=view.lasting,
        shown=shown_out(view.shown),
        machine=MachineOut.model_validate(machine | {"version": versions[case.machine.id]}),
        builds=[
            BuildOut(
                id=UUID(build.id),
                letter=build.letter,
                label=build.label,
                parts=[PartOut.model_validate(part) for part in build.parts],
                settings=dict(build.settings),
                wear=build.wear,
                sealed=build.id in sealed,
                version=versions[build.id],
            )
            for build in case.builds
        ],
        workloads=[
            WorkloadOut(**asdict(w), frozen=w.name in measured, version=versions[w.id]) for w in case.workloads
        ],
        measures=[measure_out(replace(measure, set_aside=aside.get(measure.id))) for measure in case.measures],
        sittings=[
            SittingOut(
                id=UUID(sitting.id),
                build=UUID(sitting.build_id),
                purpose=sitting.purpose,
                started_at=sitting.started_at,
                ambient_c=sitting.ambient_c,
                conditions=dict(sitting.conditions),
                boot=sitting.boot,
                boot_by=sitting.boot_by,
                closed_at=sitting.closed_at,
                mount=sitting.mount,
                set_aside=SetAsideFile.model_validate(sitting.set_aside) if sitting.set_aside else None,
                attempt=sitting.attempt,
                changes=_changes_out(sitting),
                version=versions[sitting.id],
            )
            for sitting in case.sittings
        ],
        swaps=[_swap_out(swap, case, versions) for swap in case.swaps],
        open_plan=OpenPlanOut(plan=plan_out(view.snapshot.open_plan), version=versions["plan"]),
        fitted=UUID(case.fitted.id) if case.fitted else None,
        candidates=[CandidateOut(**asdict(c), version=versions[c.id]) for c in case.candidates],
        rechecks=[_recheck_out(recheck, versions) for recheck in case.rechecks],
        job_state=find_job_state(case, tallies),
        tallies={build: TallyOut(**asdict(tally)) for build, tally in tallies.items()},
    )


def measure_out(measure: Measure) -> MeasureOut:
    shown = {
        "unit_display": unit_of(measure.unit).display,
        "difference_display": unit_of(difference_unit(measure)).display,
    }
    fields = {name: getattr(measure, name) for name in MeasureOut.model_fields if name not in shown}
    return MeasureOut.model_validate(fields | shown)


def _changes_out(thing: Run | Sitting) -> list[ChangeOut]:
    return [
        ChangeOut(
            member=change.member,
            old=from_value(change.old),
            new=from_value(change.new),
            at=change.at,
            by=change.by,
            reason=change.reason,
        )
        for change in changes_of(thing)
    ]


def run_out(run: Run, version: int) -> RunOut:
    """Describe one run as it stands recorded."""
    return RunOut(
        id=UUID(run.id),
        sitting=UUID(run.sitting_id),
        workload=run.workload,
        excluded_late=run.excluded_late.reason if run.excluded_late else None,
        readings={measure: ReadingOut.model_validate(reading) for measure, reading in run.readings.items()},
        changes=_changes_out(run),
        counts_for=list(counts_for(run)),
        version=version,
        **{name: getattr(run, name) for name in RUN_MEMBERS if name in RunOut.model_fields},
    )


def runs_saved_out(saved: Saved) -> RunsSavedOut:
    return RunsSavedOut(
        runs=[run_out(run, saved.versions[run.id]) for run in saved.runs],
        doubts=doubts_out(saved.doubts),
        evidence_revision=saved.evidence_revision,
    )


def doubts_out(doubts: Iterable[tuple[RunId, Doubt, str]]) -> list[DoubtOut]:
    """Describe which readings may have been typed wrong."""
    return [
        DoubtOut(
            run=UUID(run),
            measure=UUID(doubt.measure),
            code=doubt.code,
            value=doubt.value,
            meant=doubt.meant,
            message=message,
        )
        for run, doubt, message in doubts
    ]


def _opens(case: Frame, swap: Swap) -> bool:
    return is_opened(find_differences(case.build(swap.before), case.build(swap.after)), swap.side_changes)


def _swap_out(swap: Swap, case: Frame, versions: Mapping[str, int]) -> SwapOut:
    return SwapOut(
        id=UUID(swap.id),
        before=UUID(swap.before),
        after=UUID(swap.after),
        label=swap.label,
        side_changes=list(swap.side_changes),
        costs=[CostOut.model_validate(line) for line in swap.costs],
        net_written=say_net(account_of(case, (swap,)), case.machine.decimal_mark),
        plan=plan_out(swap.plan),
        plan_version=versions[f"plan {swap.id}"],
        state=swap.state,
        opens=_opens(case, swap),
        declares=list(swap.declares),
        opened_at=swap.opened_at,
        looked_at=swap.looked_at,
        closed_at=swap.closed_at,
        gate_reason=swap.gate_reason,
        gate_missing=list(swap.gate_missing),
        recognition_skipped=swap.recognition_skipped,
        steps=_steps_out(swap, versions),
        recognitions=_recognitions_out(swap, versions),
        starts=[StartOut(**asdict(start), version=versions[start.id]) for start in swap.starts],
        notes=[BenchNoteOut(**asdict(note), version=versions[note.id]) for note in swap.notes],
        explanations=[ExplanationOut(**asdict(e), version=versions[e.id]) for e in swap.explanations],
        margin_edits=[MarginEditFile.model_validate(edit) for edit in swap.margin_edits],
        shown=None if swap.shown is None else [from_showing(entry) for entry in swap.shown],
        attempts=[AttemptFile.model_validate(attempt) for attempt in swap.attempts],
        version=versions[swap.id],
    )

"""Taking a machine away with everything recorded of it."""

from uuid import UUID

from sqlalchemy import delete, select, update
from sqlalchemy.orm import Session

from lynxbill.store.tables import (
    AnswerRow,
    AttemptRow,
    BenchNoteRow,
    BuildPartRow,
    BuildRow,
    CandidateRow,
    CostRow,
    EditRow,
    ExplanationRow,
    LineRow,
    MachineRow,
    MarginEditRow,
    MeasureRow,
    PartRow,
    PlannedMeasureRow,
    PlanRow,
    ReadingRow,
    RecheckRow,
    RecognitionRow,
    ReportRow,
    RunPictureRow,
    RunRow,
    SheetRow,
    ShelfRow,
    ShowingRow,
    SittingRow,
    StartRow,
    StepRow,
    SwapRow,
    WorkloadRow,
)


def delete_machine(session: Session, machine_id: UUID) -> None:
    """Delete a machine's rows, those that point at others first."""
    builds = select(BuildRow.id).where(BuildRow.machine_id == machine_id)
    swaps = select(SwapRow.id).where(SwapRow.machine_id == machine_id)
    plans = select(PlanRow.id).where(PlanRow.machine_id == machine_id)
    workloads = select(WorkloadRow.id).where(WorkloadRow.machine_id == machine_id)
    for statement in (
        delete(AnswerRow).where(AnswerRow.machine_id == machine_id),
        delete(LineRow).where(LineRow.machine_id == machine_id),
        delete(EditRow).where(EditRow.machine_id == machine_id),
        delete(ReportRow).where(ReportRow.machine_id == machine_id),
        delete(ShowingRow).where(ShowingRow.machine_id == machine_id),
        delete(SheetRow).where(SheetRow.machine_id == machine_id),
        delete(RunPictureRow).where(RunPictureRow.machine_id == machine_id),
        delete(ReadingRow).where(ReadingRow.machine_id == machine_id),
        delete(RunRow).where(RunRow.machine_id == machine_id),
        delete(SittingRow).where(SittingRow.build_id.in_(builds)),
        delete(PlannedMeasureRow).where(PlannedMeasureRow.plan_id.in_(plans)),
        delete(PlanRow).where(PlanRow.machine_id == machine_id),
        delete(CandidateRow).where(CandidateRow.machine_id == machine_id),
        delete(RecheckRow).where(RecheckRow.machine_id == machine_id),
        *(
            delete(kind).where(kind.swap_id.in_(swaps))
            for kind in (
                AttemptRow,
                CostRow,
                StepRow,
                RecognitionRow,
                StartRow,
                BenchNoteRow,
                ExplanationRow,
                MarginEditRow,
            )
        ),
        # What lies on the shelf stays there; the part that it was of this machine is no more.
        update(ShelfRow)
        .where(ShelfRow.from_part_id.in_(select(PartRow.id).where(PartRow.machine_id == machine_id)))
        .values(from_part_id=None),
        delete(SwapRow).where(SwapRow.machine_id == machine_id),
        delete(BuildPartRow).where(BuildPartRow.build_id.in_(builds)),
        delete(BuildRow).where(BuildRow.machine_id == machine_id),
        delete(PartRow).where(PartRow.machine_id == machine_id),
        delete(MeasureRow).where(MeasureRow.workload_id.in_(workloads)),
        delete(WorkloadRow).where(WorkloadRow.machine_id == machine_id),
        delete(MachineRow).where(MachineRow.id == machine_id),
    ):
        session.execute(statement)

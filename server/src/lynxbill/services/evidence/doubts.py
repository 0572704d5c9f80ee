"""Doubts: which readings of a sitting may have been typed wrong, and what is asked of them."""

from collections.abc import Iterable, Iterator
from uuid import UUID

from lynxbill.core.reading.doubts import Doubt, doubts_of
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import RunId, SittingId
from lynxbill.core.record.run import Run
from lynxbill.services.base.transaction import Sessions, reading
from lynxbill.store.evidence import load_evidence
from lynxbill.store.kept import read_case
from lynxbill.words.results.doubts import say_doubt

Asked = tuple[RunId, Doubt, str]


def list_doubts(sessions: Sessions, machine_id: UUID, sitting: UUID) -> tuple[Asked, ...]:
    """Say which readings of a sitting may have been typed wrong."""
    with reading(sessions) as session:
        case = read_case(session, machine_id)
        return tuple(say_doubts(case, load_evidence(session, case, {str(sitting)}).runs))


def say_doubts(case: Case, runs: Iterable[Run]) -> Iterator[Asked]:
    """Ask of the runs of some sittings, as far as these are open, in the machine's decimal mark."""
    measures = {measure.id: measure for measure in case.measures}
    by_sitting: dict[SittingId, list[Run]] = {}
    for run in runs:
        by_sitting.setdefault(run.sitting_id, []).append(run)
    for sitting, here in by_sitting.items():
        for run_id, doubts in doubts_of(case, sitting, here).items():
            for doubt in doubts:
                yield RunId(run_id), doubt, say_doubt(doubt, measures[doubt.measure], case.machine.decimal_mark)

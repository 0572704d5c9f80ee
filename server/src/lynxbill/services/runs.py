"""Runs: record one, from the run sheet or the bench agent; sending it twice stores it once."""

from collections.abc import Mapping
from dataclasses import replace
from datetime import UTC, datetime
from uuid import UUID

from sqlalchemy.orm import Session

from lynxbill.core.case import Frame, PlannedMeasure, Reading, Run, Workload
from lynxbill.core.errors import BadValue, Clash, Missing, Refusal, Several
from lynxbill.core.measure import Measure, check_reading
from lynxbill.core.quantity import unit_of
from lynxbill.core.reading import combine_readings
from lynxbill.exchange.entry import DecimalMark, parse_reading
from lynxbill.services.sittings import refuse_closed_build
from lynxbill.services.transaction import Sessions, check_version, transaction
from lynxbill.store import rows
from lynxbill.store.database import announce_evidence
from lynxbill.store.evidence import keep_sheets, load_evidence
from lynxbill.store.kept import read_snapshot
from lynxbill.store.snapshot import find_machine
from lynxbill.store.tables import RunRow

Written = Mapping[str, Reading | str]


def save_run(
    sessions: Sessions, machine_id: UUID, workload_id: UUID, run: Run, written: Written, version: int | None
) -> tuple[Run, int]:
    """
    Record a run with its readings, or correct it.

    `written` holds readings as values or as typed text, which is read in the measure's unit; `run.workload` and,
    where empty, its version and parameters are filled in from the workload. Answers the run as recorded and its
    version.
    """
    with transaction(sessions) as session:
        find_machine(session, machine_id, lock=True)
        snapshot = read_snapshot(session, machine_id)
        workload = next((w for w in snapshot.frame.workloads if w.id == str(workload_id)), None)
        if workload is None:
            raise Missing("This machine has no such workload.", field="workload")
        sitting = next((s for s in snapshot.frame.sittings if s.id == run.sitting_id), None)
        if sitting is None:
            raise Missing(
                "This machine has no such sitting. Begin a sitting, then record the run in it.", field="sitting"
            )
        refuse_closed_build(snapshot.frame, sitting.build_id)
        measures = {m.id: m for m in snapshot.frame.measures if m.workload == workload.name}
        readings = _combine(_read(written, measures, snapshot.frame.machine.decimal_mark), measures)
        plan = snapshot.frame.plan_of(sitting.build_id)
        complete = _complete(run, workload, _with_statistic(readings, plan.measures))
        row, changed = _store(session, snapshot.frame, complete, workload_id, measures, version)
        if changed:
            _keep(session, snapshot.frame, complete)
        session.flush()
        return complete, row.version


def leave_out_late(sessions: Sessions, machine_id: UUID, run_id: UUID, reason: str) -> None:
    """
    Leave a run out after its reading was seen: the reason stays for ever, and what it would change is shown.

    A correction of the run later on does not take this back.
    """
    with transaction(sessions) as session:
        find_machine(session, machine_id, lock=True)
        frame = read_snapshot(session, machine_id).frame
        row = session.get(RunRow, run_id)
        if row is None or row.machine_id != machine_id:
            raise Missing("This machine has no such run.")
        recorded = load_evidence(session, frame, {str(row.sitting_id)}).runs
        run = next(known for known in recorded if known.id == str(run_id))
        if run.warm_up or run.state != "complete":
            raise BadValue(f"This run does not count anyway: it is {'a warm-up' if run.warm_up else run.state}.")
        if run.excluded_late is not None:
            raise Clash(f"This run was left out before, “{run.excluded_late.reason}”; that stays.")
        row.excluded_late_reason, row.excluded_late_at = reason, datetime.now(UTC)
        row.version += 1
        _keep(session, frame, run)


def _keep(session: Session, frame: Frame, run: Run) -> None:
    """Write what is kept of the run's sheet with the run, in the same transaction."""
    session.flush()
    stamp = announce_evidence(session, frame.machine.id)
    keep_sheets(session, frame, [(run.sitting_id, run.workload)], stamp)


def _complete(run: Run, workload: Workload, readings: Mapping[str, Reading]) -> Run:
    if run.state != "complete" and not (run.reason or "").strip():
        raise BadValue(f"Say why this run is {run.state}; the report shows the reason.", field="reason")
    return replace(
        run,
        workload=workload.name,
        workload_version=run.workload_version or workload.workload_version,
        parameters=run.parameters or workload.parameters,
        target=run.target or workload.target,
        readings=readings,
    )


def _combine(readings: dict[str, Reading], measures: Mapping[str, Measure]) -> dict[str, Reading]:
    """Make the readings of quantities whose every sensor was read from those of their sensors."""
    made = {}
    for measure in measures.values():
        parts = [part.id for part in measures.values() if part.part_of == measure.id]
        if measure.combined_by and parts and all(part in readings for part in parts):
            try:
                made[measure.id] = combine_readings(measure, [readings[part] for part in parts])
            except BadValue as refusal:
                refusal.field = f"readings.{measure.id}"
                raise
    return readings | made


def _with_statistic(readings: Mapping[str, Reading], planned: Mapping[str, PlannedMeasure]) -> dict[str, Reading]:
    """A reading that does not say which statistic it is takes the plan's."""
    return {
        key: replace(reading, statistic=reading.statistic or (planned[key].statistic if key in planned else None))
        for key, reading in readings.items()
    }


def _read(written: Written, measures: Mapping[str, Measure], mark: DecimalMark) -> dict[str, Reading]:
    """Read every field before refusing any, so that all marks appear at once."""
    readings, refusals = {}, list[Refusal]()
    for measure_id, entry in written.items():
        try:
            readings[measure_id] = _read_one(entry, measures.get(measure_id), mark)
        except Refusal as refusal:
            refusal.field = f"readings.{measure_id}"
            refusals.append(refusal)
    if refusals:
        raise Several(refusals)
    return readings


def _read_one(entry: Reading | str, measure: Measure | None, mark: DecimalMark) -> Reading:
    if measure is None:
        raise BadValue("This measure does not belong to the run's workload.")
    if isinstance(entry, str):
        value = parse_reading(entry, unit_of(measure.unit), mark)
        entry = Reading(value, value)
    check_reading(entry.low, measure)
    check_reading(entry.high, measure)
    return entry


def _store(
    session: Session,
    frame: Frame,
    run: Run,
    workload_id: UUID,
    measures: Mapping[str, Measure],
    version: int | None,
) -> tuple[RunRow, bool]:
    scales = {measure.id: measure.scale for measure in measures.values()}
    row = session.get(RunRow, UUID(run.id))
    if row is None:
        if run.is_emptied and not run.warm_up:
            raise BadValue("There is no figure in this run: write one, or mark what became of it.", field="readings")
        row = rows.run_row(run, UUID(frame.machine.id), workload_id, scales)
        session.add(row)
        return row, True
    if row.machine_id != UUID(frame.machine.id):
        raise BadValue("This run id belongs to another machine.", field="id")
    evidence = load_evidence(session, frame, {str(row.sitting_id)}).runs
    recorded = next(known for known in evidence if known.id == run.id)
    if recorded == run:
        return row, False
    check_version(row, version, {name: getattr(row, name) for name in ("state", "reason", "position")})
    _overwrite(row, rows.run_row(run, row.machine_id, workload_id, scales))
    row.version += 1
    return row, True


_CORRECTED = (
    "state",
    "reason",
    "position",
    "target",
    "pair_label",
    "started_at",
    "duration_s",
    "soak_s",
    "held_back",
)


def _overwrite(row: RunRow, fresh: RunRow) -> None:
    for name in _CORRECTED:
        setattr(row, name, getattr(fresh, name))
    kept = {reading.measure_id: reading for reading in row.readings}
    wanted = {reading.measure_id: reading for reading in fresh.readings}
    for measure_id, reading in wanted.items():
        old = kept.get(measure_id)
        if old is None:
            continue
        for name in ("low", "high", "about", "source", "statistic"):
            setattr(old, name, getattr(reading, name))
    fresh.readings = []
    row.readings = [kept.get(measure_id, reading) for measure_id, reading in wanted.items()]

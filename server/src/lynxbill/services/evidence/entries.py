"""What was entered for a run, made into the run that is recorded: its readings read, its workload filled in."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from uuid import UUID

from lynxbill.core.heat.readoff import STATISTICS
from lynxbill.core.reading.reading import combine_readings, derive_reading, hold_against
from lynxbill.core.record.frame import Frame
from lynxbill.core.record.ids import Plain
from lynxbill.core.record.plan import PlannedMeasure
from lynxbill.core.record.run import Reading, ReadingSource, Run, Statistic
from lynxbill.core.record.vocabulary import RUN_CONDITIONS, check_figures
from lynxbill.core.record.workload import Workload
from lynxbill.core.terms.errors import BadValue, Missing, Refusal, Several
from lynxbill.core.terms.measure import Measure, MeasureId, check_reading
from lynxbill.core.terms.quantity import unit_of
from lynxbill.exchange.entry import DecimalMark, parse_entry
from lynxbill.services.evidence.sittings import refuse_closed_build


@dataclass(frozen=True, slots=True)
class Typed:
    """A reading as it was typed, with what was said of it beside; a word in the text goes before it."""

    text: str
    source: ReadingSource | None = None
    statistic: Statistic | None = None


Written = Mapping[MeasureId, Reading | Typed]


@dataclass(frozen=True, slots=True)
class Entry:
    """
    A run as it was entered, and the version of it that was seen.

    `written` holds readings as values or as typed text, which is read in the measure's unit; `run.workload` and,
    where empty, its version and parameters are filled in from the workload.
    """

    workload_id: UUID
    run: Run
    written: Written
    version: int | None


def complete_run(frame: Frame, entry: Entry) -> Run:
    """Make the run that is to be recorded; refuses what can't be read or has no place."""
    workload = next((w for w in frame.workloads if w.id == str(entry.workload_id)), None)
    if workload is None:
        raise Missing("This machine has no such task.", field="workload")
    sitting = next((s for s in frame.sittings if s.id == entry.run.sitting_id), None)
    if sitting is None:
        raise Missing(
            "This machine has no such sitting. Begin a sitting, then record the run in it.", field="sitting"
        )
    refuse_closed_build(frame, sitting.build_id)
    measures = {m.id: m for m in frame.measures if m.workload == workload.name}
    readings = _combine(_read(entry.written, measures, frame.machine.decimal_mark), measures)
    readings |= _derive(readings, measures, entry.run.parameters or workload.parameters)
    check_figures(entry.run.conditions, RUN_CONDITIONS, "conditions")
    plan = frame.plan_of(sitting.build_id)
    return _complete(entry.run, workload, _with_statistic(readings, plan.measures, measures))


def _complete(run: Run, workload: Workload, readings: Mapping[MeasureId, Reading]) -> Run:
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


def _combine(readings: dict[MeasureId, Reading], measures: Mapping[MeasureId, Measure]) -> dict[MeasureId, Reading]:
    """Make the readings of quantities whose every sensor was read from those of their sensors."""
    made = {}
    for measure in (m for m in measures.values() if m.combined_by):
        parts = [part.id for part in measures.values() if part.part_of == measure.id]
        if parts and all(part in readings for part in parts):
            try:
                made[measure.id] = combine_readings(measure, [readings[part] for part in parts])
            except BadValue as refusal:
                refusal.field = f"readings.{measure.id}"
                raise
    return readings | made


def _derive(
    readings: Mapping[MeasureId, Reading], measures: Mapping[MeasureId, Measure], parameters: Mapping[str, Plain]
) -> dict[MeasureId, Reading]:
    """Make the readings of derived measures from what was read."""
    made = {}
    for measure in measures.values():
        of = readings.get(measure.derived_from) if measure.derived_from else None
        if of is not None and measure.derived_from and measure.needs is not None:
            made[measure.id] = hold_against(of, measures[measure.derived_from], measure.needs)
            continue
        size = parameters.get(measure.per_parameter) if measure.per_parameter else None
        per = readings.get(measure.per_measure) if measure.per_measure else size
        if of is not None and isinstance(per, (Reading, int, float)):
            made[measure.id] = derive_reading(of, per)
    return made


def _statistic_of(measure: Measure) -> Statistic | None:
    """Which statistic a figure off a trace is: a settled value typed by hand is a settled value."""
    return STATISTICS.get(measure.trace_figure) if measure.trace_figure is not None else None


def _with_statistic(
    readings: Mapping[MeasureId, Reading],
    planned: Mapping[MeasureId, PlannedMeasure],
    measures: Mapping[MeasureId, Measure],
) -> dict[MeasureId, Reading]:
    """A reading that does not say which statistic it is takes the plan's, else that of the figure that it is."""
    stated = {
        key: (planned[key].statistic if key in planned else None) or _statistic_of(measures[key]) for key in readings
    }
    return {
        key: replace(reading, statistic=stated[key]) if reading.statistic is None and stated.get(key) else reading
        for key, reading in readings.items()
    }


def _read(written: Written, measures: Mapping[MeasureId, Measure], mark: DecimalMark) -> dict[MeasureId, Reading]:
    """Read every field before refusing any, so that all marks appear at once."""
    readings, refusals = {}, list[Refusal]()
    for measure_id, entry in written.items():
        if (measure := measures.get(measure_id)) and measure.derived_from:
            continue
        try:
            readings[measure_id] = _read_one(entry, measure, mark)
        except Refusal as refusal:
            refusal.field = f"readings.{measure_id}"
            refusals.append(refusal)
    if refusals:
        raise Several(refusals)
    return readings


def _read_one(entry: Reading | Typed, measure: Measure | None, mark: DecimalMark) -> Reading:
    if measure is None:
        raise BadValue("This measure does not belong to the run’s task.")
    if isinstance(entry, Typed):
        read = parse_entry(entry.text, unit_of(measure.unit), mark)
        entry = replace(read, source=entry.source, statistic=read.statistic or entry.statistic)
    check_reading(entry.low, measure)
    check_reading(entry.high, measure)
    return entry

"""Heat of two builds laid over each other: every run's curves, what both sides come to, and what is said of it."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from hashlib import blake2b
from uuid import UUID

from sqlalchemy.orm import Session

from lynxbill.core.heat.equilibrium import Equilibrium, NotReached, fit_equilibrium
from lynxbill.core.heat.held_back import Limits, limits_of, permitted_by_part
from lynxbill.core.heat.roles import DRAWN, UNITS, ChannelRole
from lynxbill.core.heat.run import air_of
from lynxbill.core.heat.sides import Overlay, RunCurves, counted_window, lay_over, run_curves
from lynxbill.core.heat.trace import Floats, Stretches, thin_out
from lynxbill.core.reading.counting import compared_sittings, is_whole
from lynxbill.core.record.frame import Case, Frame
from lynxbill.core.record.ids import BuildId, RunId, SittingId
from lynxbill.core.record.run import Run, Sitting
from lynxbill.core.record.workload import Workload
from lynxbill.core.terms.quantity import unit_of
from lynxbill.services.base.remembered import Remembered
from lynxbill.services.base.transaction import Sessions, reading
from lynxbill.services.evidence.trace_figures import read_channels
from lynxbill.store.kept import read_case
from lynxbill.store.traces import Trace, read_traces
from lynxbill.words.heat.heat import HeatPicture, PictureCurve, PictureSide, WordedOverlay, say_overlay

_READ: tuple[ChannelRole, ...] = (*DRAWN, "load", "held back")
POINTS = 180
# The newest so many of a side are laid over each other: more is a band, and no longer to be told apart.
MOST_RUNS = 24


# They take most of a comparison's time.
FITS = Remembered[bytes, Equilibrium | NotReached](5000)


def fit_once(at: Floats, values: Floats) -> Equilibrium | NotReached:
    """Fit an equilibrium, or remember it from the last time that the same samples were looked at."""
    key = blake2b(at.tobytes() + values.tobytes(), digest_size=16).digest()
    return FITS.answer(key, lambda: fit_equilibrium(at, values))


@dataclass(frozen=True, slots=True)
class DrawnCurve:
    """A channel of a run, or of a side's mean, thinned out; `unit` as it is shown."""

    role: ChannelRole
    unit: str
    stretches: Stretches


@dataclass(frozen=True, slots=True)
class DrawnRun:
    """A run of a side; `sitting` counts the side's sittings from 1."""

    run: str
    sitting: int
    settled: bool
    curves: tuple[DrawnCurve, ...]


@dataclass(frozen=True, slots=True)
class DrawnSide:
    """A side with its runs and its mean curves."""

    build: BuildId
    letter: str
    runs: tuple[DrawnRun, ...]
    means: tuple[DrawnCurve, ...]


@dataclass(frozen=True, slots=True)
class HeatView:
    """
    Two sides of one workload. `window`: where the heat was read that is judged, the same on both sides. `shown`: a
    verdict on the heat of it was given before; what is chosen by hand afterwards is chosen late.
    """

    workload: Workload
    workloads: tuple[Workload, ...]
    overlay: Overlay
    sides: tuple[DrawnSide, DrawnSide]
    worded: WordedOverlay
    window: tuple[float, float] | None
    shown: bool


def view_heat(
    sessions: Sessions, machine_id: UUID, before: BuildId, after: BuildId, workload: UUID | None
) -> HeatView | None:
    """
    Lay the heat of two builds over each other: of the workload that is named, else of the plan's headline, else of
    the first whose runs on both have a trace.

    Returns: None where no workload has a trace with a temperature on both sides.
    """
    with reading(sessions) as session:
        case = read_case(session, machine_id, builds={before, after})
        return look_at_heat(session, machine_id, case, before, after, workload)


def look_at_heat(
    session: Session, machine_id: UUID, frame: Case, before: BuildId, after: BuildId, workload: UUID | None
) -> HeatView | None:
    """The same of a case that was read with the runs of both builds."""
    counted = {run.id: run for run in frame.runs if is_whole(run)}
    sides = [compared_sittings(frame, build) for build in (before, after)]
    traces = [_traces(session, machine_id, sittings, counted) for sittings in sides]
    on_both = {t.workload_id for t in traces[0]} & {t.workload_id for t in traces[1]}
    choices = tuple(w for w in frame.workloads if UUID(w.id) in on_both)
    chosen = _choose(frame, before, after, choices, workload)
    if chosen is None:
        return None
    limits = limits_of(frame.machine.limits)
    curves = [
        _curves(session, [t for t in found if t.workload_id == UUID(chosen.id)], sittings, counted, limits)
        for found, sittings in zip(traces, sides, strict=True)
    ]
    overlay = lay_over(*curves)
    if overlay is None:
        return None
    drawn = [
        DrawnSide(build, frame.build(build).letter, _runs(runs, sittings), _means(side.means, overlay.above_room))
        for build, runs, sittings, side in zip(
            (before, after), curves, sides, (overlay.before, overlay.after), strict=True
        )
    ]
    worded = say_overlay(overlay, frame.machine.decimal_mark, permitted_by_part(frame.machine.limits))
    window = _window(frame, before, after, chosen, overlay)
    shown = _was_shown(frame, before, after, chosen)
    return HeatView(chosen, choices, overlay, (drawn[0], drawn[1]), worded, window, shown)


def _window(
    frame: Frame, before: BuildId, after: BuildId, workload: Workload, overlay: Overlay
) -> tuple[float, float] | None:
    """Where the heat of this work that the plan leads with was read; of several the headline's, else the first."""
    swap = frame.swap_between(before, after)
    headline = swap.plan.headline if swap is not None else None
    heat = [m for m in frame.measures if m.workload == workload.name and m.kind == "heat"]
    led = next((m for m in heat if m.id == headline), heat[0] if heat else None)
    return None if led is None else counted_window(led.trace_figure, led.trace_minute, overlay)


def picture_heat(view: HeatView) -> HeatPicture:
    """What a report keeps of it: both sides' means, without their runs."""
    heats = (view.overlay.before, view.overlay.after)
    return HeatPicture(
        workload=view.workload.name,
        above_room=view.overlay.above_room,
        same_s=view.overlay.same_s,
        sides=tuple(
            PictureSide(side.build, side.letter, _picture(side.means), heat.equilibrium, heat.held)
            for side, heat in zip(view.sides, heats, strict=True)
        ),
        worded=view.worded,
        window=view.window,
    )


def _picture(means: Sequence[DrawnCurve]) -> tuple[PictureCurve, ...]:
    return tuple(
        PictureCurve(
            curve.role, curve.unit, curve.stretches.at, tuple(_finer(value) for value in curve.stretches.low)
        )
        for curve in means
    )


def _finer(value: float | None) -> float | None:
    """As fine as a drawing shows: a report is kept for ever."""
    return None if value is None else round(value, 2)


def _traces(
    session: Session, machine_id: UUID, sittings: Sequence[Sitting], counted: Collection[RunId]
) -> list[Trace]:
    """Traces of runs that count, with a temperature; the newest of them."""
    if not sittings:
        return []
    found = read_traces(session, machine_id, [UUID(sitting.id) for sitting in sittings])
    ended = [trace for trace in found if trace.ended and str(trace.id) in counted]
    return [t for t in ended if any(c.key.role == "temperature" for c in t.channels)][-MOST_RUNS:]


def _choose(
    frame: Frame, before: BuildId, after: BuildId, choices: Sequence[Workload], asked: UUID | None
) -> Workload | None:
    if asked is not None:
        return next((workload for workload in choices if workload.id == str(asked)), None)
    swap = frame.swap_between(before, after)
    headline = swap.plan.headline if swap is not None else None
    led = next((measure.workload for measure in frame.measures if measure.id == headline), None)
    return next((w for w in choices if w.name == led), None) or next(iter(choices), None)


def _curves(
    session: Session,
    traces: Sequence[Trace],
    sittings: Sequence[Sitting],
    runs: Mapping[RunId, Run],
    limits: Limits,
) -> list[RunCurves]:
    held = {sitting.id: sitting for sitting in sittings}
    found = []
    for trace in traces:
        channels = read_channels(session, trace, _READ)
        sitting = held[SittingId(str(trace.sitting_id))]
        air = air_of(runs[RunId(str(trace.id))], sitting.ambient_c)
        one = run_curves(
            RunId(str(trace.id)),
            sitting.id,
            channels,
            trace.marks,
            air,
            sitting.mount,
            limits,
            _peaks(trace),
            fit_once,
        )
        if one is not None:
            found.append(one)
    return found


def _peaks(trace: Trace) -> dict[str, float]:
    """By part the highest that its sensors told, in °C."""
    peaks: dict[str, float] = {}
    for channel in trace.channels:
        if channel.key.role == "temperature" and channel.key.unit == "Cel" and channel.high is not None:
            peaks[channel.key.of] = max(channel.high, peaks.get(channel.key.of, channel.high))
    return peaks


def _runs(runs: Sequence[RunCurves], sittings: Sequence[Sitting]) -> tuple[DrawnRun, ...]:
    numbers = {sitting.id: number for number, sitting in enumerate(sittings, start=1)}
    return tuple(
        DrawnRun(
            one.run,
            numbers[one.sitting],
            one.heat.course is not None and one.heat.course.settled,
            tuple(
                DrawnCurve(role, _unit(role, one.above_room), thin_out(*one.channels[role], POINTS))
                for role in DRAWN
                if role in one.channels
            ),
        )
        for one in runs
    )


def _means(means: Mapping[ChannelRole, tuple[Floats, Floats]], above_room: bool) -> tuple[DrawnCurve, ...]:
    return tuple(
        DrawnCurve(role, _unit(role, above_room), thin_out(*means[role], POINTS)) for role in DRAWN if role in means
    )


def _unit(role: ChannelRole, above_room: bool) -> str:
    return "K" if role == "temperature" and above_room else unit_of(UNITS[role]).display


def _was_shown(frame: Frame, before: BuildId, after: BuildId, workload: Workload) -> bool:
    swap = frame.swap_between(before, after)
    if swap is None or swap.shown is None:
        return False
    heat = {m.id for m in frame.measures if m.workload == workload.name and m.kind == "heat"}
    return any(showing.measure in heat for showing in swap.shown)

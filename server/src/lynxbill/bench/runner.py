"""One sitting of the agent: rest, run, look, keep, send; it goes on at the exact run where it was left."""

import threading
import time
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any, Protocol
from uuid import uuid4

from lynxbill.bench.client import Client, ServerLost, ServerRefused
from lynxbill.bench.job import Asked, Job, run_id
from lynxbill.bench.keep import Keep
from lynxbill.bench.preflight import Interference, Rest, read_source
from lynxbill.bench.send import Body, send_kept
from lynxbill.bench.sensors import Channel, hottest, missing_roles
from lynxbill.bench.source import Source, Watching
from lynxbill.bench.trace import Recorder
from lynxbill.bench.work.target import drive_state, look_at
from lynxbill.bench.workload import Bench, CannotRun, Figures, StoppedForSafety, WrongResult
from lynxbill.core.record.ids import Plain

SEND_EVERY_S = 2.0
# What else runs is looked at less often: it costs more than a sensor.
LOOK_EVERY_S = 6.0
# A workload that fails so often in a row will not do better the next time.
MOST_FAILURES = 3
# How the reason of a run begins that was stopped at the temperature which the machine names for it.
STOPPED = "stopped for safety"


class Talk(Protocol):
    """Whoever sits at the agent."""

    def say(self, line: str) -> None: ...

    def show(self, label: str, share: float, beside: str) -> None:
        """How far a run is."""

    def done(self, label: str, body: Body, units: Mapping[str, str]) -> None:
        """A run ended; `units` are those of its measures, by id."""

    def repeats(self, interference: Interference, label: str) -> bool:
        """Whether a run that another program disturbed is to be done again; asked before its reading is shown."""


@dataclass(frozen=True, slots=True)
class Settings:
    """What the agent was told when it was called; `programs` are the technician's own."""

    source: Source
    hertz: float
    target: Path | None
    programs: Mapping[str, Any]
    rest_limit_s: float
    offset: timedelta = timedelta(0)

    @property
    def boot(self) -> str:
        return self.source.boot

    @property
    def channels(self) -> list[Channel]:
        return self.source.channels()

    def bench(self, job: Job) -> Bench:
        """The bench as a workload finds it before its run: nothing is recorded yet."""
        told = frozenset(channel.role for channel in self.channels)
        return Bench(self.threads(job), lambda _share: None, _NoTrace(), self.target, self.programs, told)

    def threads(self, job: Job) -> int:
        """In how many threads all-core work runs: as the build says, else in all."""
        threads = job.settings.get("threads")
        return (
            threads
            if isinstance(threads, int) and not isinstance(threads, bool) and threads >= 1
            else self.source.threads
        )


@dataclass(slots=True)
class Outcome:
    """What became of a sitting: its entries in order, those the server has not, what could not run, and why."""

    sitting: str
    runs: list[tuple[str, Body]] = field(default_factory=list)
    unsent: int = 0
    left_out: dict[str, str] = field(default_factory=dict)
    interrupted: bool = False


def choose_sitting(job: Job, boot: str, keep: Keep) -> tuple[str, bool]:
    """
    The sitting that the runs join: the open one, unless the machine was restarted since; and whether it is new.

    One that was begun while no server answered is kept here alone, and found again by its boot.
    """
    if job.sitting is not None and job.sitting_boot in (None, boot):
        return job.sitting, False
    for sitting in keep.sittings():
        begun = next((entry for entry in keep.entries(sitting) if "sitting" in entry), None)
        if begun is not None and (begun["build"], begun["boot"]) == (job.build, boot):
            return sitting, False
    return str(uuid4()), True


def sit(job: Job, keep: Keep, client: Client | None, settings: Settings, talk: Talk) -> Outcome:
    """Do what the plan still asks of a sitting; every run is kept before it is sent."""
    sitting, is_new = choose_sitting(job, settings.boot, keep)
    if is_new or (sitting == job.sitting and job.sitting_boot is None):
        begun = _now(settings)
        keep.add(sitting, {"sitting": sitting, "build": job.build, "started_at": begun, "boot": settings.boot})
    outcome = Outcome(sitting)
    known = dict(job.done) if sitting == job.sitting else {}
    known |= {e["id"]: e["run"]["state"] for e in keep.entries(sitting) if "run" in e}
    _keep_broken(keep, sitting, known)
    send_kept(keep, client, job.machine, sitting)
    start = sensor.read() if (sensor := hottest(settings.channels)) is not None else None
    try:
        for asked, position, warm_up in _places(job, known, sitting, outcome):
            identifier = run_id(sitting, asked.id, position, warm_up=warm_up)
            place = Place(job, asked, sitting, identifier, position, warm_up)
            try:
                body = _perform(place, keep, client, settings, start, talk)
            except CannotRun as why:
                keep.end()
                outcome.left_out[asked.name] = str(why)
                continue
            known[identifier] = body["state"]
            if str(body["reason"] or "").startswith(STOPPED):
                outcome.left_out[asked.name] = str(body["reason"])
            outcome.runs.append((asked.name, body))
            talk.done(place.label, body, _units(asked))
            send_kept(keep, client, job.machine, sitting)
    except KeyboardInterrupt:
        outcome.interrupted = True
        _keep_broken(keep, sitting, known, "stopped by the technician")
    outcome.unsent = send_kept(keep, client, job.machine, sitting)
    return outcome


def _places(job: Job, known: Mapping[str, str], sitting: str, outcome: Outcome) -> Iterator[tuple[Asked, int, bool]]:
    """The runs that are still to be made, one after another; what was made by then is seen in `known`."""
    for asked in job.asked:
        for warm_up in range(1, asked.warm_ups + 1):
            if run_id(sitting, asked.id, warm_up, warm_up=True) not in known and asked.name not in outcome.left_out:
                yield asked, warm_up, True
        position = complete = failures = 0
        while complete < asked.runs and failures < MOST_FAILURES and asked.name not in outcome.left_out:
            position += 1
            identifier = run_id(sitting, asked.id, position, warm_up=False)
            if identifier not in known:
                yield asked, position, False
            state = known.get(identifier)
            complete += state == "complete"
            failures = 0 if state in ("complete", "partial", "spoiled") else failures + 1
        if failures >= MOST_FAILURES:
            outcome.left_out[asked.name] = f"it failed {MOST_FAILURES} times in a row"


@dataclass(frozen=True, slots=True)
class Place:
    """Where a run stands in its sitting."""

    job: Job
    asked: Asked
    sitting: str
    id: str
    position: int
    warm_up: bool

    @property
    def label(self) -> str:
        number = f"warm-up {self.position}" if self.warm_up else f"run {self.position} of {self.asked.runs}"
        return f"{self.asked.name}, {number}"

    def body(self, settings: Settings, **fields: Any) -> Body:
        """The run as the server takes it."""
        parameters = dict(self.asked.parameters)
        return {
            "sitting": self.sitting,
            "workload": self.asked.id,
            "position": self.position,
            "warm_up": self.warm_up,
            "workload_version": self.asked.work.version,
            "parameters": parameters,
            "target": str(look_at(settings.target)) if self.asked.work.on_target and settings.target else None,
            "reason": None,
            "readings": {},
        } | fields


def _perform(
    place: Place, keep: Keep, client: Client | None, settings: Settings, start: float | None, talk: Talk
) -> Body:
    place.asked.work.needs(place.asked.parameters, settings.bench(place.job))
    _rest_as_planned(place, talk)
    source = settings.source
    rest = source.rest(start, settings.rest_limit_s, lambda line: talk.show(place.label, 0.0, line))
    recorder, watch = Recorder(source.channels(), settings.hertz, source.clock, source.speed), source.watch()
    started_at, started = _now(settings), source.clock()
    begun = place.body(settings, state="partial", started_at=started_at)
    keep.begin({"id": place.id, "run": begun})

    def progress(share: float) -> None:
        talk.show(place.label, share, _say_now(recorder))
        _stop_if_too_hot(recorder, place.job.stop_c)

    bench = replace(settings.bench(place.job), progress=progress, trace=recorder)
    power_before = rest.conditions.get("power_source")
    throttled = _times_held_back(settings.channels)
    with recorder.recording(), _sending(client, place, started_at, recorder, source, power_before):
        try:
            figures, fault = place.asked.work.perform(place.asked.parameters, bench), None
        except WrongResult as error:
            figures, fault = Figures({}), f"wrong result: {error}"
        except StoppedForSafety as error:
            figures, fault = Figures({}), str(error)
    held_back = "heat" if _times_held_back(settings.channels) > throttled else None
    body = begun | {
        "state": "failed" if fault else "complete",
        "reason": fault,
        "duration_s": round(source.clock() - started, 3),
        "held_back": held_back,
        "readings": {
            measure: {"value": figures.readings[key]}
            for key, measure in place.asked.measures.items()
            if key in figures.readings
        },
        "conditions": dict(rest.conditions) | _drive(place, settings) | ({} if rest.rested else {"at_rest": "no"}),
        "note": _note(rest, figures, settings),
    }
    if not fault and not body["readings"]:
        why = "; ".join(figures.missing.values()) or "none of its figures is asked for"
        body |= {"state": "failed", "reason": why}
    if (interference := watch.look()) is not None:
        body["conditions"] |= {
            "other_core_percent": round(100 * interference.share, 1),
            "other_programs": ", ".join(interference.programs),
        }
        if body["state"] == "complete" and talk.repeats(interference, place.label):
            body |= {"state": "spoiled", "reason": str(interference)}
    keep.add(place.sitting, {"id": place.id, "run": body, "trace": _kept_trace(recorder, started_at)})
    keep.end()
    return body


def _stop_if_too_hot(recorder: Recorder, stop_c: float | None) -> None:
    now = recorder.hottest()
    if stop_c is not None and now is not None and now >= stop_c:
        raise StoppedForSafety(f"{STOPPED}: {now:.1f} °C reached, stopped at {stop_c:g} °C")


def _drive(place: Place, settings: Settings) -> dict[str, Plain]:
    """How the drive under test is, where the work is on one."""
    if not place.asked.work.on_target or settings.target is None:
        return {}
    temperature = next((c for c in settings.channels if (c.role, c.of) == ("temperature", "drive")), None)
    celsius = temperature.read() if temperature is not None else None
    return drive_state(settings.target) | ({} if celsius is None else {"drive_c": round(celsius, 1)})


def _units(asked: Asked) -> dict[str, str]:
    return {asked.measures[s.key]: s.unit for s in asked.work.measures if s.key in asked.measures}


def _rest_as_planned(place: Place, talk: Talk) -> None:
    ends = time.monotonic() + place.job.rest_min * 60
    while (left := ends - time.monotonic()) > 0:
        talk.show(place.label, 0.0, f"resting as planned, {left:.0f} s more")
        time.sleep(min(1.0, left))


def _times_held_back(channels: list[Channel]) -> float:
    """How often the processor was held back by heat since the start of the system; 0 where no counter tells."""
    counters = (channel.read() for channel in channels if channel.role == "held back")
    return max((count for count in counters if count is not None), default=0.0)


def _say_now(recorder: Recorder) -> str:
    """What the sensors say at this moment, in a few words."""
    readings = []
    for role, unit in (("temperature", "°C"), ("clock", "MHz"), ("power", "W"), ("fan", "rpm")):
        value = recorder.latest(role)
        if value is not None:
            readings.append(f"{value:.0f} {unit}")
    return ", ".join(readings)


def _note(rest: Rest, figures: Figures, settings: Settings) -> str:
    sentences = [*figures.remarks, *(f"{key}: {why}." for key, why in figures.missing.items())]
    if not rest.rested:
        sentences.append(f"Begun before the machine was at rest, after {rest.waited_s:.0f} s.")
    if any(channel.stands_in for channel in settings.channels):
        sentences.append("Sensors stand in for the machine’s own.")
    return " ".join(sentences)


class _NoTrace:
    """Nothing is recorded while it is asked whether a workload can run."""

    def mark(self, phase: str) -> None:
        """Nothing to mark."""

    def settled(self, role: str, last_s: float) -> float | None:
        return None


def _kept_trace(recorder: Recorder, started_at: str) -> Body:
    return recorder.whole() | {"missing": missing_roles(recorder.channels), "started_at": started_at}


@contextmanager
def _sending(
    client: Client | None, place: Place, started_at: str, recorder: Recorder, source: Source, power_before: Plain
) -> Iterator[None]:
    """Send the trace while the run lasts, a few seconds at a time; what does not get through is sent with the run."""
    ended = threading.Event()

    def send() -> None:
        watching, seen, due = source.watch(), dict[str, Plain](), LOOK_EVERY_S
        while not ended.wait(SEND_EVERY_S) and client is not None:
            due -= SEND_EVERY_S
            if due <= 0:
                seen, watching, due = _seen_now(watching, power_before), source.watch(), LOOK_EVERY_S
            batch = recorder.take()
            body = {
                "sitting": place.sitting,
                "workload": place.asked.id,
                "position": place.position,
                "warm_up": place.warm_up,
                "started_at": started_at,
                "channels": batch,
                "marks": recorder.marks,
                "missing": missing_roles(recorder.channels),
                "seen": seen,
            }
            try:
                client.post(f"/machines/{place.job.machine}/traces/{place.id}", body)
            except (ServerLost, ServerRefused):
                continue
            recorder.confirm(batch)

    thread = threading.Thread(target=send, daemon=True)
    thread.start()
    try:
        yield
    finally:
        ended.set()
        thread.join()


def _seen_now(watching: Watching, power_before: Plain) -> dict[str, Plain]:
    """What is so beside the sensors: what other programs took of late, and the power source, then and now."""
    seen: dict[str, Plain] = {"power_source": read_source(), "power_source_before": power_before}
    if (interference := watching.look()) is not None:
        seen |= {
            "other_core_percent": round(100 * interference.share, 1),
            "other_programs": ", ".join(interference.programs),
        }
    return {name: value for name, value in seen.items() if value is not None}


def _now(settings: Settings) -> str:
    return (datetime.now(UTC) + settings.offset).isoformat()


def _keep_broken(
    keep: Keep, sitting: str, known: dict[str, str], why: str = "the agent was ended while it ran"
) -> None:
    """A run that was begun and did not end is kept as partial, with the reason; it is not done again."""
    broken = keep.begun()
    if broken is not None and broken["id"] not in known:
        run = broken["run"] | {"state": "partial", "reason": why}
        keep.add(run["sitting"], {"id": broken["id"], "run": run, "trace": None})
        if run["sitting"] == sitting:
            known[broken["id"]] = "partial"
    keep.end()

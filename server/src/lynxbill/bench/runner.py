"""One sitting of the agent: warm-up, runs, sending each as it is done, keeping what could not be sent."""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime
from pathlib import Path
from typing import Any
from uuid import UUID, uuid4, uuid5

import psutil

from lynxbill.bench.client import Client, ServerLost
from lynxbill.bench.workload import BenchWorkload, WrongResult
from lynxbill.core.case import SENT_MEMBERS, Build, Case, Machine, Reading, Run, RunId, Sitting, SittingId
from lynxbill.core.errors import BadQuestion, BadValue
from lynxbill.core.measure import Measure, MeasureId

Progress = Callable[[str, float], None]


@dataclass(frozen=True, slots=True)
class Bench:
    """What the runs need to know: the machine, its build of now, the sitting, and the measures' ids by key."""

    machine: Machine
    build: Build
    sitting: Sitting
    workload_id: UUID
    measures: Mapping[str, Measure]
    processes: int


@dataclass(slots=True)
class Outcome:
    """All runs of the sitting, and the ids of those that the server has."""

    runs: list[Run] = field(default_factory=list)
    sent: set[str] = field(default_factory=set)
    interrupted: bool = False

    @property
    def unsent(self) -> list[Run]:
        return [run for run in self.runs if run.id not in self.sent]


BOOT_ID = Path("/proc/sys/kernel/random/boot_id")


def prepare_bench(client: Client, workload: BenchWorkload, purpose: str = "plan", boot: str | None = None) -> Bench:
    """
    Read the machine, declare the workload on the server and begin a sitting on its build of now.

    `boot` names the start of the machine for a trial; else it is read off the system.
    """
    answer = client.read_case()
    if not answer["builds"]:
        raise BadQuestion("This machine has no build yet: describe its parts under “Set up” first.")
    space = UUID(answer["machine"]["id"])
    standing = next(build for build in answer["builds"] if build["id"] == answer["standing"])
    build = Build(standing["id"], standing["letter"], standing["label"], (), standing["settings"])
    processes = count_processes(build)
    known = next((item for item in answer["workloads"] if item["name"] == workload.name), None)
    workload_id = UUID(known["id"]) if known else uuid5(space, f"workload {workload.name}")
    measures = _state_measures(space, workload)
    client.put(f"workloads/{workload_id}", _workload_body(workload, measures, known))
    boot = boot or read_boot()
    sitting = Sitting(SittingId(str(uuid4())), build.id, "plan", datetime.now(UTC), boot=boot, boot_by="read")
    body = {"build": build.id, "purpose": purpose, "started_at": sitting.started_at.isoformat()}
    client.put(f"sittings/{sitting.id}", body | {"boot": boot, "boot_by": "read"})
    machine = Machine(answer["machine"]["id"], answer["machine"]["name"], answer["machine"]["currency"])
    return Bench(machine, build, sitting, workload_id, measures, processes)


def count_processes(build: Build) -> int:
    """Read the build's setting `threads`, which says in how many processes the workloads run."""
    threads = build.settings.get("threads")
    if not isinstance(threads, int) or isinstance(threads, bool) or not 1 <= threads <= 1024:
        raise BadValue(
            f"Build {build.letter} has no whole number in its setting “threads” (there is {threads!r}). "
            f"Set it under “Set up”: in how many processes should the workload run?"
        )
    return threads


def run_sitting(
    client: Client, bench: Bench, workload: BenchWorkload, repeats: int, on_progress: Progress
) -> Outcome:
    """Do a warm-up and the runs; each is sent when it is done. Ctrl-C keeps the finished ones."""
    outcome = Outcome()
    try:
        for run in _perform_runs(bench, workload, repeats, on_progress):
            outcome.runs.append(run)
            send_unsent(client, bench.workload_id, outcome)
    except KeyboardInterrupt:
        outcome.interrupted = True
        position = sum(not run.warm_up for run in outcome.runs) + 1
        outcome.runs.append(_run(bench, workload, position, "partial", {}, "stopped by the technician"))
    send_unsent(client, bench.workload_id, outcome)
    if not outcome.unsent and not outcome.interrupted:
        _close(client, bench.sitting.id)
    return outcome


def _close(client: Client, sitting_id: str) -> None:
    try:
        client.post(f"sittings/{sitting_id}/close")
    except ServerLost:
        # The next sitting that begins closes this one too.
        return


def read_boot() -> str:
    """Read which start of the system this is: sittings that share it are one, however many there are."""
    try:
        return BOOT_ID.read_text().strip()
    except OSError:
        return f"since {psutil.boot_time():.0f}"


def send_unsent(client: Client, workload_id: UUID, outcome: Outcome) -> None:
    """Send every run that the server does not have yet; one that is lost on the way is sent with the next."""
    for run in outcome.unsent:
        try:
            client.put(f"runs/{run.id}", _run_body(run, workload_id))
        except ServerLost:
            return
        outcome.sent.add(run.id)


def kept_case(bench: Bench, outcome: Outcome) -> Case:
    """Put the whole sitting into a case of its own, to be written as a run file."""
    return Case(
        machine=bench.machine,
        measures=tuple(bench.measures.values()),
        builds=(bench.build,),
        sittings=(bench.sitting,),
        runs=tuple(outcome.runs),
        swaps=(),
    )


def send_case(client: Client, case: Case) -> int:
    """Send the runs of a kept run file to the server that lost them; those it has already stay as they are."""
    workloads = {item["name"]: UUID(item["id"]) for item in client.read_case()["workloads"]}
    for run in case.runs:
        if run.workload not in workloads:
            raise BadQuestion(f"The server's machine has no workload “{run.workload}”; is this the right machine?")
        client.put(f"runs/{run.id}", _run_body(run, workloads[run.workload]))
    return len(case.runs)


def _perform_runs(bench: Bench, workload: BenchWorkload, repeats: int, on_progress: Progress) -> Iterator[Run]:
    warm_up = _perform_one(bench, workload, 1, "warm-up", on_progress)
    yield replace(warm_up, warm_up=True)
    for position in range(1, repeats + 1):
        yield _perform_one(bench, workload, position, f"run {position} of {repeats}", on_progress)


def _perform_one(bench: Bench, workload: BenchWorkload, position: int, label: str, on_progress: Progress) -> Run:
    started = datetime.now(UTC)
    on_progress(label, 0.0)
    try:
        figures = workload.perform(bench.processes, lambda share: on_progress(label, share))
    except WrongResult as error:
        return _run(bench, workload, position, "failed", {}, f"wrong result: {error}")
    run = _run(bench, workload, position, "complete", figures, None)
    return replace(run, started_at=started, duration_s=(datetime.now(UTC) - started).total_seconds())


def _run(
    bench: Bench,
    workload: BenchWorkload,
    position: int,
    state: Any,
    figures: Mapping[str, float],
    reason: str | None,
) -> Run:
    return Run(
        id=RunId(str(uuid4())),
        sitting_id=bench.sitting.id,
        workload=workload.name,
        workload_version=workload.version,
        position=position,
        state=state,
        reason=reason,
        parameters=dict(workload.parameters),
        readings={bench.measures[key].id: Reading(value, value) for key, value in figures.items()},
    )


def _state_measures(space: UUID, workload: BenchWorkload) -> dict[str, Measure]:
    return {
        stated.key: Measure(
            id=MeasureId(str(uuid5(space, f"measure {workload.name}.{stated.key}"))),
            name=stated.name,
            workload=workload.name,
            unit=stated.unit,
            scale="ratio",
            kind=stated.kind,
            better=stated.better,
        )
        for stated in workload.measures
    }


def _workload_body(
    workload: BenchWorkload, measures: Mapping[str, Measure], known: Mapping[str, Any] | None
) -> dict[str, Any]:
    """The workload as the agent runs it; what the technician noted of it on the server stays."""
    noted = ("target", "card", "minutes_a_run", "version")
    fields = ("id", "name", "unit", "scale", "kind", "better")
    return {
        "name": workload.name,
        "workload_version": workload.version,
        "parameters": dict(workload.parameters),
        "loads": (known and known["loads"]) or list(workload.loads),
        **({name: known[name] for name in noted} if known else {}),
        "measures": [{name: getattr(measure, name) for name in fields} for measure in measures.values()],
    }


def _run_body(run: Run, workload_id: UUID) -> dict[str, Any]:
    return {
        "sitting": run.sitting_id,
        "workload": str(workload_id),
        "readings": {measure: _reading_body(reading) for measure, reading in run.readings.items()},
        **{name: getattr(run, name) for name in SENT_MEMBERS},
        "started_at": run.started_at.isoformat() if run.started_at else None,
    }


def _reading_body(reading: Reading) -> dict[str, Any]:
    marks = {"about": reading.about, "source": reading.source, "statistic": reading.statistic}
    is_exact = reading.low == reading.high
    return ({"value": reading.low} if is_exact else {"low": reading.low, "high": reading.high}) | marks

"""What the job needs next, as the server says it, or as it was said when the server was last there."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any
from uuid import UUID, uuid5

from lynxbill.bench.workload import BenchWorkload

# The parameter that names the kind of work: with it the agent knows a workload again, whatever it is called.
WORK = "work"


@dataclass(frozen=True, slots=True)
class Asked:
    """A workload of the plan that the agent can do: its ids on the server, its parameters, how often it runs."""

    id: str
    name: str
    work: BenchWorkload
    parameters: Mapping[str, Any]
    version: str
    measures: Mapping[str, str]
    runs: int
    warm_ups: int

    @property
    def minutes(self) -> float:
        return self.work.minutes * (self.runs + self.warm_ups)


@dataclass(frozen=True, slots=True)
class Job:
    """
    A machine's job: the build that stands, the sitting that is open on it, what its plan asks for.

    `boots` are those of the build's earlier sittings, oldest first; `done` maps the runs of the open sitting to their
    state; `unknown` are workloads of the plan that somebody times by hand. At
    `stop_c` (°C) a run is stopped.
    """

    machine: str
    machine_name: str
    build: str
    letter: str
    settings: Mapping[str, Any]
    stage: str
    change: str | None
    sittings_wanted: int | None
    boots: tuple[str | None, ...]
    sitting: str | None
    sitting_boot: str | None
    rest_min: float
    asked: tuple[Asked, ...]
    unknown: tuple[str, ...]
    stop_c: float | None = None
    serial_salt: str | None = None
    done: Mapping[str, str] = field(default_factory=dict)

    @property
    def minutes(self) -> float:
        return sum(asked.minutes for asked in self.asked)


def read_job(answer: Mapping[str, Any], known: Mapping[str, BenchWorkload]) -> Job:
    """Read a job as it is answered; `known` are the agent's workloads by key."""
    asked, unknown = list[Asked](), list[str]()
    for workload in answer["workloads"]:
        work = known.get(str(workload["parameters"].get(WORK)))
        if work is None:
            unknown.append(workload["name"])
            continue
        asked.append(
            Asked(
                id=workload["id"],
                name=workload["name"],
                work=work,
                parameters=workload["parameters"],
                version=workload["workload_version"],
                measures=_measures(answer["machine"]["id"], workload, work),
                runs=workload["runs"],
                warm_ups=workload["warm_ups"],
            )
        )
    sitting = answer["sitting"]
    return Job(
        machine=answer["machine"]["id"],
        machine_name=answer["machine"]["name"],
        build=answer["build"]["id"],
        letter=answer["build"]["letter"],
        settings=answer["build"]["settings"],
        stage=answer["stage"],
        change=answer["change"],
        sittings_wanted=answer["sittings_wanted"],
        boots=tuple(answer["boots"]),
        sitting=sitting and sitting["id"],
        sitting_boot=sitting and sitting["boot"],
        rest_min=answer["rest_min"],
        asked=tuple(asked),
        unknown=tuple(unknown),
        # A job that was carried here by an older file does not have it.
        stop_c=answer.get("stop_c"),
        serial_salt=answer.get("serial_salt"),
        done={run["id"]: run["state"] for run in sitting["runs"]} if sitting else {},
    )


def workload_id(machine: str, name: str) -> str:
    """The id that the agent gives a workload that it brings."""
    return str(uuid5(UUID(machine), f"workload {name}"))


def measure_id(machine: str, name: str, key: str) -> str:
    """The id that the agent gives a figure of a workload that it brings."""
    return str(uuid5(UUID(machine), f"measure {name}.{key}"))


def _measures(machine: str, workload: Mapping[str, Any], work: BenchWorkload) -> dict[str, str]:
    """Each stated figure's measure on the server: by the id that the agent gave it, else by its name."""
    ids = {measure["id"] for measure in workload["measures"]}
    names = {measure["name"]: measure["id"] for measure in workload["measures"]}
    found = {
        stated.key: own
        if (own := measure_id(machine, workload["name"], stated.key)) in ids
        else names.get(stated.name)
        for stated in work.measures
    }
    return {key: measure for key, measure in found.items() if measure is not None}


def workload_body(machine: str, name: str, work: BenchWorkload, parameters: Mapping[str, Any]) -> dict[str, Any]:
    """A workload of the agent's as the server takes it."""
    return {
        "name": name,
        "workload_version": work.version,
        "parameters": {WORK: work.key, **parameters},
        "loads": list(work.loads),
        "card": work.card,
        "minutes_a_run": work.minutes,
        "measures": [
            {
                "id": measure_id(machine, name, stated.key),
                "name": stated.name,
                "unit": stated.unit,
                "scale": stated.scale,
                "kind": stated.kind,
                "better": stated.better,
                "of": stated.of,
            }
            for stated in work.measures
        ],
    }


def run_id(sitting: str, workload: str, position: int, *, warm_up: bool) -> str:
    """
    The id of a run: the same place in the same sitting is the same run, so that nothing is ever recorded twice.
    """
    return str(uuid5(UUID(sitting), f"{workload} {'warm-up' if warm_up else 'run'} {position}"))

"""Bringing the agent's workloads onto a machine's list: those that show the change, or those that were named."""

import json
from collections.abc import Sequence
from typing import Any

from lynxbill.bench.catalogue import FOR_A_CHANGE
from lynxbill.bench.client import Client
from lynxbill.bench.job import Job, workload_body, workload_id
from lynxbill.bench.runner import Settings
from lynxbill.bench.talk import agrees, say
from lynxbill.bench.work.own import FILE
from lynxbill.bench.workload import BenchWorkload, CannotRun

Known = dict[str, BenchWorkload]


def offer(client: Client, job: Job, known: Known, settings: Settings, yes: bool) -> None:
    """For a plan without work of the agent's: name what would show the change, and bring it where that is wanted."""
    keys = [key for key in FOR_A_CHANGE.get(job.change or "", ()) if _why_not(known[key], settings, job) is None]
    if not keys:
        return
    names = "\n".join(f"  {known[key].name}" for key in keys)
    say(f"The plan of “{job.machine_name}” has no work of the agent’s yet. A change of {job.change} is shown by:")
    say(names)
    if yes or agrees("Put these on the plan?"):
        for key in keys:
            bring(client, job.machine, known[key], {})


def _why_not(work: BenchWorkload, settings: Settings, job: Job) -> str | None:
    from lynxbill.bench.runner import _NoTrace
    from lynxbill.bench.workload import Bench

    try:
        work.needs(
            work.parameters,
            Bench(settings.threads(job), lambda _s: None, _NoTrace(), settings.target, settings.programs),
        )
    except CannotRun as why:
        return str(why)
    return None


def bring(client: Client, machine: str, work: BenchWorkload, told: dict[str, Any]) -> None:
    """Put a workload on the machine's list, under a name of its own where a parameter was set."""
    name = work.name + "".join(f", {key} {value}" for key, value in told.items())
    identifier = workload_id(machine, name)
    body = workload_body(machine, name, work, dict(work.parameters) | told) | ({"card": ""} if told else {})
    case = client.get(f"/machines/{machine}")
    there = next((w for w in case["workloads"] if w["id"] == identifier), None)
    if there is None:
        client.put(f"/machines/{machine}/workloads/{identifier}", body)


def find_work(known: Known, key: str) -> BenchWorkload:
    for work in known.values():
        if key in (work.key, work.name):
            return work
    names = "\n".join(f"  {name}" for name in known)
    raise CannotRun(
        f"There is no workload “{key}”. It knows:\n{names}\nA program of your own is described in {FILE}."
    )


def read_set(told: Sequence[str], work: BenchWorkload) -> dict[str, Any]:
    values = dict[str, Any]()
    for text in told:
        name, sign, value = text.partition("=")
        if not sign or name.strip() not in work.parameters:
            names = ", ".join(work.parameters)
            raise CannotRun(f"“{text}”: write --set NAME=VALUE, where NAME is one of {names}.")
        try:
            values[name.strip()] = json.loads(value)
        except ValueError:
            values[name.strip()] = value.strip()
    return values

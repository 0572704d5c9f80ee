"""Writes what was measured as a run file, by the standard library alone; the server reads it like any other."""

import json
from pathlib import Path
from typing import Any

from lynxbill.bench.job import Job

# What stands in a run as it is sent, and not in a run file.
_OTHERWISE = ("sitting", "workload", "version")


def write_run_file(file: Path, job: Job, entries: list[dict[str, Any]], answer: dict[str, Any] | None) -> None:
    """
    Write the sittings and runs that are kept.

    Args:
        entries: what is kept of a sitting, in order.
        answer: the job as the server last said it; its workloads and measures are named in the file.
    """
    workloads = answer["workloads"] if answer else []
    names = {workload["id"]: workload["name"] for workload in workloads}
    file.write_text(
        json.dumps(
            {
                "format": "lynxbill-runs",
                "version": 1,
                "machine": {"id": job.machine, "name": job.machine_name, "currency": "EUR"},
                "workloads": [
                    {name: w[name] for name in ("id", "name", "workload_version", "parameters")} for w in workloads
                ],
                "measures": [_measure(measure) for w in workloads for measure in w["measures"]],
                "builds": [{"id": job.build, "letter": job.letter, "label": f"Build {job.letter}"}],
                "sittings": [_sitting(entry) for entry in entries if "sitting" in entry],
                "runs": [_run(entry, names) for entry in entries if "run" in entry],
            },
            separators=(",", ":"),
        ),
        encoding="utf-8",
    )


def _measure(measure: dict[str, Any]) -> dict[str, Any]:
    shown = ("unit_display", "difference_display")
    return {name: value for name, value in measure.items() if name not in shown and value is not None}


def _sitting(entry: dict[str, Any]) -> dict[str, Any]:
    return {
        "id": entry["sitting"],
        "build": entry["build"],
        "started_at": entry["started_at"],
        "boot": entry["boot"],
        "boot_by": "read",
        "closed_at": None,
    }


def _run(entry: dict[str, Any], names: dict[str, str]) -> dict[str, Any]:
    run = {name: value for name, value in entry["run"].items() if name not in _OTHERWISE and value is not None}
    sitting, workload = entry["run"]["sitting"], entry["run"]["workload"]
    trace = {"trace": entry["trace"]} if entry["trace"] and entry["trace"]["channels"] else {}
    return {"id": entry["id"], "sitting": sitting, "workload": names.get(workload, workload)} | run | trace

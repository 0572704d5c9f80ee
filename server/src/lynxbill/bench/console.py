"""The agent at the terminal: progress, and what to do when something goes wrong."""

import sys
from datetime import UTC, datetime
from pathlib import Path

from lynxbill.bench.client import Client, ServerLost, ServerRefused
from lynxbill.bench.runner import Bench, Outcome, kept_case, prepare_bench, run_sitting, send_case
from lynxbill.bench.workload import BenchWorkload
from lynxbill.bench.workloads.compress import COMPRESS
from lynxbill.core.errors import Refusal
from lynxbill.exchange.problem import UnusableText
from lynxbill.exchange.run_file import read_run_file, write_run_file

WORKLOADS = {workload.name: workload for workload in (COMPRESS,)}
BAR_WIDTH = 30
OK, LOST, UNUSABLE, INTERRUPTED = 0, 1, 2, 130


def run_on_console(server: str, machine_id: str, workload_name: str, repeats: int, boot: str | None = None) -> int:
    """Run one sitting and answer the exit status; `boot` names the start of the machine, for a trial."""
    workload = WORKLOADS.get(workload_name)
    if workload is None:
        return _refuse(f"There is no workload “{workload_name}”; known: {', '.join(WORKLOADS)}.")
    client = Client(server, machine_id)
    try:
        bench = prepare_bench(client, workload, boot=boot)
        say(f"{bench.machine.name}, build {bench.build.letter}: {workload.name}, {bench.processes} process(es).")
        outcome = run_sitting(client, bench, workload, repeats, draw_bar)
    except (ServerRefused, ServerLost, Refusal) as error:
        return _refuse(str(error))
    say("")
    return _close(server, bench, workload, outcome)


def send_on_console(file: Path, server: str) -> int:
    """Send a kept run file and answer the exit status."""
    try:
        case = read_run_file(file.read_bytes())
        count = send_case(Client(server, case.machine.id), case)
    except OSError as error:
        return _refuse(f"{file}: {error.strerror}")
    except UnusableText as error:
        return _refuse("\n".join(str(problem) for problem in error.problems))
    except (ServerRefused, ServerLost, Refusal) as error:
        return _refuse(str(error))
    say(f"The server has all {count} runs of {file}.")
    return OK


def _close(server: str, bench: Bench, workload: BenchWorkload, outcome: Outcome) -> int:
    for run in outcome.runs:
        figures = "  ".join(
            f"{reading.value:.2f} {stated.unit.replace('By', 'B')}"
            for stated in workload.measures
            if (reading := run.readings.get(bench.measures[stated.key].id))
        )
        name = "warm-up" if run.warm_up else f"run {run.position}"
        say(f"  {name:8} {figures or f'{run.state}: {run.reason}'}")
    if outcome.unsent:
        file = Path(f"lynxbill-runs-{datetime.now(UTC):%Y%m%d-%H%M%S}.json").absolute()
        file.write_text(write_run_file(kept_case(bench, outcome)))
        say(f"The server was lost: {len(outcome.unsent)} run(s) are not there yet. All runs are kept in\n  {file}")
        say(f"Send them when it answers again:\n  lynxbill bench send {file} --server {server}")
        return LOST
    say(f"All {len(outcome.runs)} runs are on the server.")
    return INTERRUPTED if outcome.interrupted else OK


def draw_bar(label: str, share: float) -> None:
    filled = round(share * BAR_WIDTH)
    sys.stderr.write(f"\r{label:14} [{'█' * filled}{'·' * (BAR_WIDTH - filled)}] {share:4.0%} ")
    sys.stderr.flush()


def say(line: str) -> None:
    sys.stderr.write(f"{line}\n")


def _refuse(message: str) -> int:
    say(message)
    return UNUSABLE

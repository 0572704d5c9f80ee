"""
How fast long sensor logs come in, and long traces are drawn.

Usage: python benchmarks/sensor_log.py [MB]

Starts a PostgreSQL and a server of its own. Prints how long a log of so many MB (100) takes to be sent, read and kept
as the trace of a run, how much memory the server took at most, what small requests took meanwhile, and how long one
million points of one channel take from the question to the answer; all as measured in one run.
"""

import json
import sys
import tempfile
import time
from collections.abc import Iterator, Sequence
from itertools import islice
from pathlib import Path

import httpx

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT))

from benchmarks.one_request import probing, say  # noqa: E402
from tests.api.bodies import Job, new_id  # noqa: E402
from tests.conftest import LiveServer, free_port  # noqa: E402

from lynxbill.cluster import start_cluster, stop_cluster  # noqa: E402

HEADINGS = ("CPU °C", "Board °C", "Clock [MHz]", "Power [W]", "Fan [RPM]", "Load %")
MB = MILLION = 1_000_000


def log_lines(headings: Sequence[str], size: int) -> Iterator[bytes]:
    """A log of about so many bytes, ten rows a second."""
    yield ",".join(("Time [s]", *headings)).encode() + b"\n"
    written = row = 0
    while written < size:
        cells = (
            row / 10,
            60 + row % 37 / 10,
            40 + row % 11 / 10,
            3600 + row % 97,
            65 + row % 23 / 10,
            1200 + row % 53,
            100,
        )
        line = ",".join(f"{cell:.2f}" for cell in cells[: len(headings) + 1]).encode() + b"\n"
        written += len(line)
        row += 1
        yield line


def most_memory(process: int) -> float:
    """The most memory that a process ever took, in MB."""
    status = Path(f"/proc/{process}/status").read_text()
    return next(int(line.split()[1]) * 1024 / MB for line in status.splitlines() if line.startswith("VmHWM"))


def main(size: int) -> None:
    with tempfile.TemporaryDirectory(prefix="lynxbill-sensor-log-") as folder:
        Path(folder).chmod(0o755)
        cluster = start_cluster(Path(folder) / "postgres")
        server = LiveServer(cluster.url, free_port())
        try:
            server.start()
            with httpx.Client(base_url=f"{server.url}/api", timeout=300) as api:
                measure(server, api, size)
        finally:
            server.stop()
            stop_cluster(cluster)


def measure(server: LiveServer, api: httpx.Client, size: int) -> None:
    assert server.process is not None
    job = Job(api).describe()
    sitting = job.sitting()
    before = most_memory(server.process.pid)
    with probing(server.url) as took:
        take_in(api, job, sitting, 1, log_lines(HEADINGS, size * MB))
    print(f"memory of the server: {before:.0f} MB before, at most {most_memory(server.process.pid):.0f} MB")
    print(f"small requests meanwhile: {say(took)}")
    one = islice(log_lines(HEADINGS[:1], 10**9), MILLION + 1)
    draw(api, job, take_in(api, job, sitting, 2, one))


def take_in(api: httpx.Client, job: Job, sitting: str, position: int, lines: Iterator[bytes]) -> str:
    """Take a log in as the trace of a run, whose id it answers; prints how long it took."""
    run, text = new_id(), b"".join(lines)
    began = time.perf_counter()
    found = api.post("/sensor-logs", content=text).raise_for_status().json()
    sent = time.perf_counter()
    columns = [column for column in found["columns"] if column["role"]]
    place = {"sitting": sitting, "workload": job.workload, "position": position, "started_at": "2026-05-04T09:12:00Z"}
    body = place | {"log": found["id"], "form": found["form"], "columns": columns}
    last = json.loads(job.put(f"/traces/{run}/log", body).raise_for_status().text.splitlines()[-1])
    kept = time.perf_counter()
    rows = f"{last['samples']:,} rows of {len(columns)} channels"
    print(f"{rows}: sent in {sent - began:.1f} s, read and kept in {kept - sent:.1f} s", flush=True)
    return run


def draw(api: httpx.Client, job: Job, run: str) -> None:
    """Time how long all channels of a trace take to be drawn."""
    times = []
    for _ in range(5):
        began = time.perf_counter()
        told = api.get(f"/machines/{job.machine}/traces/{run}").raise_for_status().json()
        times.append(1000 * (time.perf_counter() - began))
    count = len(told["channels"])
    print(f"drawn, {count} channels: {min(times):.0f} to {max(times):.0f} ms")


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 100)

"""
What a long past costs: the same questions to a fresh machine, a usual one and a large one, beside many others.

Usage: python benchmarks/growth.py [--machines N] [--large-runs N] [--calls N]

Starts a PostgreSQL and a server of its own, takes machines of made-up readings in through the import, and prints
medians in milliseconds and sizes in kB, as measured; the large machine's over the fresh one's as a ratio. Then what
two and four server processes on the same PostgreSQL judge in a second, over what one does.
"""

import argparse
import json
import os
import socket
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from itertools import permutations
from pathlib import Path
from typing import Any
from uuid import uuid4

import httpx
import numpy as np

from lynxbill.cluster import start_cluster, stop_cluster

MOST_SERVERS = 4


def make_file(seed: int, *, builds: int, workloads: int, runs: int, runs_a_sitting: int = 5) -> dict[str, Any]:
    """A machine whose builds were measured in turn, each a little faster than the one before."""
    generator = np.random.default_rng(seed)
    sittings_a_build = max(1, runs // (builds * workloads * runs_a_sitting))
    names = [f"job {number}" for number in range(workloads)]
    sittings, made = [], []
    for build in range(builds):
        for number in range(sittings_a_build):
            sitting = f"s{build}-{number}"
            day = np.datetime64("2025-01-01T09:00:00") + np.timedelta64(build * 40 + number, "D")
            sittings.append({"id": sitting, "build": f"b{build}", "started_at": f"{day}Z", "ambient_c": 22.0})
            moved = generator.normal(0, 0.004, workloads)
            for w, name in enumerate(names):
                noise = generator.normal(0, 0.004, runs_a_sitting)
                made += [
                    {
                        "id": f"r{build}-{number}-{w}-{position}",
                        "sitting": sitting,
                        "workload": name,
                        "workload_version": "1",
                        "position": position,
                        "state": "complete",
                        "readings": {f"m{w}": round(40 * 0.97**build * float(np.exp(moved[w] + e)), 2)},
                    }
                    for position, e in enumerate(noise, start=1)
                ]
    claims = {f"m{w}": {"role": "claim", "matters_from": 2} for w in range(workloads)}
    plan = {
        "sittings_a_side": sittings_a_build,
        "runs_a_sitting": runs_a_sitting,
        "headline": "m0",
        "measures": claims,
    }
    part = {"id": "p", "role": "processor", "label": "Varro 4-core"}
    return {
        "format": "lynxbill-runs",
        "version": 1,
        "machine": {"name": f"Machine {seed}", "currency": "EUR"},
        "measures": [
            {"id": f"m{w}", "name": name, "workload": name, "unit": "s", "scale": "ratio", "kind": "time"}
            | {"better": "lower"}
            for w, name in enumerate(names)
        ],
        "builds": [
            {"id": f"b{b}", "label": f"Build {b}", "parts": [part], "settings": {"power_limit_w": 65 + b}}
            for b in range(builds)
        ],
        "sittings": sittings,
        "runs": made,
        "swaps": [
            {"from": f"b{b}", "to": f"b{b + 1}", "label": f"Step {b}", "plan": plan}
            | {"costs": [{"kind": "part", "label": "part", "amount": "50.00", "currency": "EUR"}]}
            for b in range(builds - 1)
        ],
    }


@contextmanager
def running_database() -> Iterator[str]:
    """The address of a PostgreSQL of its own."""
    with tempfile.TemporaryDirectory(prefix="lynxbill-growth-") as folder:
        Path(folder).chmod(0o755)
        cluster = start_cluster(Path(folder) / "postgres")
        try:
            yield cluster.url
        finally:
            stop_cluster(cluster)


@contextmanager
def running_server(database: str) -> Iterator[httpx.Client]:
    """One more server process on a database."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    command = [sys.executable, "-m", "lynxbill", "start", "--empty", "--port", str(port)]
    environment = os.environ | {"LYNXBILL_DATABASE_URL": database}
    process = subprocess.Popen(command, env=environment, stdout=subprocess.DEVNULL)
    try:
        with httpx.Client(base_url=f"http://127.0.0.1:{port}/api", timeout=600) as client:
            _wait_for(client)
            yield client
    finally:
        process.terminate()
        process.wait(timeout=60)


def _wait_for(client: httpx.Client) -> None:
    for _ in range(600):
        try:
            client.get("/units").raise_for_status()
            return
        except httpx.TransportError:
            time.sleep(0.1)
    raise SystemExit("the server did not start")


def take_in(client: httpx.Client, file: dict[str, Any]) -> str:
    answer = client.post("/run-files", content=json.dumps(file)).raise_for_status().json()
    return str(answer["machine"])


def measure(call: Callable[[], httpx.Response], calls: int) -> tuple[float, float]:
    """Median milliseconds, and kB of the last answer; the first call is not counted."""
    times, size = [], 0
    for _ in range(calls + 1):
        begun = time.perf_counter()
        answer = call().raise_for_status()
        times.append(1000 * (time.perf_counter() - begun))
        size = len(answer.content)
    return statistics.median(times[1:]), size / 1000


def saving(client: httpx.Client, machine: str) -> Callable[[], httpx.Response]:
    """Saves one more reading of the newest sitting at each call."""
    case = client.get(f"/machines/{machine}").json()
    sitting, workload = case["sittings"][-1]["id"], case["workloads"][0]["id"]
    measure_id = next(m["id"] for m in case["measures"] if m["workload"] == case["workloads"][0]["name"])
    place = iter(range(1000, 100_000))

    def save() -> httpx.Response:
        body = {"sitting": sitting, "workload": workload, "position": next(place), "readings": {measure_id: 40.0}}
        return client.put(f"/machines/{machine}/runs/{uuid4()}", json=body)

    return save


def ask(client: httpx.Client, machine: str, calls: int) -> dict[str, tuple[float, float]]:
    path = f"/machines/{machine}"
    questions = {
        "frame": lambda: client.get(path),
        "job facts": lambda: client.get(f"{path}/job"),
        "comparison": lambda: client.get(f"{path}/comparison"),
        "saved reading": saving(client, machine),
    }
    return {name: measure(call, calls) for name, call in questions.items()}


def comparisons_a_second(clients: Sequence[httpx.Client], machine: str, pairs: Sequence[tuple[str, str]]) -> float:
    """Comparisons of pairs of builds that nobody asked for before, by as many askers each time."""
    for client in clients:
        client.get(f"/machines/{machine}/job").raise_for_status()

    def judge(number: int) -> None:
        before, after = pairs[number]
        query = {"before": before, "after": after}
        clients[number % len(clients)].get(f"/machines/{machine}/comparison", params=query).raise_for_status()

    with ThreadPoolExecutor(2 * MOST_SERVERS) as askers:
        begun = time.perf_counter()
        list(askers.map(judge, range(len(pairs))))
        return len(pairs) / (time.perf_counter() - begun)


def print_servers(database: str, first: httpx.Client, machine: str) -> None:
    """Print what more server processes on one database bring."""
    builds = [build["id"] for build in first.get(f"/machines/{machine}").json()["builds"]]
    pairs = list(permutations(builds, 2))
    share = len(pairs) // 3
    with running_server(database) as second, running_server(database) as third, running_server(database) as fourth:
        clients = (first, second, third, fourth)
        rates = {
            count: comparisons_a_second(clients[:count], machine, pairs[n * share : (n + 1) * share])
            for n, count in enumerate((1, 2, MOST_SERVERS))
        }
    for count, rate in rates.items():
        print(f"{count} server(s): {rate:6.1f} comparisons a second, {rate / rates[1]:.2f} of one's")


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--machines", type=int, default=20, help="machines of 100 runs beside those asked")
    parser.add_argument("--large-runs", type=int, default=20_000)
    parser.add_argument("--calls", type=int, default=9)
    chosen = parser.parse_args()
    sizes = {
        "fresh": {"builds": 2, "workloads": 2, "runs": 60},
        "usual": {"builds": 4, "workloads": 10, "runs": 2000},
        "large": {"builds": 20, "workloads": 10, "runs": chosen.large_runs},
    }
    with running_database() as database, running_server(database) as client:
        for seed in range(chosen.machines):
            take_in(client, make_file(seed, builds=2, workloads=2, runs=100))
        begun = time.perf_counter()
        machines = {name: take_in(client, make_file(900 + n, **s)) for n, (name, s) in enumerate(sizes.items())}
        print(f"taken in: {sum(s['runs'] for s in sizes.values())} runs in {time.perf_counter() - begun:.1f} s")
        found = {name: ask(client, machine, chosen.calls) for name, machine in machines.items()}
        home = measure(lambda: client.get("/machines"), 3)
        print_servers(database, client, machines["large"])
    print(f"{'':16}" + "".join(f"{name:>22}" for name in sizes) + "   large / fresh")
    for question in found["fresh"]:
        cells = "".join(f"{found[n][question][0]:12.1f} ms{found[n][question][1]:5.0f} kB" for n in sizes)
        print(f"{question:16}{cells}{found['large'][question][0] / found['fresh'][question][0]:16.2f}")
    print(f"{'home':16}{home[0]:12.1f} ms{home[1]:5.0f} kB, {chosen.machines + len(sizes)} machines")


if __name__ == "__main__":
    main()

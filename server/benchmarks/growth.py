"""
What a long past costs: the same questions to a fresh machine, a usual one and a large one, beside many others.

Usage: python benchmarks/growth.py [--whole] [--machines N] [--large-runs N] [--calls N] [--import-runs N]

Starts a PostgreSQL and a server of its own, takes machines of made-up readings in through the import, and prints
medians in milliseconds and sizes in kB, as measured; the large machine's over the fresh one's as a ratio. Then the
server's memory after a look at every machine, a technician who types beside fifty readers, an import of a large file
beside other requests, and what two and four server processes on the same PostgreSQL judge in a second, over what one
does. `--whole` takes 1,000 small machines, 20 usual ones and a file of 150,000 runs; without it 20, 1 and 20,000.
"""

import argparse
import json
import os
import socket
import statistics
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager, suppress
from datetime import UTC, datetime
from functools import partial
from itertools import permutations
from pathlib import Path
from typing import Any
from uuid import uuid4

import httpx
import numpy as np
import psutil

from lynxbill.cluster import start_cluster, stop_cluster

MOST_SERVERS = 4
READERS = 50


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
    with running_process(database) as (client, _):
        yield client


@contextmanager
def running_process(database: str) -> Iterator[tuple[httpx.Client, psutil.Process]]:
    """One more server process on a database, and the process itself."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    command = [sys.executable, "-m", "lynxbill", "start", "--empty", "--port", str(port)]
    environment = os.environ | {"LYNXBILL_DATABASE_URL": database}
    process = subprocess.Popen(command, env=environment, stdout=subprocess.DEVNULL)
    try:
        with httpx.Client(base_url=f"http://127.0.0.1:{port}/api", timeout=600) as client:
            _wait_for(client)
            yield client, psutil.Process(process.pid)
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
    state = client.post("/run-files", content=json.dumps(file, separators=(",", ":"))).raise_for_status().json()
    while state["state"] == "running":
        time.sleep(0.2)
        state = client.get(f"/run-files/{state['id']}").raise_for_status().json()
    if state["state"] != "done":
        raise SystemExit(f"the file was not taken in: {state['problems'][:3]}")
    return str(state["machine"])


def memory_mb(process: psutil.Process) -> float:
    return float(process.memory_info().rss) / 1e6


def high_mark(stop: threading.Event, name: str) -> Callable[[], float]:
    """Watch the largest memory, in MB, of the processes whose command line has a word, until told to stop."""
    most = [0.0]

    def watch() -> None:
        while not stop.wait(0.1):
            for process in psutil.process_iter(["cmdline"]):
                with suppress(psutil.Error):
                    if name in (process.info["cmdline"] or ()):
                        most[0] = max(most[0], memory_mb(process))

    threading.Thread(target=watch, daemon=True).start()
    return lambda: most[0]


def p95(times: Sequence[float]) -> float:
    return float(np.percentile(times, 95))


def beside(work: Callable[[], float], ask: Callable[[], httpx.Response], every_s: float) -> tuple[float, list[float]]:
    """Ask every other moment while a work goes on: what the work answers, and the milliseconds of each question."""
    over, times = threading.Event(), list[float]()

    def questions() -> None:
        while not over.wait(every_s):
            begun = time.perf_counter()
            ask().raise_for_status()
            times.append(1000 * (time.perf_counter() - begun))

    thread = threading.Thread(target=questions)
    thread.start()
    answer = work()
    over.set()
    thread.join()
    return answer, times


def print_import(client: httpx.Client, machine: str, runs: int) -> None:
    """Print what a large file costs, and those who ask meanwhile."""
    file = make_file(777, builds=20, workloads=10, runs=runs, runs_a_sitting=10)
    megabytes = len(json.dumps(file, separators=(",", ":"))) / 1e6
    stop = threading.Event()
    most_mb = high_mark(stop, "take-in")

    def take() -> float:
        begun = time.perf_counter()
        take_in(client, file)
        return time.perf_counter() - begun

    with httpx.Client(base_url=client.base_url, timeout=600) as other:
        taken_s, times = beside(take, lambda: other.get(f"/machines/{machine}"), 0.2)
    stop.set()
    print(
        f"import of {runs} runs, {megabytes:.0f} MB: {taken_s:.1f} s, {most_mb():.0f} MB of memory; frames asked for "
        f"meanwhile: median {statistics.median(times):.0f} ms, p95 {p95(times):.0f} ms of {len(times)}"
    )


def print_readers(client: httpx.Client, machines: Sequence[str], typed_at: str, seconds: float = 30) -> None:
    """Print how long a technician's saves take beside 50 readers and 10 open screens."""
    over, errors, answers = threading.Event(), list[str](), list[int]()
    questions = ("", "/job", "/comparison")

    def read(number: int) -> None:
        with httpx.Client(base_url=client.base_url, timeout=60) as reader:
            turn = number
            # People do not press their keys at the same moment.
            over.wait(number * 2.0 / READERS)
            while not over.wait(2.0):
                machine = machines[turn % len(machines)]
                path = f"/machines/{machine}{questions[turn % 3]}" if turn % 4 else "/machines"
                turn += 1
                try:
                    answers.append(reader.get(path).raise_for_status().status_code)
                except httpx.HTTPError as error:
                    errors.append(repr(error))

    def follow() -> None:
        with httpx.stream("GET", f"{client.base_url}machines/{typed_at}/events", timeout=60) as stream:
            for _ in stream.iter_lines():
                if over.is_set():
                    return

    readers = [threading.Thread(target=read, args=(number,), daemon=True) for number in range(READERS)]
    screens = [threading.Thread(target=follow, daemon=True) for _ in range(10)]
    for thread in [*readers, *screens]:
        thread.start()
    save, times = saving(client, typed_at, first=90_000), list[float]()
    ends = time.perf_counter() + seconds
    while time.perf_counter() < ends:
        begun = time.perf_counter()
        save().raise_for_status()
        times.append(1000 * (time.perf_counter() - begun))
        time.sleep(0.5)
    over.set()
    for thread in readers:
        thread.join()
    print(
        f"a technician beside 50 readers ({len(answers)} answers, {len(errors)} errors) and 10 event streams: "
        f"save median {statistics.median(times):.0f} ms, p95 {p95(times):.0f} ms of {len(times)}"
    )


def measure(call: Callable[[], httpx.Response], calls: int) -> tuple[float, float]:
    """Median milliseconds, and kB of the last answer; the first call is not counted."""
    times, size = [], 0
    for _ in range(calls + 1):
        begun = time.perf_counter()
        answer = call().raise_for_status()
        times.append(1000 * (time.perf_counter() - begun))
        size = len(answer.content)
    return statistics.median(times[1:]), size / 1000


def saving(client: httpx.Client, machine: str, first: int = 1000) -> Callable[[], httpx.Response]:
    """Saves one more reading of a sitting that has just begun on the newest build at each call."""
    case = client.get(f"/machines/{machine}").json()
    sitting, workload = str(uuid4()), case["workloads"][0]["id"]
    began = {"build": case["builds"][-1]["id"], "started_at": datetime.now(UTC).isoformat(), "ambient_c": 22.0}
    client.put(f"/machines/{machine}/sittings/{sitting}", json=began).raise_for_status()
    measure_id = next(m["id"] for m in case["measures"] if m["workload"] == case["workloads"][0]["name"])
    place = iter(range(first, first + 40_000))

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
    found = {name: measure(call, calls) for name, call in questions.items()}
    return found | {"comparison, cold": measure_cold(client, machine, calls)}


def measure_cold(client: httpx.Client, machine: str, calls: int) -> tuple[float, float]:
    """The comparison anew each time, after one more reading; that save is not counted."""
    save, times, size = saving(client, machine, first=50_000), list[float](), 0
    for _ in range(calls):
        save().raise_for_status()
        begun = time.perf_counter()
        answer = client.get(f"/machines/{machine}/comparison").raise_for_status()
        times.append(1000 * (time.perf_counter() - begun))
        size = len(answer.content)
    return statistics.median(times), size / 1000


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
    parser.add_argument("--whole", action="store_true", help="as many machines and runs as a chain of shops has")
    parser.add_argument("--machines", type=int, help="machines of 100 runs beside those asked")
    parser.add_argument("--large-runs", type=int, default=20_000)
    parser.add_argument("--import-runs", type=int)
    parser.add_argument("--calls", type=int, default=9)
    chosen = parser.parse_args()
    small = chosen.machines or (1000 if chosen.whole else 20)
    usual = 20 if chosen.whole else 1
    sizes = {
        "fresh": {"builds": 2, "workloads": 2, "runs": 60},
        "usual": {"builds": 4, "workloads": 10, "runs": 2000},
        "large": {"builds": 20, "workloads": 10, "runs": chosen.large_runs},
    }
    with running_database() as database, running_process(database) as (client, process):
        others = [take_in(client, make_file(seed, builds=2, workloads=2, runs=100)) for seed in range(small)]
        others += [take_in(client, make_file(5000 + n, **sizes["usual"])) for n in range(usual - 1)]
        begun = time.perf_counter()
        machines = {name: take_in(client, make_file(9000 + n, **s)) for n, (name, s) in enumerate(sizes.items())}
        print(f"taken in: {sum(s['runs'] for s in sizes.values())} runs in {time.perf_counter() - begun:.1f} s")
        _wait_until_judged(client)
        found = {name: ask(client, machine, chosen.calls) for name, machine in machines.items()}
        _print_questions(sizes, found)
        _wait_until_judged(client)
        for what, path in (("home", "/machines"), ("home, a search", "/machines?find=varro 9000")):
            time_ms, size = measure(partial(client.get, path), chosen.calls)
            print(f"{what:16}{time_ms:12.1f} ms{size:5.0f} kB, {small + usual + 2} machines")
        for machine in [*others, *machines.values()]:
            for question in ("", "/job", "/comparison"):
                client.get(f"/machines/{machine}{question}").raise_for_status()
        print(f"the server after a look at every machine: {memory_mb(process):.0f} MB")
        print_readers(client, [*others[:40], machines["usual"]], machines["large"])
        print_import(client, machines["large"], chosen.import_runs or (150_000 if chosen.whole else 20_000))
        print_servers(database, client, machines["large"])


def _wait_until_judged(client: httpx.Client) -> None:
    """Home's lines are written beside the requests; what is measured next should not share the time with them."""
    page, is_judged = 1, False
    while not is_judged:
        home = client.get("/machines", params={"page": page}).raise_for_status().json()
        waits = any(bench["state"] == "being judged" for bench in home["benches"])
        page += 0 if waits else 1
        is_judged = not waits and (page - 1) * home["page_size"] >= home["found"]
        time.sleep(0.2 if waits else 0)


def _print_questions(sizes: dict[str, dict[str, int]], found: dict[str, dict[str, tuple[float, float]]]) -> None:
    print(f"{'':16}" + "".join(f"{name:>22}" for name in sizes) + "   large / fresh")
    for question in found["fresh"]:
        cells = "".join(f"{found[n][question][0]:12.1f} ms{found[n][question][1]:5.0f} kB" for n in sizes)
        print(f"{question:16}{cells}{found['large'][question][0] / found['fresh'][question][0]:16.2f}")


if __name__ == "__main__":
    main()

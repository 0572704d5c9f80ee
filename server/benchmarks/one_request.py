"""
What one request can do to all others: bodies made to be slow to refuse, and the answers that others get meanwhile.

Usage: python benchmarks/one_request.py

Starts a PostgreSQL and a server of its own with the demo. For each body it prints after how long it was refused, with
which status and how large an answer, and the median, 95th percentile and longest time of small requests meanwhile,
beside those of a quiet server, all as measured in one run.
"""

import json
import statistics
import sys
import tempfile
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any
from uuid import uuid4

import httpx

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT))

from tests.api.bodies import Job, new_id  # noqa: E402
from tests.conftest import LiveServer, free_port  # noqa: E402

from lynxbill.cluster import start_cluster, stop_cluster  # noqa: E402

PAUSE_S = 0.02


@contextmanager
def probing(url: str) -> Iterator[list[float]]:
    """Ask small questions all the time; what is yielded fills with how long each took, in milliseconds."""
    took: list[float] = []
    ended = threading.Event()

    def probe() -> None:
        with httpx.Client(base_url=url, timeout=60) as client:
            while not ended.is_set():
                began = time.perf_counter()
                client.get("/api/health")
                took.append(1000 * (time.perf_counter() - began))
                time.sleep(PAUSE_S)

    threads = [threading.Thread(target=probe) for _ in range(2)]
    for thread in threads:
        thread.start()
    try:
        yield took
    finally:
        ended.set()
        for thread in threads:
            thread.join()


def say(took: list[float]) -> str:
    ordered = sorted(took)
    if not ordered:
        return "nothing was answered meanwhile"
    p95 = ordered[int(0.95 * (len(ordered) - 1))]
    return f"median {statistics.median(ordered):7.1f}  p95 {p95:7.1f}  longest {ordered[-1]:7.1f} ms"


def attacks(api: httpx.Client) -> dict[str, Callable[[], httpx.Response]]:
    job = Job(api).describe()
    sitting = job.sitting()
    row = job.row(sitting, 1, "fast")
    file = json.loads(api.get(f"/machines/{job.machine}/run-file").text)

    def put(path: str, body: dict[str, Any]) -> Callable[[], httpx.Response]:
        text = json.dumps(body)
        assert len(text) <= 5 * 2**20, f"{path}: {len(text)}"
        return lambda: api.put(f"/machines/{job.machine}{path}", content=text, headers=JSON)

    def post(path: str, body: Any) -> Callable[[], httpx.Response]:
        text = json.dumps(body)
        return lambda: api.post(path, content=text, headers=JSON)

    def take_in(changes: dict[str, Any]) -> Callable[[], httpx.Response]:
        text = json.dumps(file | {"machine": file["machine"] | {"id": new_id()}} | changes)

        def send() -> httpx.Response:
            answer = api.post("/run-files", content=text)
            while answer.status_code == 202 or answer.json().get("state") == "running":
                time.sleep(0.05)
                answer = api.get(f"/run-files/{answer.json()['id']}")
            return answer

        return send

    build = file["builds"][0]
    runs = [
        {"id": f"r{n}", "sitting": file["sittings"][0]["id"], "workload": "x", "position": "?"} for n in range(10**5)
    ]
    return {
        "350,000 unknown members": put("", {"name": "x", "currency": "EUR"} | {f"m{n}": 1 for n in range(350_000)}),
        "300,000 bad limits": put(
            "", {"name": "x", "currency": "EUR", "limits": {f"l{n}": [] for n in range(300_000)}}
        ),
        "16,000 bad runs": post(
            f"/machines/{job.machine}/runs",
            {"runs": [row | {"id": str(uuid4()), "position": 0} for _ in range(16_000)]},
        ),
        "250,000 bad runs of nothing": post(f"/machines/{job.machine}/runs", {"runs": [{"a": 1}] * 250_000}),
        "nested 100,000 deep": lambda: api.put(
            f"/machines/{job.machine}", content='{"limits":' * 100_000 + "1" + "}" * 100_000, headers=JSON
        ),
        "a file of 1,000 builds": take_in({"builds": [build | {"id": f"b{n}"} for n in range(1000)]}),
        "a file of 350,000 unknown members": take_in({f"m{n}": 1 for n in range(350_000)}),
        "a file of 100,000 bad runs": take_in({"runs": runs}),
        "a file of 49 MB, one text": take_in({"sittings": [file["sittings"][0] | {"boot": "x" * (49 * 2**20)}]}),
        "a file of 49 MB, many members": take_in({"builds": [build | {f"m{n}": n for n in range(2_900_000)}]}),
    }


JSON = {"Content-Type": "application/json"}


def main() -> None:
    with tempfile.TemporaryDirectory(prefix="lynxbill-one-request-") as folder:
        Path(folder).chmod(0o755)
        cluster = start_cluster(Path(folder) / "postgres")
        server = LiveServer(cluster.url, free_port())
        try:
            server.start()
            with httpx.Client(base_url=f"{server.url}/api", timeout=120) as api:
                time.sleep(5)
                with probing(server.url) as took:
                    time.sleep(3)
                print(f"{'nothing':36} {'':34} others: {say(took)}")
                for name, attack in attacks(api).items():
                    with probing(server.url) as took:
                        began = time.perf_counter()
                        answer = attack()
                        seconds = time.perf_counter() - began
                    told = f"{answer.status_code} after {seconds:5.2f} s, {len(answer.content) / 1000:7.1f} kB"
                    print(f"{name:36} {told:34} others: {say(took)}", flush=True)
        finally:
            server.stop()
            stop_cluster(cluster)


if __name__ == "__main__":
    sys.exit(main())

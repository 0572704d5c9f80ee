"""
What a power cut takes of a sitting: server and database killed at random moments while readings are typed.

Usage: python benchmarks/killed.py [--kills N] [--seed N]

Starts a PostgreSQL of its own with its watch, and a server that is started again whenever it is gone. A hand types
runs of two figures, and sends one again, as the screens do, until it was acknowledged. Meanwhile server, database or
both get SIGKILL. At the end every acknowledged run has to be there once, whole, and as it was typed. Prints how often
was killed, what was lost, doubled or torn, and the longest time from a kill until a run was acknowledged again.
"""

import argparse
import os
import random
import signal
import statistics
import sys
import tempfile
import threading
import time
from pathlib import Path

import httpx

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT))

from tests.api.bodies import Job, new_id  # noqa: E402
from tests.conftest import LiveServer, free_port  # noqa: E402

from lynxbill.cluster import Cluster, start_cluster, stop_cluster  # noqa: E402
from lynxbill.installation import Watch  # noqa: E402

PAUSE_S = 0.02
RUNS_A_SITTING = 200


class Hand:
    """Types one run after another; each is sent until the server says that it has it."""

    def __init__(self, url: str):
        self.url = url
        self.acknowledged: dict[str, float] = {}
        self.last = time.monotonic()
        self.longest: list[float] = []
        self.killed_at: float | None = None
        self.ended = threading.Event()

    def run(self) -> None:
        with httpx.Client(base_url=f"{self.url}/api", timeout=10) as api:
            job = Job(api).describe()
            self.job = job
            number = 0
            while not self.ended.is_set():
                if number % RUNS_A_SITTING == 0:
                    day = 1 + number // RUNS_A_SITTING
                    sitting = new_id()
                    body = {"build": job.build, "started_at": f"2026-05-{day:02}T09:00:00Z", "ambient_c": 21.0}
                    self._until_answered(api, "PUT", f"/sittings/{sitting}", body)
                number += 1
                value = 40 + number / 1000
                row = job.row(sitting, 1 + (number - 1) % RUNS_A_SITTING, value)
                row["readings"][job.rise] = value + 1
                self._until_answered(api, "POST", "/runs", {"runs": [row]})
                self.acknowledged[row["id"]] = value
                if self.killed_at is not None:
                    self.longest.append(time.monotonic() - self.killed_at)
                    self.killed_at = None
                time.sleep(PAUSE_S)

    def _until_answered(self, api: httpx.Client, method: str, path: str, body: dict[str, object]) -> None:
        while True:
            try:
                answer = api.request(method, f"/machines/{self.job.machine}{path}", json=body)
            except httpx.HTTPError:
                answer = None
            if answer is not None and answer.is_success:
                return
            # What was saved without an answer is answered as saved; only an outage is waited for.
            if answer is not None and answer.status_code < 500:
                raise AssertionError(answer.text)
            time.sleep(0.1)


def kill_database(cluster: Cluster) -> None:
    number = (cluster.folder / "data" / "postmaster.pid").read_text().splitlines()[0]
    os.kill(int(number), signal.SIGKILL)


def main() -> int:
    arguments = argparse.ArgumentParser(description=__doc__)
    arguments.add_argument("--kills", type=int, default=50)
    arguments.add_argument("--seed", type=int, default=1)
    given = arguments.parse_args()
    generator = random.Random(given.seed)
    with tempfile.TemporaryDirectory(prefix="lynxbill-killed-") as folder:
        Path(folder).chmod(0o755)
        cluster = start_cluster(Path(folder) / "postgres")
        watch = Watch(cluster)
        watch.start()
        server = LiveServer(cluster.url, free_port(), ("--empty",))
        server.start()
        hand = Hand(server.url)
        typing = threading.Thread(target=hand.run)
        typing.start()
        while not hand.acknowledged:
            time.sleep(0.1)
        counts = {"server": 0, "database": 0, "both": 0}
        try:
            for _ in range(given.kills):
                time.sleep(generator.uniform(0.1, 2.0))
                what = generator.choice(list(counts))
                counts[what] += 1
                hand.killed_at = time.monotonic()
                if what != "server":
                    kill_database(cluster)
                if what != "database":
                    server.kill()
                    start_again(server)
                while hand.killed_at is not None:
                    time.sleep(0.01)
            hand.ended.set()
            typing.join()
            return report(hand, counts)
        finally:
            hand.ended.set()
            server.stop()
            watch.stop()
            stop_cluster(cluster)


def start_again(server: LiveServer) -> None:
    """The server ends where its database is away while it starts; whoever starts it tries once more."""
    while True:
        try:
            server.start()
            return
        except (AssertionError, httpx.HTTPError):
            server.kill()
            time.sleep(0.2)


def report(hand: Hand, counts: dict[str, int]) -> int:
    with httpx.Client(base_url=f"{hand.url}/api", timeout=60) as api:
        runs = api.get(f"/machines/{hand.job.machine}/runs").raise_for_status().json()
    there: dict[str, list[dict[str, float]]] = {}
    for run in runs:
        there.setdefault(run["id"], []).append({name: each["low"] for name, each in run["readings"].items()})
    lost = [run for run in hand.acknowledged if run not in there]
    doubled = [run for run, found in there.items() if len(found) > 1]
    places = [(run["sitting"], run["position"]) for run in runs]
    torn = [
        run
        for run, value in hand.acknowledged.items()
        if run in there and there[run][0] != {hand.job.time: value, hand.job.rise: value + 1}
    ]
    print(f"killed: {', '.join(f'{what} {count} times' for what, count in counts.items())}")
    print(f"acknowledged {len(hand.acknowledged)} runs; recorded {len(runs)}")
    print(f"lost {len(lost)}, doubled {len(doubled) + len(places) - len(set(places))}, torn {len(torn)}")
    middle, longest = statistics.median(hand.longest), max(hand.longest)
    print(f"until a run was acknowledged again: median {middle:.1f} s, longest {longest:.1f} s")
    return 1 if lost or doubled or torn or len(places) != len(set(places)) else 0


if __name__ == "__main__":
    sys.exit(main())

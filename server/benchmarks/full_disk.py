"""
What a full disk takes: nothing, as long as the server notices in time, and no restart by hand.

Usage: python benchmarks/full_disk.py      (as root: it mounts a small disk in memory)

Starts a PostgreSQL with its data on a disk of 1,200 MB, its watch, and a server. Others fill the disk step by step
until nothing is left; each time it prints what is free, what /api/health says, and what becomes of a save and a read.
Then space is made again, and it prints after how long a save went through.
"""

import os
import shutil
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import httpx

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT))

from tests.api.bodies import Job  # noqa: E402
from tests.conftest import LiveServer, free_port  # noqa: E402

from lynxbill.cluster import start_cluster, stop_cluster  # noqa: E402
from lynxbill.installation import Watch  # noqa: E402
from lynxbill.store.space import MB  # noqa: E402

DISK_MB = 1200


def fill(disk: Path, left_mb: int) -> None:
    """Let somebody else's file take all but so much."""
    take = shutil.disk_usage(disk).free - left_mb * MB
    with (disk / "others").open("ab") as file:
        while take > 0:
            try:
                take -= file.write(bytes(min(take, MB)))
                file.flush()
            except OSError:
                return


def ask(job: Job, number: int) -> str:
    """What becomes of a save and of a read."""
    answers = []
    for method, body in (
        ("PUT", {"name": f"Bench {number}", "currency": "EUR", "version": version_of(job)}),
        ("GET", None),
    ):
        try:
            answer = job.api.request(method, f"/machines/{job.machine}", json=body)
            answers.append(f"{answer.status_code} {answer.json().get('code', '')}".strip())
        except httpx.HTTPError as error:
            answers.append(type(error).__name__)
    return f"save {answers[0]:20} read {answers[1]}"


def version_of(job: Job) -> int:
    try:
        return int(job.api.get(f"/machines/{job.machine}").json()["machine"]["version"])
    except (httpx.HTTPError, KeyError):
        return 1


def main() -> None:
    if os.geteuid() != 0:
        sys.exit("Only root can mount the small disk that this needs.")
    disk = Path(tempfile.mkdtemp(prefix="lynxbill-disk-"))
    subprocess.run(["mount", "-t", "tmpfs", "-o", f"size={DISK_MB}m,mode=755", "tmpfs", str(disk)], check=True)
    os.environ["LYNXBILL_DATA_FOLDER"] = str(disk)
    cluster = start_cluster(disk / "postgres")
    watch = Watch(cluster)
    watch.start()
    server = LiveServer(cluster.url, free_port(), ("--empty",))
    try:
        server.start()
        with httpx.Client(base_url=f"{server.url}/api", timeout=30) as api:
            job = Job(api).describe()
            time.sleep(3)
            for number, left in enumerate((900, 450, 150, 0)):
                fill(disk, left)
                for wait in (1, 6):
                    time.sleep(wait)
                    health = api.get("/health").json()
                    sentence = f"{health['database']}, {health['space']}"
                    ballast = "ballast" if (cluster.folder / "ballast").exists() else "no ballast"
                    free = shutil.disk_usage(disk).free // MB
                    print(f"{free:5} MB free, {ballast:10}: {sentence:14} {ask(job, number)}", flush=True)
                    if left == 0:
                        # What the ballast gave is taken as well, to the last byte.
                        fill(disk, 0)
            (disk / "others").unlink()
            began = time.monotonic()
            while not ask(job, 9).startswith("save 200"):
                time.sleep(0.2)
            print(
                f"space is made: a save goes through after {time.monotonic() - began:.1f} s, with no restart by hand"
            )
            print(f"then: {api.get('/health').json()}")
    finally:
        server.stop()
        watch.stop()
        stop_cluster(cluster)
        subprocess.run(["umount", str(disk)], check=False)
        disk.rmdir()


if __name__ == "__main__":
    main()

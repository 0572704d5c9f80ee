"""
Makes a dump of a database as an earlier state of this repository left it, for the test that opens it today.

    python tests/data/old/make_dump.py COMMIT NAME

It needs the code of then: the commit is checked out aside, and the demo is loaded and used by it.
"""

import os
import subprocess
import sys
import tempfile
from pathlib import Path

from lynxbill.cluster import find_program, start_cluster, stop_cluster

HERE = Path(__file__).parent
ROOT = HERE.parents[3]
PICTURE = ROOT / "docs" / "screenshots" / "home.png"
# Run with the code of then: what it can't do yet is left out.
USE = """
import sys
from pathlib import Path
from sqlalchemy import text
from starlette.testclient import TestClient
from lynxbill.app import create_app
from lynxbill.demo import load_demo
from lynxbill.store.database import migrate, open_engine, session_factory

url, picture = sys.argv[1], Path(sys.argv[2])
engine = open_engine(url)
migrate(engine)
load_demo(session_factory(engine))
with engine.connect() as connection:
    known = [(str(row.id), row.name) for row in connection.execute(text("SELECT id, name FROM machines"))]
engine.dispose()
with TestClient(create_app(url), base_url="http://127.0.0.1/api", headers={"Host": "127.0.0.1"}) as api:
    for key, name in known:
        case = api.get(f"/machines/{key}").json()
        runs = case.get("runs") or api.get(f"/machines/{key}/runs").json()
        if name == "Plotting PC":
            done = api.put(f"/machines/{key}/runs/{runs[0]['id']}/picture", content=picture.read_bytes())
            print("picture", done.status_code)
        for swap in case["swaps"]:
            pair = {"before": swap["before"], "after": swap["after"]}
            seen = api.get(f"/machines/{key}/comparison", params=pair).json()
            shown = pair | {"measures": list(seen["measures"])}
            if "evidence" in seen:
                shown |= {"revision": seen["revision"], "evidence": seen["evidence"]}
            print("shown", api.post(f"/machines/{key}/shown", json=shown).status_code)
            wish = pair | {"technician": "R. Feld", "changed_since": ""}
            print("report", api.post(f"/machines/{key}/reports", json=wish).status_code)
"""


def make(commit: str, name: str) -> Path:
    """Check the commit out aside, use its demo, and dump what it left."""
    file = HERE / f"{name}.dump"
    with tempfile.TemporaryDirectory() as folder:
        then, base = Path(folder) / "then", Path(folder) / "postgres"
        Path(folder).chmod(0o755)
        subprocess.run(["git", "-C", str(ROOT), "worktree", "add", "--detach", str(then), commit], check=True)
        cluster = start_cluster(base)
        try:
            environment = os.environ | {"PYTHONPATH": str(then / "server" / "src")}
            subprocess.run([sys.executable, "-c", USE, cluster.url, str(PICTURE)], env=environment, check=True)
            command = [str(find_program("pg_dump")), "--format=custom", "--compress=9", "--no-owner"]
            subprocess.run([*command, "--no-privileges", f"--file={file}", cluster.url], check=True)
        finally:
            stop_cluster(cluster)
            subprocess.run(["git", "-C", str(ROOT), "worktree", "remove", "--force", str(then)], check=True)
    return file


if __name__ == "__main__":
    print(make(sys.argv[1], sys.argv[2]))  # noqa: T201

"""Every benchmark starts, small, and prints what it measured: one that nobody runs breaks."""

import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from tests.conftest import ROOT

pytestmark = pytest.mark.nightly

BENCHMARKS = ROOT / "server" / "benchmarks"
# Small enough for a night, and each of its questions asked once.
SMALL = {
    "full_disk.py": (),
    "growth.py": ("--machines", "2", "--large-runs", "2000", "--import-runs", "500", "--calls", "1"),
    "judge_speed.py": ("--measures", "6", "--lines", "5"),
    "killed.py": ("--kills", "2"),
    "one_request.py": (),
    "physics.py": ("--rounds", "1", "--seconds", "0.2"),
    "sensor_log.py": ("1",),
}


def test_every_benchmark_has_its_small_form() -> None:
    assert {file.name for file in BENCHMARKS.glob("*.py")} == set(SMALL)


@pytest.mark.parametrize("name", SMALL)
def test_a_benchmark_starts_small_and_prints_what_it_measured(name: str) -> None:
    if name == "full_disk.py" and not may_mount():
        pytest.skip("only root can mount the small disk that it needs")
    if name == "physics.py" and shutil.which("cc") is None:
        pytest.skip("there is no C compiler to set the agent against")
    made = subprocess.run(
        [sys.executable, str(BENCHMARKS / name), *SMALL[name]],
        cwd=BENCHMARKS.parent,
        capture_output=True,
        text=True,
        check=False,
        timeout=900,
    )
    assert made.returncode == 0, made.stderr
    assert any(character.isdigit() for character in made.stdout)


def may_mount() -> bool:
    """Whether this account may mount a disk in memory; in many a container root may not either."""
    if os.geteuid() != 0 or shutil.which("mount") is None:
        return False
    place = Path("/tmp") / f"lynxbill-mount-{os.getpid()}"
    place.mkdir()
    try:
        command = ["mount", "-t", "tmpfs", "-o", "size=1m", "tmpfs", str(place)]
        if subprocess.run(command, capture_output=True, check=False).returncode != 0:
            return False
        subprocess.run(["umount", str(place)], check=True)
        return True
    finally:
        place.rmdir()

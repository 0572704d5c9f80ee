"""
Makes the demo, Fenwick Map Room, as run files beside this script: the plotting PC with a ladder of four builds and
known true gains, a field laptop whose dust and paste were judged apart, the scanner-room tower, whose case is open
for a new drive, and the light-table PC, whose cooler was changed and judged.

What the bench measures was measured on simulated PCs (lynxbill.rig), with traces; readings of the owners' own
programs are drawn around stated truths, with the noise of real benches: scatter between runs, a shift with every
sitting, a cold first run.

Usage: make_fenwick.py
"""

from pathlib import Path

from fenwick.laptop import make_laptop
from fenwick.light_table import make_light_table
from fenwick.plotting import make_plotting_pc
from fenwick.tower import make_tower

from lynxbill.exchange.run_file import write_run_file

SEED = 8440


def run_files() -> dict[str, str]:
    """Every run file of the demo by its name."""
    return {
        "fenwick-1-plotting-pc.json": write_run_file(*make_plotting_pc(SEED)),
        "fenwick-2-field-laptop.json": write_run_file(*make_laptop(SEED)),
        "fenwick-3-scanner-room-tower.json": write_run_file(*make_tower(SEED)),
        "fenwick-4-light-table-pc.json": write_run_file(*make_light_table(SEED)),
    }


if __name__ == "__main__":
    for name, text in run_files().items():
        (Path(__file__).parent / name).write_text(text + "\n")

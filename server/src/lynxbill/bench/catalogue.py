"""Every workload that the agent knows, by the key that the parameters of its runs carry."""

from collections.abc import Mapping

from lynxbill.bench.work.compute import COMPUTE
from lynxbill.bench.work.crowd import CROWD
from lynxbill.bench.work.drive import DRIVE
from lynxbill.bench.work.memory import MEMORY
from lynxbill.bench.work.overflow import OVERFLOW
from lynxbill.bench.work.own import OwnProgram, program_workload
from lynxbill.bench.work.soak import SOAK, STEPS
from lynxbill.bench.work.start import START
from lynxbill.bench.workload import BenchWorkload

BUILT_IN = (*COMPUTE, *MEMORY, OVERFLOW, CROWD, *DRIVE, START, SOAK, STEPS)

# What shows a change of each kind, and what should stay as it was: the first is the job's headline.
FOR_A_CHANGE: Mapping[str, tuple[str, ...]] = {
    "processor": ("routes-all", "relief-all", "archive-all", "routes-one", "memory-move"),
    "memory": ("overflow", "crowd", "memory-move", "routes-one"),
    "drive": (
        "drive-scattered-read-16KiB-8",
        "drive-long-read-2048KiB-1",
        "drive-long-write-2048KiB-1",
        "start",
        "routes-one",
    ),
    "thermal paste": ("soak", "routes-all"),
    "cooler": ("soak", "stepped-load", "routes-all"),
    "cleaning": ("soak", "routes-all"),
}


def catalogue(programs: Mapping[str, OwnProgram]) -> dict[str, BenchWorkload]:
    """All workloads by key, the technician's own among them."""
    known = {workload.key: workload for workload in BUILT_IN}
    return known | {workload.key: workload for workload in map(program_workload, programs.values())}

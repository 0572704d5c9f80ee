"""A workload: a repeatable piece of work."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from lynxbill.core.record.build import PartRole
from lynxbill.core.record.ids import Plain, WorkloadId


@dataclass(frozen=True, slots=True)
class Workload:
    """
    A repeatable piece of work: what it loads, what it is aimed at, and how it is done.

    `card` tells in words how the job is done and what is timed or judged; `minutes_a_run` is in minutes. `set_aside`
    says why no further plan asks for it.
    """

    id: WorkloadId
    name: str
    workload_version: str = "1"
    parameters: Mapping[str, Plain] = field(default_factory=dict)
    loads: tuple[PartRole, ...] = ()
    target: str | None = None
    card: str = ""
    minutes_a_run: float | None = None
    set_aside: str | None = None

"""The run file: the contract of docs/run-file.md."""

from typing import Annotated, Literal

from pydantic import Field

from lynxbill.core.record.build import MOST_BUILDS
from lynxbill.core.record.plan import MOST_MEASURES
from lynxbill.exchange.evidence_schema import RunFileRun, SittingFile
from lynxbill.exchange.fields import OptionalLine, Strict
from lynxbill.exchange.frame_schema import (
    BuildFile,
    CandidateFile,
    MachineFile,
    MeasureFile,
    PlanFile,
    RecheckFile,
    WorkloadFile,
)
from lynxbill.exchange.swap_schema import SwapFile


class RunFile(Strict):
    """A machine with its builds, sittings, runs and swaps."""

    format: Literal["lynxbill-runs"]
    version: Literal[1]
    machine: MachineFile
    workloads: Annotated[list[WorkloadFile], Field(max_length=MOST_MEASURES)] = []
    measures: Annotated[list[MeasureFile], Field(max_length=MOST_MEASURES)] = []
    builds: Annotated[list[BuildFile], Field(max_length=MOST_BUILDS)] = []
    sittings: list[SittingFile] = []
    runs: list[RunFileRun] = []
    swaps: Annotated[list[SwapFile], Field(max_length=MOST_BUILDS)] = []
    plan: PlanFile | None = Field(default=None, description="The plan for the swap that comes next")
    candidates: list[CandidateFile] = []
    rechecks: list[RecheckFile] = []
    history: Annotated[
        OptionalLine,
        Field(
            description="Sum over what was shown, when it was written and what was changed since; absent or another "
            "one, nobody knows what was shown (history_unknown)"
        ),
    ] = ""

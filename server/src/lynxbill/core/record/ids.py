"""What the things of one machine are called by, and the plain values that they hold."""

from typing import NewType

# Every id is a text; which thing it is one of, the types keep apart.
BuildId = NewType("BuildId", str)


SittingId = NewType("SittingId", str)


RunId = NewType("RunId", str)


SwapId = NewType("SwapId", str)


WorkloadId = NewType("WorkloadId", str)


MachineId = NewType("MachineId", str)


Plain = str | float | int | bool | None

"""Where a job stands in the order of work: asked for by home and by every station."""

from collections.abc import Mapping
from typing import Literal

from lynxbill.core.plan.progress import Tally
from lynxbill.core.record.frame import Frame
from lynxbill.core.record.swap import Swap

JobState = Literal["set up", "baseline", "swap", "planned", "open", "after", "judged"]
# Where somebody has to sit down at the machine or open it; set-up and the bill are done at a desk.
AT_THE_BENCH: tuple[JobState, ...] = ("baseline", "swap", "planned", "open", "after")


def current_swap(frame: Frame) -> Swap | None:
    """
    Find the swap that is being worked on: the one whose case is open, else the first that is planned.

    Args:
        frame: the machine without its runs.
    """
    waiting = (swap for state in ("open", "planned") for swap in frame.swaps if swap.state == state)
    return next(waiting, None)


def find_job_state(frame: Frame, tallies: Mapping[str, Tally]) -> JobState:
    """
    Say where a job stands, whatever the date: a re-check that is due comes on top.

    Args:
        tallies: by build id, from `tally_builds`.
    """
    fitted, swap = frame.fitted, current_swap(frame)
    if fitted is None or not frame.measures:
        return "set up"
    if swap is not None:
        return "open" if swap.state == "open" else "planned"
    is_complete = tallies[fitted.id].sittings_left == 0
    if frame.swap_into(fitted.id) is not None:
        return "judged" if is_complete else "after"
    return "swap" if is_complete else "baseline"

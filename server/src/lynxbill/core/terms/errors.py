"""
Every refusal of the core, in one tree.

    Refusal
    ├── BadValue            a value that cannot be what it claims to be
    │   ├── UnknownUnit
    │   ├── UnitMismatch
    │   ├── NonPositiveReading
    │   └── RateMissing
    ├── BadQuestion         a comparison that cannot be asked
    │   ├── UnknownBuild
    │   ├── NoSwap
    │   └── SameBuild
    ├── Several             more than one refusal of one request, each with its field
    ├── Missing             a thing that is not there
    ├── DiskFull            no space to save anything
    └── Clash               a save that what is already recorded forbids
        ├── Stale
        ├── Sealed
        ├── Taken
        ├── GateClosed      the baseline lacks something, and no reason was given to go on
        ├── NotRecognised   the machine does not see a part that went in
        ├── CaseNotOpen     the swap was not begun, or is over
        ├── SittingClosed   a sitting that takes no further runs
        ├── Questioned      a question has to be answered first
        ├── PlanFixed       a part of the plan that may not change once after-runs exist
        └── Frozen          a workload's settings that may not change once it has runs
"""

import traceback
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import ClassVar


def say_fault(error: BaseException) -> str:
    """
    Describe an unforeseen error by its kinds and places alone.

    Messages of errors quote what was being worked on; a log must hold no owner's name and no reading.

    Args:
        error: whatever was raised; its message is not told.
    """
    kinds: list[str] = []
    places = traceback.extract_tb(error.__traceback__)
    known: BaseException | None = error
    while known is not None and len(kinds) < 10:
        kinds.append(f"{type(known).__module__}.{type(known).__qualname__}")
        known = known.__cause__ or known.__context__
    where = " > ".join(f"{Path(place.filename).name}:{place.lineno} {place.name}" for place in places[-12:])
    return f"{' from '.join(kinds)} at {where}"


class Refusal(Exception):
    """Something asked for that cannot be done; says what came and what was needed."""

    code: ClassVar[str] = "refused"

    def __init__(self, message: str, *, field: str | None = None, details: Mapping[str, object] | None = None):
        super().__init__(message)
        self.message = message
        self.field = field
        self.details = dict(details or {})


class Several(Refusal):
    code = "several"

    def __init__(self, refusals: Sequence[Refusal]):
        super().__init__(" ".join(refusal.message for refusal in refusals))
        self.refusals = tuple(refusals)


class BadValue(Refusal):
    code = "bad_value"


class UnknownUnit(BadValue):
    code = "unknown_unit"


class UnitMismatch(BadValue):
    code = "unit_mismatch"


class NonPositiveReading(BadValue):
    code = "non_positive_reading"


class RateMissing(BadValue):
    code = "rate_missing"


class BadQuestion(Refusal):
    code = "bad_question"


class UnknownBuild(BadQuestion):
    code = "unknown_build"


class NoSwap(BadQuestion):
    code = "no_swap"


class SameBuild(BadQuestion):
    code = "same_build"


class Missing(Refusal):
    code = "missing"


class Clash(Refusal):
    code = "clash"


class Stale(Clash):
    code = "stale"


class Sealed(Clash):
    code = "sealed"


class DiskFull(Refusal):
    """Nothing can be saved until there is space again."""

    code = "disk_full"


class Taken(Clash):
    code = "taken"


class GateClosed(Clash):
    code = "baseline_incomplete"


class NotRecognised(Clash):
    code = "not_recognised"


class CaseNotOpen(Clash):
    code = "case_not_open"


class SittingClosed(Clash):
    code = "sitting_closed"


class Questioned(Clash):
    code = "question_open"


class PlanFixed(Clash):
    code = "plan_fixed"


class Frozen(Clash):
    code = "workload_frozen"

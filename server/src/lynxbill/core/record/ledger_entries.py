"""The entries of the ledger: what was given to somebody."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime

from lynxbill.core.record.ids import BuildId, Plain, SittingId
from lynxbill.core.terms.measure import MeasureId


@dataclass(frozen=True, slots=True)
class Showing:
    """
    One entry of the ledger: the verdict of a measure, as it was first given to somebody.

    `compared` is the build before where the comparison is another one than its swap's own. `look` is None for the
    anytime rule; `sittings` are those it rested on, `digest` one of their runs (empty:
    not kept), `gain` the oriented estimate and `low` to `high` its interval then. `boots` and `conditions` are by
    sitting; `plan` is that of the comparison, written out. `rules` is the number of the rules that it was reached by
    (`RULES` of core/judgement/ledger.py; None: nobody knows).
    """

    measure: MeasureId
    at: datetime
    look: int | None
    level: float
    rule: str
    verdict: str
    sittings: tuple[SittingId, ...]
    digest: str = ""
    attempt: int = 1
    compared: BuildId | None = None
    by: str = ""
    gain: float | None = None
    low: float | None = None
    high: float | None = None
    boots: Mapping[SittingId, str | None] = field(default_factory=dict)
    conditions: Mapping[SittingId, Mapping[str, Plain]] = field(default_factory=dict)
    plan: str = ""
    rules: int | None = None

"""What leaving something out late would do to the verdicts, said before it is done."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import datetime

from lynxbill.core.judgement.verdict import Verdict
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import BuildId, RunId, SittingId
from lynxbill.core.record.run import LateExclusion, SetAside
from lynxbill.core.result.comparison import judge_measures
from lynxbill.core.terms.measure import MeasureId


@dataclass(frozen=True, slots=True)
class WhatIf:
    """A verdict that would be another one: what it is now, and what it would be then."""

    before: BuildId
    after: BuildId
    measure: MeasureId
    now: Verdict
    then: Verdict


def what_if_run_left_out(case: Case, run: RunId, at: datetime) -> tuple[WhatIf, ...]:
    """
    Say which verdicts would change if a run were left out now, after its reading was seen.

    Args:
        case: with the runs of every build that its build is compared with.
        at: when it would be.
    Returns: by swap, in the case's order of measures; nothing where no verdict changes.
    """
    (found,) = (one for one in case.runs if one.id == run)
    left_out = replace(found, excluded_late=LateExclusion("", at))
    then = replace(case, runs=tuple(left_out if one.id == run else one for one in case.runs))
    return tuple(_changes(case, then, found.sitting_id))


def what_if_sitting_set_aside(case: Case, sitting: SittingId, at: datetime) -> tuple[WhatIf, ...]:
    """
    Say which verdicts would change if a sitting were set aside now.

    Args, returns: as for `foresee_run_left_out`.

    Args:
        case: the machine with the runs of both builds.
        sitting: the sitting asked.
        at: when it would be set aside, UTC.
    """
    then = replace(
        case,
        sittings=tuple(replace(s, set_aside=SetAside("", at)) if s.id == sitting else s for s in case.sittings),
    )
    return tuple(_changes(case, then, sitting))


def _changes(now: Case, then: Case, sitting: SittingId) -> Iterator[WhatIf]:
    (build,) = (s.build_id for s in now.sittings if s.id == sitting)
    for before, after in dict.fromkeys((s.before, s.after) for s in now.swaps if build in (s.before, s.after)):
        pairs = zip(judge_measures(now, before, after), judge_measures(then, before, after), strict=True)
        for here, there in pairs:
            if here.planned.role != "watch" and here.verdict.word != there.verdict.word:
                yield WhatIf(before, after, here.measure.id, here.verdict, there.verdict)

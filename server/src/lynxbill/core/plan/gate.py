"""The baseline gate: what is missing from the before-side while the old part is still there to be measured."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Literal

from lynxbill.core.plan.conditions import NotHeld, condition_departures
from lynxbill.core.plan.planning import Known, Strength, plan_strength
from lynxbill.core.plan.progress import Progress, progress_of
from lynxbill.core.plan.questions import too_few_for_steps
from lynxbill.core.reading.counting import compared_sittings
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import BuildId
from lynxbill.core.record.plan import Plan
from lynxbill.core.record.run import Sitting
from lynxbill.core.terms.measure import Measure, MeasureId

LackCode = Literal[
    "no_measures",
    "four_for_steps",
    "sittings",
    "runs",
    "ambient",
    "conditions",
    "steadiness",
    "control",
    "prospects",
    "goes_by",
]


@dataclass(frozen=True, slots=True)
class Lack:
    """
    One thing that is missing; of the rest as much as the code needs. A `hint` keeps nothing from being complete.

    Attributes:
        measure: what it is about.
        had, wanted: sittings or runs that there are, and that the plan asks for; `had` also sittings without a room.
        one_boot: whether sittings were held in one boot and count as one for it.
        sitting, not_held: the sitting, numbered as it was taken, that does not meet a condition, and which.
        strength: what the plan could show of the measure; None where one sitting a side is planned.
        hoped: the change hoped for, in percent, or in the measure's unit.
        by: what completeness went by: the headline, then the measure with the fewest runs where that is another.
    """

    code: LackCode
    hint: bool = False
    measure: Measure | None = None
    had: int = 0
    wanted: int = 0
    one_boot: bool = False
    sitting: int = 0
    not_held: NotHeld | None = None
    strength: Strength | None = None
    hoped: float = 0.0
    by: tuple[Progress, ...] = ()


def baseline_gate(case: Case, build_id: BuildId, plan: Plan, known: Known | None = None) -> tuple[Lack, ...]:
    """
    Find what is missing before the part on which the before-side rests may leave.

    Args:
        build_id: the build before.
        plan: the plan of the swap to be begun. Where its order returns to the old part, one sitting is enough now.
        known: from `what_is_known`, where more is asked of the same case.
    Returns: nothing but hints where the baseline is complete and steady enough.
    """
    claims = [m for m in case.measures if m.id in plan.measures and plan.measures[m.id].role == "claim"]
    if not claims:
        return (Lack("no_measures"),)
    sittings = compared_sittings(case, build_id)
    # By the headline first, then by what has the fewest.
    of_all = progress_of(case, build_id, _counted(plan))
    progress = tuple(sorted(of_all, key=lambda of: (of.measure.id != plan.headline, of.rank)))
    lacks = [lack for of in progress for lack in _counts(of)]
    if not lacks:
        fewest = min(progress, key=lambda of: of.rank)
        lacks.append(Lack("goes_by", hint=True, by=progress[:1] if fewest is progress[0] else (progress[0], fewest)))
    lacks += [Lack("four_for_steps", measure=measure) for measure in too_few_for_steps(claims, plan)]
    lacks += _conditions(claims, plan, sittings)
    # Steadiness is a question only of a baseline that is there.
    if all(lack.hint for lack in lacks):
        lacks += _steadiness(case, plan, known)
    lacks += _prospects(case, plan, known)
    if not any(planned.role == "control" for planned in plan.measures.values()):
        lacks.append(Lack("control", hint=True))
    return tuple(lacks)


def _counted(plan: Plan) -> Plan:
    """Where the order returns to the old part, one sitting is enough before it leaves for the first time."""
    return plan if plan.order == "before_then_after" else replace(plan, sittings_a_side=1)


def _counts(progress: Progress) -> Iterator[Lack]:
    if progress.sittings_left:
        yield Lack(
            "sittings",
            measure=progress.measure,
            had=progress.units,
            wanted=progress.sittings_wanted,
            one_boot=len(progress.runs) > progress.units,
        )
    if progress.fewest_runs is not None:
        yield Lack("runs", measure=progress.measure, had=progress.fewest_runs, wanted=progress.runs_wanted)


def _conditions(claims: list[Measure], plan: Plan, sittings: tuple[Sitting, ...]) -> Iterator[Lack]:
    blind = [s for s in sittings if s.ambient_c is None]
    if blind and any(measure.kind == "heat" for measure in claims):
        yield Lack("ambient", had=len(blind))
    for number, sitting in enumerate(sittings, start=1):
        for not_held in condition_departures(sitting, plan.conditions):
            yield Lack("conditions", sitting=number, not_held=not_held)


def _prospects(case: Case, plan: Plan, known: Known | None) -> Iterator[Lack]:
    """What 3, 4 and 5 sittings a side would find of the headline: said before the old part can't be measured more."""
    if plan.alternates:
        return
    if plan.sittings_a_side == 1:
        yield Lack("prospects", hint=True)
        return
    names = {measure.id: measure for measure in case.measures}
    for strength in plan_strength(case, plan, known):
        if strength.measure == plan.headline:
            yield Lack("prospects", hint=True, measure=names[MeasureId(strength.measure)], strength=strength)


def _steadiness(case: Case, plan: Plan, known: Known | None) -> Iterator[Lack]:
    names = {measure.id: measure for measure in case.measures}
    for strength in plan_strength(case, plan, known):
        hoped = plan.measures[MeasureId(strength.measure)].hoped_for
        if hoped is not None and strength.detectable > hoped:
            yield Lack("steadiness", measure=names[MeasureId(strength.measure)], strength=strength, hoped=hoped)

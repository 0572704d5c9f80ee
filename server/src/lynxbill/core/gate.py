"""The baseline gate: what is missing from the before-side while the old part is still there to be measured."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Literal

from lynxbill.core.case import BuildId, Case, Plan, Sitting
from lynxbill.core.conditions import condition_departures
from lynxbill.core.counting import compared_sittings
from lynxbill.core.measure import Measure, MeasureId
from lynxbill.core.planning import Known, plan_strength
from lynxbill.core.progress import progress_of

LackCode = Literal["no_measures", "sittings", "runs", "ambient", "conditions", "steadiness", "control", "prospects"]


@dataclass(frozen=True, slots=True)
class Lack:
    """One thing that is missing, and what to do about it; a `hint` keeps nothing from being complete."""

    code: LackCode
    message: str
    hint: bool = False


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
        return (Lack("no_measures", "No claim is planned: say what the swap is to be judged by."),)
    sittings = compared_sittings(case, build_id)
    lacks = list(_counts(case, build_id, plan))
    lacks += _conditions(claims, plan, sittings)
    # Steadiness is a question only of a baseline that is there.
    if not lacks:
        lacks += _steadiness(case, plan, known)
    lacks += _prospects(case, plan, known)
    if not any(planned.role == "control" for planned in plan.measures.values()):
        message = "No control is planned: nothing would show that something else moved as well."
        lacks.append(Lack("control", message, hint=True))
    return tuple(lacks)


def _counts(case: Case, build_id: BuildId, plan: Plan) -> Iterator[Lack]:
    # Where the order returns to the old part, one sitting is enough before it leaves for the first time.
    counted = plan if plan.order == "before_then_after" else replace(plan, sittings_a_side=1)
    for progress in progress_of(case, build_id, counted):
        name = progress.measure.name
        if progress.sittings_left:
            one_boot = len(progress.runs) > progress.units
            why = " Those in one boot count as one: restart before the next." if one_boot else ""
            yield Lack("sittings", f"{name}: {progress.units} of {progress.sittings_wanted} sittings.{why}")
        if progress.fewest_runs is not None:
            yield Lack("runs", f"{name}: a sitting has {progress.fewest_runs} of {progress.runs_wanted} runs.")


def _conditions(claims: list[Measure], plan: Plan, sittings: tuple[Sitting, ...]) -> Iterator[Lack]:
    blind = [s for s in sittings if s.ambient_c is None]
    if blind and any(measure.kind == "heat" for measure in claims):
        yield Lack("ambient", f"Heat is claimed, and the room temperature is not noted in {len(blind)} sittings.")
    for number, sitting in enumerate(sittings, start=1):
        for departure in condition_departures(sitting, plan.conditions):
            yield Lack("conditions", f"Sitting {number}: {departure}.")


def _prospects(case: Case, plan: Plan, known: Known | None) -> Iterator[Lack]:
    """What 3, 4 and 5 sittings a side would find of the headline: said before the old part can't be measured more."""
    if plan.alternates:
        return
    if plan.sittings_a_side == 1:
        yield Lack(
            "prospects",
            "One sitting a side is a quick look: it calls a change real, provisionally, only where it is far larger "
            "than what a restart may move. Once the part is out, this side can't grow; two more sittings now would "
            "let smaller gains be found.",
            hint=True,
        )
        return
    names = {measure.id: measure for measure in case.measures}
    for strength in plan_strength(case, plan, known):
        if strength.measure == plan.headline:
            measure = names[MeasureId(strength.measure)]
            unit = "%" if measure.scale == "ratio" else measure.unit
            found = (strength.with_three, strength.with_four, strength.with_five)
            three, four, five = (f"{value:.2g} {unit}" for value in found)
            yield Lack(
                "prospects",
                f"{measure.name}: in 8 of 10 jobs 3 sittings a side would find a gain from {three}, 4 from {four}, "
                f"5 from {five}. Once the part is out, this side can't grow.",
                hint=True,
            )


def _steadiness(case: Case, plan: Plan, known: Known | None) -> Iterator[Lack]:
    names = {measure.id: measure for measure in case.measures}
    for strength in plan_strength(case, plan, known):
        hoped = plan.measures[MeasureId(strength.measure)].hoped_for
        if hoped is not None and strength.detectable > hoped:
            measure = names[MeasureId(strength.measure)]
            unit = "%" if measure.scale == "ratio" else measure.unit
            yield Lack(
                "steadiness",
                f"{measure.name} scatters so much that {strength.sittings_a_side} sittings a side would show "
                f"{strength.detectable:.2g} {unit} at best; hoped for are {hoped:g} {unit}.",
            )

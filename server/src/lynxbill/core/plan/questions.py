"""Questions that a plan or a swap raises: nothing here forbids anything."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from decimal import Decimal
from typing import Literal

from lynxbill.core.change.difference import Difference, find_differences, find_undeclared
from lynxbill.core.plan.planning import BenchTime
from lynxbill.core.record.build import PartRole
from lynxbill.core.record.frame import Case
from lynxbill.core.record.plan import Change, Plan
from lynxbill.core.record.swap import Swap
from lynxbill.core.terms.measure import EXACT_SITTINGS, STEPPED, Measure
from lynxbill.core.terms.money import round_money

QuestionCode = Literal[
    "nothing_loads_it",
    "loads_unknown",
    "headline_does_not_load_it",
    "control_loads_it",
    "no_headline",
    "undeclared_difference",
    "paste_untouched",
    "cleaning_with_paste",
    "no_control",
    "proof_costs_more",
    "headline_again",
    "two_mounts",
    "four_for_steps",
    "two_sittings",
]
_CHANGED_ROLES: Mapping[Change, frozenset[PartRole]] = {
    "processor": frozenset({"processor"}),
    "memory": frozenset({"memory"}),
    "drive": frozenset({"drive", "adapter"}),
    "thermal paste": frozenset({"thermal paste", "cooler"}),
    "cooler": frozenset({"cooler", "thermal paste"}),
    "graphics": frozenset({"graphics"}),
    "settings": frozenset(),
    "cleaning": frozenset({"cooler", "thermal paste"}),
    # Which of them, its plan does not say.
    "several": frozenset(),
    "other": frozenset(),
}
_HEATING: frozenset[PartRole] = frozenset({"processor", "graphics"})


@dataclass(frozen=True, slots=True)
class Question:
    """
    What is asked; of the rest as much as the code needs.

    Attributes:
        about: the key of what is asked about.
        change: the kind of change that the plan was made for.
        name: the measure that is asked about.
        difference: between the two builds.
        roles: of the parts that change.
        hands, price: what the hands of both sides cost, and the change itself, in the currency of account.
    """

    code: QuestionCode
    about: str | None = None
    change: Change | None = None
    name: str | None = None
    difference: Difference | None = None
    roles: tuple[str, ...] = ()
    hands: Decimal = Decimal(0)
    price: Decimal = Decimal(0)


def loads_that_show(change: Change | None) -> frozenset[PartRole]:
    """
    Say which loads of a workload may show a kind of change.

    Args:
        change: the kind of change, or None where none is planned.
    Returns: roles of parts; empty where that can't be told. Cooling shows in what heats up, too.
    """
    roles = _CHANGED_ROLES[change] if change else frozenset[PartRole]()
    return roles | _HEATING if "cooler" in roles else roles


def loaded_by(role: str) -> frozenset[PartRole]:
    """
    Say which loads of a workload may show a change of a part.

    Args:
        role: a part's role.
    Returns: empty for a part that no workload is said to load, such as a board.
    """
    change = change_of(role)
    return loads_that_show(None if change == "other" else change)


def change_of(role: str) -> Change:
    """
    Say which kind of change a part of a role is.

    Args:
        role: a part's role.
    """
    return next((change for change, roles in _CHANGED_ROLES.items() if role in roles), "other")


def question_plan(case: Case, plan: Plan) -> tuple[Question, ...]:
    """
    Ask what a technician should answer before measuring by a plan.

    Args:
        case: the machine.
        plan: the plan, saved or as it is typed.
    Returns: questions on the headline, and on what the planned workloads load against what is to be changed.
    """
    found = []
    claims = [m for m in case.measures if m.id in plan.measures and plan.measures[m.id].role == "claim"]
    if claims and (plan.headline is None or plan.headline not in {m.id for m in claims}):
        found.append(Question("no_headline"))
    if plan.change in ("thermal paste", "cooler") and any(m.kind == "heat" for m in claims) and _many(plan):
        found.append(Question("two_mounts"))
    found += [
        Question("four_for_steps", measure.id, name=measure.name) for measure in too_few_for_steps(claims, plan)
    ]
    if has_two(plan) and any(measure.scale not in STEPPED for measure in claims):
        found.append(Question("two_sittings"))
    roles = loads_that_show(plan.change)
    if not roles or not claims:
        return tuple(found)
    if claims and not any(planned.role == "control" for planned in plan.measures.values()):
        found.append(Question("no_control"))
    loads = {workload.name: frozenset(workload.loads) for workload in case.workloads}
    if not any(loads.get(m.workload) for m in claims):
        return (*found, Question("loads_unknown", change=plan.change))
    if not any(loads.get(m.workload, frozenset()) & roles for m in claims):
        found.append(Question("nothing_loads_it", change=plan.change))
    for measure in case.measures:
        hits = bool(loads.get(measure.workload, frozenset()) & roles)
        planned = plan.measures.get(measure.id)
        if planned and planned.role == "control" and hits:
            found.append(Question("control_loads_it", measure.id, plan.change, measure.name))
        if plan.headline == measure.id and loads.get(measure.workload) and not hits:
            found.append(Question("headline_does_not_load_it", measure.id, plan.change, measure.name))
    return tuple(found)


def too_few_for_steps(claims: Iterable[Measure], plan: Plan) -> list[Measure]:
    """
    List the claims that are felt, or work or don't, where the plan has too few sittings to settle any of them.

    Args:
        claims: the measures that the plan claims a change of.
        plan: a number of sittings has to be settled; without one nothing is asked.
    Source: docs/judgement.md, "Steps and outcomes".
    """
    most = plan.at_most or plan.sittings_a_side
    if most is None or most >= EXACT_SITTINGS:
        return []
    return [measure for measure in claims if measure.scale in STEPPED]


def has_two(plan: Plan) -> bool:
    """
    Whether a plan leaves it at two sittings a side.

    Args:
        plan: a number of sittings has to be settled; without one nothing is asked.
    """
    return (plan.at_most or plan.sittings_a_side) == 2


def _many(plan: Plan) -> bool:
    return (plan.sittings_a_side or 0) > 1


def question_proof(case: Case, time: BenchTime, price: Decimal | None) -> Question | None:
    """
    Hold what the hands of both sides cost against what the change costs.

    Args:
        time: of one side of the plan.
        price: of the change, in the currency of account; None where it is not known.
    Returns: None where the labour rate or the price is not known, or the proof costs less.
    """
    rate = case.machine.labour_rate
    if rate is None or price is None or price <= 0:
        return None
    hands = round_money(rate * Decimal(2 * time.at_hand_a_side) / 60, case.machine.currency)
    if hands <= price:
        return None
    return Question("proof_costs_more", hands=hands, price=price)


def question_swap(case: Case, swap: Swap) -> tuple[Question, ...]:
    """
    Ask about what differs between a swap's builds without being declared, and what is easily forgotten.

    Args:
        case: the machine.
        swap: one of its swaps.
    """
    differences = find_differences(case.build(swap.before), case.build(swap.after))
    found = [Question("undeclared_difference", d.key, difference=d) for d in find_undeclared(swap, differences)]
    changed = {difference.key for difference in differences}
    fresh = "part:thermal paste" in changed or bool({"fresh paste", "new pads"} & set(swap.side_changes))
    if asked_again := _headline_again(case, swap, [d.name for d in differences if d.kind != "setting"]):
        found.append(asked_again)
    if {"part:processor", "part:cooler"} & changed and not fresh:
        found.append(Question("paste_untouched"))
    if fresh and {"dust-out", "cleaned"} & set(swap.side_changes):
        found.append(Question("cleaning_with_paste"))
    return tuple(found)


def _headline_again(case: Case, swap: Swap, roles: list[str]) -> Question | None:
    """A plan made for another part than the one that changes: is its headline still what decides?"""
    planned = swap.plan.change
    expected: frozenset[str] = _CHANGED_ROLES[planned] if planned else frozenset()
    if not roles or not expected or expected & {*roles}:
        return None
    name = next((m.name for m in case.measures if m.id == swap.plan.headline), None)
    return Question("headline_again", change_of(roles[0]), planned, name, roles=tuple(roles))

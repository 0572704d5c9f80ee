"""Templates: a plan and a checklist for each kind of change, to be edited and kept."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from typing import get_args

from lynxbill.core.change.difference import Difference, is_opened
from lynxbill.core.plan.questions import loads_that_show
from lynxbill.core.record.frame import Frame
from lynxbill.core.record.ids import Plain
from lynxbill.core.record.plan import Change, Order, Plan, PlannedMeasure
from lynxbill.core.record.swap import Stage
from lynxbill.core.terms.measure import MeasureId, Role, usual_margin
from lynxbill.core.terms.money import CostKind

Steps = tuple[tuple[Stage, str], ...]


@dataclass(frozen=True, slots=True)
class Template:
    """Rests and soak in minutes; `costs` are the kinds of cost that are easily left out."""

    id: str
    name: str
    change: Change
    advice: str
    sittings_a_side: int = 3
    runs_a_sitting: int = 5
    warm_ups: int = 1
    rest_min: float = 1.0
    soak_min: float = 0.0
    order: Order = "before_then_after"
    conditions: Mapping[str, Plain] = field(default_factory=dict)
    steps: Steps = ()
    costs: tuple[CostKind, ...] = ("part", "shipping", "labour")
    recheck_months: int | None = None


_HELD: Mapping[str, Plain] = {"fan": "auto", "power_source": "mains", "background": "indexing and updates off"}
_OPENING: Steps = (
    ("before opening", "Data saved, and the copy opened once"),
    ("before opening", "Shut down, power lead out, button held ten seconds"),
    ("before opening", "Case touched, or wrist strap on"),
    ("before opening", "Pictures of every cable before it moves"),
)
_BATTERY: Steps = (("before opening", "Charger out, and the battery out or its lead off: it runs on without mains"),)
_NO_BATTERY = (None, "", "no", "none")
_CLOSING: Steps = (
    ("first start", "Fan leads back on their headers"),
    ("first start", "First start with the case open: does it show a picture?"),
    ("first start", "Date, boot order, memory and power settings as before"),
    ("first start", "No new message in the system's log"),
)
_COOLER_OFF: Steps = (
    ("case open", "Cooler warm, then turned a little before it is lifted"),
    ("case open", "Screws kept in the order they came"),
    ("case open", "Old paste off, both faces clean and dry"),
)
_COOLER_ON: Steps = (
    ("case open", "Paste on, as thin as it will cover"),
    ("case open", "Cooler tightened crosswise, a turn at a time"),
)

BUILT_IN: tuple[Template, ...] = (
    Template(
        id="processor",
        name="Processor",
        change="processor",
        advice="The paste changes with the processor. Fresh paste on the old one first, measured, keeps them apart.",
        conditions=_HELD,
        steps=(
            ("before opening", "Firmware new enough for the new processor"),
            *_OPENING,
            *_COOLER_OFF,
            ("case open", "Socket lever up, old processor out by its edges, into its tray"),
            ("case open", "New processor in by its corner mark, lever down without force"),
            *_COOLER_ON,
            *_CLOSING,
        ),
        costs=("part", "shipping", "consumable", "labour", "downtime", "electricity", "resale"),
        recheck_months=12,
    ),
    Template(
        id="memory",
        name="Memory",
        change="memory",
        advice="Name a task that overflows today's memory: where all fits already, more memory shows nothing.",
        conditions=_HELD,
        steps=(
            *_OPENING,
            ("case open", "Clips open at both ends, old modules out"),
            ("case open", "New modules in the slots that make a pair of channels"),
            ("case open", "Both clips closed by themselves"),
            *_CLOSING,
            ("first start", "Memory test ran through once"),
        ),
        costs=("part", "shipping", "labour", "downtime", "resale"),
    ),
    Template(
        id="drive",
        name="Drive",
        change="drive",
        advice="Clone and measure, then install afresh and measure: else the drive gets the fresh system's credit.",
        warm_ups=1,
        rest_min=2.0,
        conditions={**_HELD, "position": "same slot and same file system"},
        steps=(
            ("before opening", "Copy of the old drive made and checked"),
            *_OPENING,
            ("case open", "Lead and screw of the old drive off, drive out"),
            ("case open", "New drive seated, screw in, pad on if there was one"),
            *_CLOSING,
            ("first start", "Drive seen at its full size, rate and lanes"),
            ("first start", "Old drive put aside, not wiped before the verdict"),
        ),
        costs=("part", "shipping", "tool", "labour", "downtime", "resale"),
    ),
    Template(
        id="paste",
        name="Thermal paste",
        change="thermal paste",
        advice="Clean and measure, then paste and measure. One mount can't be told from remounting: mount twice.",
        runs_a_sitting=4,
        rest_min=5.0,
        soak_min=10.0,
        conditions={**_HELD, "ambient_low_c": 21, "ambient_high_c": 24},
        steps=(*_OPENING, *_COOLER_OFF, *_COOLER_ON, *_CLOSING),
        costs=("consumable", "tool", "labour"),
        recheck_months=12,
    ),
    Template(
        id="cooler",
        name="Cooler",
        change="cooler",
        advice="A fan in percent is not the same on another fan: note its speed or its sound.",
        runs_a_sitting=4,
        rest_min=5.0,
        soak_min=10.0,
        conditions={**_HELD, "ambient_low_c": 21, "ambient_high_c": 24},
        steps=(
            ("before opening", "Height and mount checked against the case and the socket"),
            *_OPENING,
            *_COOLER_OFF,
            ("case open", "New mount on, finger-tight all round first"),
            *_COOLER_ON,
            ("case open", "Fan blows the way the case does"),
            *_CLOSING,
        ),
        costs=("part", "shipping", "consumable", "tool", "labour", "resale"),
        recheck_months=12,
    ),
    Template(
        id="cleaning",
        name="Cleaning",
        change="cleaning",
        advice="Clean alone, and leave the paste for the next swap: together they can't be told apart.",
        runs_a_sitting=4,
        rest_min=5.0,
        soak_min=10.0,
        conditions={**_HELD, "ambient_low_c": 21, "ambient_high_c": 24},
        steps=(
            *_OPENING,
            ("case open", "Fans held still while air is blown through"),
            ("case open", "Fins, filters and supply clear"),
            *_CLOSING,
        ),
        costs=("consumable", "tool", "labour"),
        recheck_months=6,
    ),
    Template(
        id="settings",
        name="Setting",
        change="settings",
        advice="A setting can be flipped back: alternate A B B A, and slow drift falls out of the difference.",
        order="abba",
        conditions=_HELD,
        costs=("labour", "electricity"),
    ),
)


# Of these steps, those that need a part that comes out, and those that need one that goes in.
OF_OLD = frozenset(
    {
        "Socket lever up, old processor out by its edges, into its tray",
        "Clips open at both ends, old modules out",
        "Copy of the old drive made and checked",
        "Lead and screw of the old drive off, drive out",
        "Old drive put aside, not wiped before the verdict",
    }
)
OF_NEW = frozenset(
    {
        "Firmware new enough for the new processor",
        "New processor in by its corner mark, lever down without force",
        "New modules in the slots that make a pair of channels",
        "Both clips closed by themselves",
        "New drive seated, screw in, pad on if there was one",
        "Height and mount checked against the case and the socket",
        "New mount on, finger-tight all round first",
    }
)
_PLAIN = Template("plain", "Other part", "other", "", steps=(*_OPENING, *_CLOSING))
# What a tick says was done, as the change whose steps it takes.
_TICKED: Mapping[str, Change] = {
    "dust-out": "cleaning",
    "fresh paste": "thermal paste",
    "new pads": "thermal paste",
    "drive moved": "drive",
}


def checklist_of(differences: Iterable[Difference], side_changes: Iterable[str], battery: Plain = None) -> Steps:
    """
    Make the checklist of a swap from what really changes, whatever its plan was made for.

    Args:
        differences: between its two builds.
        side_changes: what was ticked as done besides.
        battery: the machine's own, as its limits have it; whatever is opened then begins with that.
    Returns: the steps of every change, each once, in the order of their stages; none where nothing is opened: the
        state that it is left in is looked at instead (`expect_of`).
    """
    differences, side_changes = tuple(differences), tuple(side_changes)
    if not is_opened(differences, side_changes):
        return ()
    # A part that was in it all along neither comes out nor goes in.
    changes: list[tuple[str, frozenset[str]]] = [(d.name, _left_out(d)) for d in differences if d.kind != "setting"]
    changes += [(_TICKED[tick], OF_OLD | OF_NEW) for tick in side_changes if tick in _TICKED]
    by_change: dict[str, Template] = {template.change: template for template in BUILT_IN}
    steps = dict.fromkeys(_BATTERY if battery not in _NO_BATTERY else ())
    for change, without in changes or [("other", frozenset())]:
        known = by_change.get(change, _PLAIN).steps
        steps |= dict.fromkeys(step for step in known if step[1] not in without)
    return tuple(step for stage in get_args(Stage) for step in steps if step[0] == stage)


def _left_out(difference: Difference) -> frozenset[str]:
    """
    The steps that a change does not have: of a new part where none goes in, of an old one where it goes in beside it.

    Where none of its kind was noted there was one all the same, and it comes out.
    """
    if difference.kind == "part out":
        return OF_NEW
    return OF_OLD if difference.kind == "part in" and difference.beside else frozenset()


def costs_of(change: Change | None) -> tuple[CostKind, ...]:
    """
    List the kinds of cost that a change usually has, and that are easily left out of its bill.

    Args:
        change: the kind of change, or None for any.
    """
    return next((known for known in BUILT_IN if known.change == change), _PLAIN).costs


def start_plan(change: Change, measures: Mapping[MeasureId, PlannedMeasure], headline: MeasureId | None) -> Plan:
    """
    Make the plan of a new job from what is to be changed: counts, conditions and order of its template.

    Args:
        measures: with the roles that they are given.
        headline: the claim by which the swap will be judged.
    """
    template = next((known for known in BUILT_IN if known.change == change), replace(_PLAIN, change=change))
    return _laid_over(Plan(measures=measures, headline=headline), template)


def quick_look(plan: Plan) -> Plan:
    """
    Make a plan as short as can be: one sitting a side, three runs, nothing waited for.

    Args:
        plan: the plan that is cut short.
    Returns: a plan that the guard judges, provisionally at best, and that can't grow once the old part is gone.
    """
    return replace(
        plan, sittings_a_side=1, at_most=None, runs_a_sitting=3, runs={}, warm_ups=0, rest_min=0.0, soak_min=0.0
    )


def apply_template(case: Frame, plan: Plan, template: Template) -> Plan:
    """
    Lay a template over a plan: counts, conditions and order from it, roles from what each workload loads.

    Args:
        case: the machine, for its measures and workloads.
        plan: the plan that stands.
        template: what is laid over it.
    Returns: the plan with every measure of the case in it that was not set aside. Measures of workloads that load the
        changed part become claims, others controls; where no workload says what it loads, roles stay. Margins and
        hopes stay.
    """
    roles = loads_that_show(template.change)
    loads = {workload.name: frozenset(workload.loads) for workload in case.workloads}
    known = bool(roles) and any(loads.values())
    measures, aside = dict[MeasureId, PlannedMeasure](), case.aside
    for measure in (known for known in case.measures if known.id not in aside):
        planned = plan.measures.get(measure.id) or PlannedMeasure("claim", usual_margin(measure.scale, measure.kind))
        of_workload = loads.get(measure.workload, frozenset())
        role: Role = planned.role
        if known and of_workload:
            role = "claim" if of_workload & roles else "control"
        measures[measure.id] = replace(planned, role=role)
    claims = [measure for measure, planned in measures.items() if planned.role == "claim"]
    headline = plan.headline if plan.headline in claims else next(iter(claims), None)
    return _laid_over(replace(plan, measures=measures, headline=headline), template)


def _laid_over(plan: Plan, template: Template) -> Plan:
    return replace(
        plan,
        change=template.change,
        sittings_a_side=template.sittings_a_side,
        runs_a_sitting=template.runs_a_sitting,
        warm_ups=template.warm_ups,
        rest_min=template.rest_min,
        soak_min=template.soak_min,
        order=template.order,
        # Where the change goes back and forth in minutes, a second look costs little and finds twice as much.
        at_most=2 * template.sittings_a_side if template.order in ("alternating", "abba") else None,
        conditions=dict(template.conditions),
    )

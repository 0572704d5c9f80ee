"""What was agreed before measuring: the one plan that holds for a pair of builds, and the looks that it grants."""

from dataclasses import dataclass, replace
from datetime import datetime

from lynxbill.core.plan.rivals import ALONE, Rivals, rivals_of
from lynxbill.core.record.frame import Case, Frame
from lynxbill.core.record.ids import BuildId
from lynxbill.core.record.ledger_entries import Showing
from lynxbill.core.record.plan import Plan, default_plan
from lynxbill.core.record.run import Sitting
from lynxbill.core.record.swap import Swap
from lynxbill.core.statistics.estimate import ALPHA
from lynxbill.core.terms.errors import BadValue

# Two looks share the error: each is judged at this level, which together comes to 5 %.
ALPHA_OF_TWO = 0.03
MOST_ATTEMPTS = 3


@dataclass(frozen=True, slots=True)
class Agreement:
    """
    By which rules two builds are compared.

    `before` and `after` stand in the direction of the plan; `mirrored` says that they were asked for the other way
    round. `swap` keeps the ledger (None: nobody could keep one). `first` and `second` are the units of the after-side
    that the looks need (None: no such look). `alpha` is that of a look, `alpha_any` that of the anytime rule.
    `rivals` were measured against the same baseline before: what of them is no other candidate halves the levels too.
    """

    before: BuildId
    after: BuildId
    swap: Swap | None
    plan: Plan
    mirrored: bool
    attempt: int
    first: int | None
    second: int | None
    alpha: float
    alpha_any: float
    whole: bool = False
    rivals: Rivals = ALONE

    @property
    def planned(self) -> bool:
        """Whether a look was planned; else the anytime rule holds throughout."""
        return self.first is not None

    @property
    def shown(self) -> tuple[Showing, ...]:
        """What the ledger holds of this very comparison, oldest first."""
        entries = self.swap.shown if self.swap is not None else None
        return tuple(e for e in entries or () if e.compared == self.compared and e.attempt == self.attempt)

    @property
    def shown_at(self) -> datetime | None:
        """When a verdict, a comparison or a chart of it, in whatever attempt, was first shown to somebody."""
        if self.swap is None:
            return None
        given = (e for e in self.swap.shown or () if e.compared == self.compared and e.attempt <= self.attempt)
        looked = (self.swap.looked_at,) if self.swap.looked_at is not None else ()
        return min((*looked, *(entry.at for entry in given)), default=None)

    @property
    def swapped_at(self) -> datetime | None:
        """When the swap was made, as it is dated; None without one, or where nobody said."""
        return (self.swap.opened_at or self.swap.closed_at) if self.swap is not None else None

    @property
    def compared(self) -> BuildId | None:
        """The build before, where the comparison is another one than its swap's own."""
        own = self.swap is not None and self.swap.before == self.before and self.swap.after == self.after
        return None if own else self.before

    def alpha_after(self, *, last_look_over: bool) -> float:
        """The level of the anytime rule's interval."""
        return self.alpha_any / 2 if last_look_over else self.alpha_any


def looks_of(plan: Plan, attempt: int = 1) -> tuple[int | None, int | None, float, float]:
    """
    Say what looks a plan grants.

    Args:
        attempt: 1, 2, 3 …: each time a comparison is measured over, or tried anew, its levels are halved.
    Returns: units a side of the first and second look (None: no such look), alpha of each look, and of the anytime
        rule.
    Source: docs/judgement.md, "Looks" and "Measured over".
    """
    share = 2.0 ** (attempt - 1)
    alpha = ALPHA_OF_TWO if plan.at_most is not None else ALPHA
    return plan.sittings_a_side, plan.at_most, alpha / share, ALPHA / share


def check_looks(first: int | None, second: int | None) -> None:
    """
    Refuse a second look that the first does not allow.

    Args:
        first, second: units a side; None: no such look.
    Raises:
        BadValue: no first look, or one of a single unit; or a second one that is no more, or more than twice as many
            and one.
    Source: docs/judgement.md, "Looks".
    """
    if second is None:
        return
    if first is None or first < 2:
        raise BadValue("A second look needs a first one of two sittings a side or more.", field="at_most")
    if not first < second <= 2 * first + 1:
        raise BadValue(
            f"{second} came; after a first look at {first} a side a second one has {first + 1} to {2 * first + 1}.",
            field="at_most",
        )


def agreement_of(case: Case, before: BuildId, after: BuildId) -> Agreement:
    """
    Find the plan that holds for two builds: that of the first swap between them, in either direction.

    Args:
        before, after: ids of two builds of the case.
    Returns: builds that no swap joins are judged by the margins and roles of the plan into the later one, without a
        look, unless a plan named in advance that the whole is judged too.
    Source: docs/judgement.md, "One plan for a pair of builds".
    """
    direct = case.swap_between(before, after)
    whole = next((s for s in case.swaps if s.plan.judge_whole in (before, after) and _joins(s, before, after)), None)
    swap = direct or whole
    if swap is None:
        return _unplanned(case, before, after)
    first_build = swap.before if direct else swap.plan.judge_whole or swap.before
    rivals = rivals_of(case, swap) if direct else ALONE
    found = _agree(
        swap, swap.plan, first_build, swap.after, mirrored=first_build != before, whole=direct is None, rivals=rivals
    )
    read = first_reading(case, found.after)
    too_late = swap.opened_at is not None and read is not None and read < swap.opened_at
    return replace(found, first=None, second=None) if too_late else found


def first_of_chain(frame: Frame, before: BuildId) -> BuildId | None:
    """
    Find the build that a machine began with, where swaps led from it to this one already.

    Args:
        frame: the machine without its runs.
        before: the build that a next swap begins with.
    Returns: what the whole is judged against from the second stage on; None where it would be the stage itself.
    """
    first = frame.builds[0].id
    return first if before != first and frame.swaps_between(first, before) else None


def _joins(swap: Swap, one: BuildId, other: BuildId) -> bool:
    return {swap.plan.judge_whole, swap.after} == {one, other}


def _unplanned(case: Case, before: BuildId, after: BuildId) -> Agreement:
    place = {build.id: number for number, build in enumerate(case.builds)}
    mirrored = place[before] > place[after]
    older, newer = (after, before) if mirrored else (before, after)
    swap = case.step_into(older, newer) or case.step_into(newer, older)
    plan = swap.plan if swap else default_plan(case.measures)
    found = _agree(swap, plan, older, newer, mirrored=mirrored, whole=False)
    return replace(found, first=None, second=None, attempt=1)


def _agree(
    swap: Swap | None,
    plan: Plan,
    before: BuildId,
    after: BuildId,
    *,
    mirrored: bool,
    whole: bool,
    rivals: Rivals = ALONE,
) -> Agreement:
    attempt = swap.attempt if swap is not None else 1
    plan = _first_margins(plan, swap) if swap is not None else plan
    # What a further attempt asks for anew stands in place of the plan's own numbers.
    anew = swap.attempts[-1] if swap is not None and swap.attempts else None
    if anew is not None and anew.sittings_a_side is not None:
        plan = replace(plan, sittings_a_side=anew.sittings_a_side, at_most=anew.at_most)
    first, second, alpha, alpha_any = looks_of(plan, attempt + rivals.attempts)
    return Agreement(before, after, swap, plan, mirrored, attempt, first, second, alpha, alpha_any, whole, rivals)


def _first_margins(plan: Plan, swap: Swap) -> Plan:
    """A margin that was changed after readings decides nothing: the first one does."""
    measures = dict(plan.measures)
    for edit in reversed(swap.margin_edits):
        if edit.late and edit.field == "matters_from" and edit.old is not None and edit.measure in measures:
            measures[edit.measure] = replace(measures[edit.measure], matters_from=edit.old)
    return replace(plan, measures=measures)


def first_reading(case: Case, build: BuildId, *, attempt: int = 1) -> datetime | None:
    """
    Say when the first reading ever of a build was written, by any sitting of it, whether or not it was emptied since.

    Args:
        attempt: sittings of earlier attempts don't count.
    Returns: where that was not kept, when its run or its sitting began; None without a reading.
    """
    sittings: dict[str, Sitting] = {s.id: s for s in case.sittings_of(build) if s.attempt >= attempt}
    written = (
        run.written_at or run.started_at or sittings[run.sitting_id].started_at
        for run in case.runs
        if run.sitting_id in sittings and (run.written_at is not None or run.readings)
    )
    return min(written, default=None)


def plan_between(frame: Frame, before: BuildId, after: BuildId) -> Plan | None:
    """
    Find the plan that two builds are compared by, whether or not it grants a look; None without any swap.

    Args:
        frame: the machine without its runs.
        before, after: ids of two of its builds.
    """
    swap = frame.swap_between(before, after) or frame.step_into(before, after) or frame.step_into(after, before)
    return swap.plan if swap else None

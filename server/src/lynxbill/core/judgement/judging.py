"""From readings to verdicts: every measure of two builds, at the times its plan grants, in every reading of them."""

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import product
from typing import Literal

from lynxbill.core.judgement.late import variants_of
from lynxbill.core.judgement.ledger import SETTLED, of_measure, still_holds
from lynxbill.core.judgement.looks import Bench, Chosen, choose_look, choose_shown, is_more
from lynxbill.core.judgement.pairing import pair_runs
from lynxbill.core.judgement.ruling import Ruling, Terms, rule_on
from lynxbill.core.judgement.sitting import LeftOut, Readable, Sides, cut_sides, room_came_late, with_late_rooms
from lynxbill.core.judgement.spread import pool_spread
from lynxbill.core.judgement.verdict import CALLED, WAITING, Remark, Verdict, block_by_family
from lynxbill.core.plan.agreement import Agreement, first_reading
from lynxbill.core.reading.counting import compared_sittings, group_runs
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import BuildId
from lynxbill.core.record.ledger_entries import Showing
from lynxbill.core.record.plan import Plan, PlannedMeasure
from lynxbill.core.statistics.estimate import ALPHA
from lynxbill.core.statistics.families import adjust_families
from lynxbill.core.statistics.scatter import NO_SCATTER, Scatter
from lynxbill.core.terms.measure import Measure, MeasureId, usual_margin

# When a verdict may come: at the plan's looks, or by the anytime rule before, between and after them.
Stage = Literal["early", "first look", "between", "second look", "after"]
STAGES: tuple[Stage, ...] = ("early", "first look", "between", "second look", "after")
# A room that was given when the readings were known is believed to no better than this.
LATE_ROOM_K = 1.0
_LOOKS: Mapping[int, Stage] = {1: "first look", 2: "second look"}


@dataclass(frozen=True, slots=True)
class Time:
    """One time at which a measure is judged: what each reading of the evidence takes (None: it waits there)."""

    stage: Stage
    terms: Terms
    chosen: tuple[Chosen | None, ...]
    holds: bool = False


@dataclass(frozen=True, slots=True)
class Judged:
    """
    The ruling on a measure; `with_late` is that of the evidence with all that was taken out or changed late, where it
    is another one, and `late` the runs that were. `closed_short`: nothing was but that a sitting was closed short.
    """

    measure: Measure
    planned: PlannedMeasure
    ruling: Ruling
    with_late: Ruling | None = None
    late: tuple[LeftOut, ...] = ()
    closed_short: bool = False


def planned_as(plan: Plan, measure: Measure) -> PlannedMeasure:
    """
    Say what a plan makes of a measure; one that it does not name is watched.

    Args:
        plan: the plan that both sides are compared by.
        measure: the measure asked.
    """
    return plan.measures.get(measure.id) or PlannedMeasure("watch", usual_margin(measure.scale, measure.kind))


def judge_pair(case: Case, agreement: Agreement, *, beside: float | None = None) -> tuple[Judged, ...]:
    """
    Judge every measure that was planned or measured on two builds.

    Args:
        case: with the runs of both builds, and of those that lend their scatter.
        agreement: by which rules.
        beside: p of the headline in the comparison that is judged along with this one (step and total); None where
            it stands alone.
    Returns: in the case's order of measures, in the direction of the plan.
    Source: docs/judgement.md, "Verdict" to "Looking at other times".
    """
    court = _Court(case, agreement, beside)
    return tuple(court.judge())


class _Court:
    """One comparison: its variants, and what each measure has in them."""

    def __init__(self, case: Case, agreement: Agreement, beside: float | None):
        self.case, self.agreement, self.beside = case, agreement, beside
        self.plan = agreement.plan
        found = variants_of(case, agreement)
        self.variants, self.touched, self.short = found.all, found.touched, found.short
        after_read = first_reading(case, agreement.after, attempt=agreement.attempt)
        self.benches = [Bench(after_read, agreement.swapped_at, variant.order) for variant in self.variants]
        here = {s.id for variant in self.variants for s in (*variant.before, *variant.after)}
        measured = {run.workload for run in case.runs if run.sitting_id in here}
        self.measures = [m for m in case.measures if m.id in self.plan.measures or m.workload in measured]
        self.planned = {m.id: planned_as(self.plan, m) for m in self.measures}
        # As noted by now, in whatever variant: a room that is given at last lifts the cap on temperatures.
        self.roomless = {sitting.id for sitting in case.sittings if sitting.ambient_c is None}

    def judge(self) -> Iterable[Judged]:
        times = {measure.id: list(self._times(measure)) for measure in self.measures}
        rulings = [self._in_variant(number, times) for number in range(len(self.variants))]
        for measure in self.measures:
            of_variants = [ruling[measure.id] for ruling in rulings]
            ruling = most_cautious(of_variants, [variant.merge_answered for variant in self.variants])
            with_late = of_variants[0] if len(self.variants) > 1 and measure.workload in self.touched else None
            late = tuple(item for item in of_variants[-1].sides.left_out if item.why in ("late", "short"))
            closed_short = with_late is not None and measure.workload in self.short
            yield Judged(
                measure, self.planned[measure.id], ruling, with_late, late if with_late else (), closed_short
            )

    def _in_variant(self, number: int, times: Mapping[MeasureId, list["_Prepared"]]) -> dict[MeasureId, Ruling]:
        """Judge stage by stage: what settles first stands, and counts as found in the families of later ones."""
        settled: dict[MeasureId, Ruling] = {}
        latest: dict[MeasureId, Ruling] = {}
        for stage in STAGES:
            here: dict[MeasureId, Ruling] = {}
            held: set[MeasureId] = set()
            for measure, prepared in times.items():
                for time in prepared:
                    if time.time.stage != stage or measure in settled or measure in held:
                        continue
                    if time.time.terms.look is None and time.time.chosen[number] is None:
                        continue
                    ruling = time.rule(number)
                    if measure in latest and not _says_more(ruling):
                        continue
                    here[measure] = ruling
                    if time.time.holds and ruling.verdict.word in SETTLED:
                        held.add(measure)
            for measure, ruling in self._within_families(here, settled, held).items():
                latest[measure] = ruling
                if ruling.verdict.word in SETTLED:
                    settled[measure] = ruling
        return latest | settled

    def _within_families(
        self, here: Mapping[MeasureId, Ruling], settled: Mapping[MeasureId, Ruling], held: set[MeasureId]
    ) -> dict[MeasureId, Ruling]:
        """Hold each p against all that are tested with it, found ones and those not tested yet included."""
        if not here:
            return {}
        tested = {}
        for measure, planned in self.plan.measures.items():
            p = 1.0
            if measure in here and (own := here[measure].p) is not None:
                # Levels differ where measures are at different looks: each p as a share of its own level.
                p = min(1.0, own * ALPHA / here[measure].terms.alpha)
            if measure in held or (measure in settled and settled[measure].verdict.word in CALLED):
                p = 0.0
            if planned.role != "watch":
                tested[measure] = planned.role, p
        adjusted = adjust_families(tested, self.plan.headline, beside=self.beside)
        return {
            measure: ruling if measure in held else _adjust(ruling, adjusted.get(measure))
            for measure, ruling in here.items()
        }

    def _times(self, measure: Measure) -> Iterable["_Prepared"]:
        readables = [variant.read(measure, self.plan) for variant in self.variants]
        borrowed = borrowed_spread(self.case, self.agreement, measure)
        for time in self._granted(measure, readables):
            yield _Prepared(self, measure, time, readables, borrowed)

    def _granted(self, measure: Measure, readables: Sequence[Readable]) -> Iterable[Time]:
        agreement = self.agreement
        looks = [(1, agreement.first), (2, agreement.second)]
        due = [
            (number, chosen)
            for number, units in looks
            if units is not None and (chosen := self._look(readables, units)) is not None
        ]
        passed = {number for number, _ in due}
        is_over = agreement.planned and (2 if agreement.second else 1) in passed
        yield from self._shown(measure, readables)
        for number, chosen in due:
            holds = self._stood(measure, number)
            waiting: Remark = "waits_for_sitting"
            yield Time(_LOOKS[number], Terms(number, agreement.alpha, waiting=waiting), chosen, holds)
        last = due[-1][1] if due else None
        everything = tuple(
            (readable.before, readable.after) if taken is None or is_more(readable, taken) else None
            for readable, taken in zip(readables, last or (None,) * len(readables), strict=True)
        )
        if not any(everything):
            return
        stage: Stage = "early" if last is None else "after" if is_over else "between"
        waiting = "added_after_verdict" if is_over else "awaits_second_look" if due else "plan_incomplete"
        yield Time(stage, Terms(None, agreement.alpha_any, is_over, waiting), everything)

    def _look(self, readables: Sequence[Readable], units: int) -> tuple[Chosen | None, ...] | None:
        """What each variant takes at a look; None where it is not due in every one that keeps what was late."""
        taken: dict[bool, Chosen] = {}
        for variant, bench, readable in zip(self.variants, self.benches, readables, strict=True):
            if variant.with_late:
                chosen = choose_look(readable, self.agreement, bench, units)
                if chosen is None:
                    return None
                taken[variant.merge_answered] = chosen
        return tuple(
            taken[variant.merge_answered]
            if variant.with_late
            else choose_look(readable, self.agreement, bench, units, beside=taken[variant.merge_answered])
            for variant, bench, readable in zip(self.variants, self.benches, readables, strict=True)
        )

    def _shown(self, measure: Measure, readables: Sequence[Readable]) -> Iterable[Time]:
        """Verdicts of the anytime rule that were given to somebody: what settled then stands."""
        for entry in of_measure(self.agreement.shown, measure):
            if entry.look is None and entry.verdict in SETTLED:
                chosen = tuple(choose_shown(readable, entry.sittings) for readable in readables)
                holds = still_holds(self.case, measure, entry, self.plan.runs_of(measure.workload))
                stage = self._stage_of(entry, readables[0])
                terms = Terms(None, self.agreement.alpha_any, stage == "after")
                yield Time(stage, terms, chosen, holds)

    def _stage_of(self, entry: Showing, readable: Readable) -> Stage:
        if not self.agreement.planned:
            return "early"
        after = sum(any(s.id in entry.sittings for s in boot) for boot in readable.after)
        first, second = self.agreement.first or 0, self.agreement.second
        if after < first:
            return "early"
        return "between" if second is not None and after < second else "after"

    def _stood(self, measure: Measure, look: int) -> bool:
        """Whether the ledger holds a verdict of this look on the evidence as it is."""
        entries = (e for e in of_measure(self.agreement.shown, measure) if e.look == look and e.verdict in SETTLED)
        wanted = self.plan.runs_of(measure.workload)
        return any(entry.digest and still_holds(self.case, measure, entry, wanted) for entry in entries)


@dataclass(frozen=True, slots=True)
class _Prepared:
    """A time of one measure, to be ruled on in any of the variants."""

    court: _Court
    measure: Measure
    time: Time
    readables: Sequence[Readable]
    borrowed: Scatter

    def rule(self, variant: int) -> Ruling:
        chosen = self.time.chosen[variant]
        readable = self.readables[variant]
        waits = chosen is None
        boots = chosen if chosen is not None else (readable.before, readable.after)
        ruling = self._rule_on(readable, boots)
        if waits:
            return replace(ruling, verdict=Verdict("not_settled", "waits_for_sitting"))
        found = ruling.verdict.word in SETTLED or ruling.verdict.remark in ("too_wide", "too_few_sittings")
        if found and self.measure.unit == "Cel" and self._lacks_a_room(ruling.sides):
            return replace(ruling, verdict=Verdict("not_settled", "room_unknown"))
        return self._whatever_the_rooms(readable, boots, ruling) if found and ruling.sides.above_room else ruling

    def _rule_on(self, readable: Readable, boots: Chosen, shifts: tuple[float, float] = (0.0, 0.0)) -> Ruling:
        court = self.court
        before, after = (with_late_rooms(side, shift) for side, shift in zip(boots, shifts, strict=True))
        sides = cut_sides(readable, before, after)
        # Rooms that were given when the readings were known may not choose which sittings are set against each other.
        is_late = any(room_came_late(sitting) for side in boots for boot in side for sitting in boot)
        pair_by = "order" if is_late and court.plan.pair_by == "ambient" else court.plan.pair_by
        pairing = pair_runs(sides, pair_by, court.plan.pairs)
        planned = court.planned[self.measure.id]
        return rule_on(sides, pairing, self.measure, planned, court.plan, self.time.terms, self.borrowed)

    def _whatever_the_rooms(self, readable: Readable, boots: Chosen, ruling: Ruling) -> Ruling:
        """Hold a verdict against late rooms: it has to stand with those of each side 1 K higher and lower."""
        late = [any(room_came_late(sitting) for boot in side for sitting in boot) for side in boots]
        if not any(late):
            return ruling
        before, after = ((-LATE_ROOM_K, LATE_ROOM_K) if side else (0.0,) for side in late)
        others = [self._rule_on(readable, boots, shifts) for shifts in product(before, after)]
        if any(other.verdict.word != ruling.verdict.word for other in others):
            return replace(ruling, verdict=Verdict("not_settled", "room_unknown"))
        p = max((one.p for one in (ruling, *others) if one.p is not None), default=None)
        interval = ruling.interval
        return ruling if interval is None else replace(ruling, interval=replace(interval, p=p))

    def _lacks_a_room(self, sides: Sides) -> bool:
        """Whether a warm day can't be told from a warm part: a verdict on temperatures waits for every room."""
        return any(sitting.id in self.court.roomless for unit in sides.units for sitting in unit.sittings)


def _says_more(ruling: Ruling) -> bool:
    """Whether a later time says anything: what is added to a look says nothing where the anytime rule can't speak."""
    return ruling.terms.look is not None or (ruling.interval is not None and ruling.interval.basis == "anytime")


def borrowed_spread(case: Case, agreement: Agreement, measure: Measure) -> Scatter:
    """
    Pool the scatter of the sittings of earlier builds, only where the plan names them.

    Args:
        case: the machine.
        agreement: what was agreed before measuring, with the builds that lend.
        measure: whose scatter; on its oriented scale.
    """
    builds = agreement.plan.borrow_spread_from
    if not builds:
        return NO_SCATTER
    lent = [compared_sittings(case, BuildId(build)) for build in builds]
    beside = compared_sittings(case, agreement.before) + compared_sittings(case, agreement.after)
    return pool_spread(group_runs(case.runs), measure, agreement.plan, lent, beside)


def _adjust(ruling: Ruling, adjusted: float | None) -> Ruling:
    if adjusted is None or ruling.p is None:
        return ruling
    verdict = block_by_family(ruling.verdict, adjusted, ALPHA)
    return replace(ruling, verdict=verdict, p_adjusted=min(1.0, adjusted * ruling.terms.alpha / ALPHA))


def most_cautious(rulings: Sequence[Ruling], merged: Sequence[bool]) -> Ruling:
    """
    Put the rulings of all readings of the evidence together.

    Args:
        rulings: "with" first, then "without"; merged: whether each took answered boots for true.
    Returns: where they differ in their word, not settled; else test and interval of the larger p, for "no change" of
        the wider interval, with the units and the estimate of the one that found the smaller change; provisional if
        any is.
    Source: docs/judgement.md, "Late changes".
    """
    if len(rulings) == 1:
        return rulings[0]
    if len({ruling.verdict.word for ruling in rulings}) > 1:
        return _undecided(rulings, merged)
    # The evidence as it stands now comes last, and is what is shown where the others say no more.
    if rulings[0].verdict.word == "no_change":
        chosen = max(rulings, key=_width)
    else:
        chosen = max(reversed(rulings), key=lambda ruling: ruling.p if ruling.p is not None else -1.0)
    return replace(_led_by(chosen, _smallest(rulings)), provisional=any(ruling.provisional for ruling in rulings))


def _smallest(rulings: Sequence[Ruling]) -> Ruling:
    """The ruling that found the smallest change; the evidence as it stands now among equal ones."""
    return min(reversed(rulings), key=lambda ruling: math.inf if ruling.estimate is None else abs(ruling.estimate))


def _led_by(chosen: Ruling, smaller: Ruling) -> Ruling:
    """Test, interval and verdict of one ruling, led by the smaller change that another reading of it found."""
    # What waits for a verdict found nothing yet: all that there is of it is shown.
    waits = any(ruling.verdict.remark in WAITING for ruling in (chosen, smaller))
    if waits or chosen.estimate is None or smaller.estimate is None or abs(smaller.estimate) >= abs(chosen.estimate):
        return chosen
    interval = chosen.interval
    if interval is not None:
        interval = replace(interval, estimate=smaller.estimate)
    return replace(chosen, sides=smaller.sides, pairing=smaller.pairing, estimate=smaller.estimate, interval=interval)


def _width(ruling: Ruling) -> float:
    return ruling.interval.high - ruling.interval.low if ruling.interval is not None else 0.0


def _undecided(rulings: Sequence[Ruling], merged: Sequence[bool]) -> Ruling:
    waits = any(ruling.verdict.remark == "waits_for_sitting" for ruling in rulings)
    by_boots = {
        merge: {r.verdict.word for r, m in zip(rulings, merged, strict=True) if m is merge} for merge in (True, False)
    }
    only_boots = all(len(words) <= 1 for words in by_boots.values())
    remark: Remark = "waits_for_sitting" if waits else "rests_on_boots" if only_boots else "rests_on_left_out"
    open_ones = [ruling for ruling in rulings if ruling.verdict.word not in SETTLED]
    chosen = max(open_ones or list(rulings), key=lambda ruling: ruling.p if ruling.p is not None else -1.0)
    word: Literal["not_settled"] = "not_settled"
    return replace(
        _led_by(chosen, _smallest(rulings)),
        verdict=Verdict(word, remark),
        provisional=any(ruling.provisional for ruling in rulings),
    )

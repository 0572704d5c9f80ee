"""Late changes and what is free of them: how the evidence stood before, and in how many ways it has to be read."""

from dataclasses import replace
from datetime import datetime, timedelta
from typing import Any

import pytest

from lynxbill.core.judgement.judging import judge_pair, most_cautious
from lynxbill.core.judgement.late import Variants, variants_of
from lynxbill.core.judgement.ruling import Ruling
from lynxbill.core.judgement.verdict import Verdict
from lynxbill.core.plan.agreement import agreement_of
from lynxbill.core.record.frame import Case
from lynxbill.core.record.plan import PlannedMeasure
from lynxbill.core.record.run import LateExclusion, Reading, Run, SetAside, Sitting, Was
from lynxbill.core.result.comparison import judge_measures
from lynxbill.core.terms.measure import MeasureId, Role
from tests.builders import DAY, TIME, B, C, make_case, make_run

LATER = DAY + timedelta(days=500)
SLOW = [[40.0, 40.2, 40.1], [40.3, 40.1, 40.2], [40.1, 40.0, 40.2]]
FAST = [[30.0, 30.2, 30.1], [30.3, 30.1, 30.2], [30.1, 30.0, 30.2]]
MEMBER = f"readings.{TIME.id}"


def read(case: Case) -> Variants:
    return variants_of(case, agreement_of(case, B, C))


def with_run(case: Case, run_id: str, **fields: Any) -> Case:
    return replace(case, runs=tuple(replace(r, **fields) if r.id == run_id else r for r in case.runs))


def with_sitting(case: Case, sitting_id: str, **fields: Any) -> Case:
    sittings = tuple(replace(s, **fields) if s.id == sitting_id else s for s in case.sittings)
    return replace(case, sittings=sittings)


def run_in(variants: Variants, number: int, run_id: str) -> Run:
    here = [run for runs in variants.all[number].groups.values() for run in runs]
    return next(run for run in here if run.id == run_id)


def sitting_in(variants: Variants, number: int, sitting_id: str) -> Sitting | None:
    variant = variants.all[number]
    return next((s for s in (*variant.before, *variant.after) if s.id == sitting_id), None)


def was(member: str, value: Any, at: datetime = LATER) -> Was:
    return Was(member, value, at, "hand", "")


def reading(value: float) -> dict[Any, Reading]:
    return {TIME.id: Reading(value, value)}


def test_evidence_that_nobody_touched_is_read_in_one_way() -> None:
    variants = read(make_case(SLOW, FAST))
    assert [variant.with_late for variant in variants.all] == [True]
    assert (variants.touched, variants.boots_answered) == (frozenset(), False)


@pytest.mark.parametrize(
    ("member", "old", "new"),
    [
        ("state", "complete", "spoiled"),
        ("workload_version", "0", "1"),
        ("parameters", {"threads": 4}, {"threads": 8}),
        ("target", "first drive", "second drive"),
        ("warm_up", True, False),
        ("pair_label", "one", "two"),
        ("position", 3, 2),
        ("started_at", DAY, DAY + timedelta(days=101, hours=2)),
    ],
)
def test_whatever_of_a_run_is_changed_late_stands_as_before_in_one_reading(member: str, old: Any, new: Any) -> None:
    variants = read(with_run(make_case(SLOW, FAST), "C1-2", **{member: new}, was=(was(member, old),)))
    assert [variant.with_late for variant in variants.all] == [True, False]
    assert getattr(run_in(variants, 0, "C1-2"), member) == old
    assert getattr(run_in(variants, 1, "C1-2"), member) == new
    assert variants.touched == {"job"}


def test_a_sitting_brought_to_the_build_that_was_fitted_was_only_put_down_wrong() -> None:
    case = make_case(SLOW, FAST)
    moved = was("build_id", case.swaps[0].before)
    before_it = DAY - timedelta(days=1)

    def variants(closed_at: datetime) -> Variants:
        swaps = tuple(replace(swap, closed_at=closed_at) for swap in case.swaps)
        return read(with_sitting(replace(case, swaps=swaps), "C1", was=(moved,)))

    assert [variant.with_late for variant in variants(before_it).all] == [True]
    assert [variant.with_late for variant in variants(LATER).all] == [True, False]


@pytest.mark.parametrize(
    ("member", "old", "new"),
    [
        ("started_at", DAY, DAY + timedelta(days=101)),
        ("ambient_c", 21.0, 24.0),
        ("boot", "C0", "C1"),
        ("boot_by", "answered", "read"),
        ("boot", None, "C1"),
    ],
)
def test_whatever_of_a_sitting_is_changed_late_stands_as_before_in_one_reading(
    member: str, old: Any, new: Any
) -> None:
    variants = read(with_sitting(make_case(SLOW, FAST), "C1", **{member: new}, was=(was(member, old),)))
    then, now = sitting_in(variants, 0, "C1"), sitting_in(variants, 1, "C1")
    assert (getattr(then, member), getattr(now, member)) == (old, new)


@pytest.mark.parametrize(("member", "old", "new"), [("purpose", "plan", "trial"), ("build_id", C, "D")])
def test_a_sitting_that_was_moved_out_of_the_comparison_late_stays_in_one_reading(
    member: str, old: Any, new: Any
) -> None:
    variants = read(with_sitting(make_case(SLOW, FAST), "C1", **{member: new}, was=(was(member, old),)))
    assert sitting_in(variants, 0, "C1") is not None
    assert sitting_in(variants, 1, "C1") is None


def test_of_several_late_changes_the_first_is_what_is_undone() -> None:
    twice = (was("warm_up", True), was("warm_up", False, LATER + timedelta(days=1)))
    variants = read(with_run(make_case(SLOW, FAST), "B0-1", warm_up=False, was=twice))
    assert run_in(variants, 0, "B0-1").warm_up


def test_the_room_may_be_noted_while_the_sitting_is_open() -> None:
    case = make_case(SLOW, FAST)
    closed = next(s.closed_at for s in case.sittings if s.id == "C1")
    assert closed is not None
    entry = was("ambient_c", None, closed - timedelta(minutes=1))
    assert len(read(with_sitting(case, "C1", ambient_c=22.0, was=(entry,))).all) == 1


def test_a_boot_may_be_noted_while_the_sitting_is_open_and_not_changed() -> None:
    case = with_sitting(make_case(SLOW, FAST), "C1", closed_at=None)
    assert len(read(with_sitting(case, "C1", was=(was("boot", None), was("boot_by", None)))).all) == 1
    variants = read(with_sitting(case, "C1", was=(was("boot", "C0"),)))
    then = sitting_in(variants, 0, "C1")
    assert then is not None
    assert then.boot == "C0"


def test_a_room_that_was_never_noted_may_be_given_late_once_and_not_changed_after() -> None:
    first, second = was("ambient_c", None), was("ambient_c", 22.0, LATER + timedelta(days=1))
    assert len(read(with_sitting(make_case(SLOW, FAST), "C1", ambient_c=22.0, was=(first,))).all) == 1
    variants = read(with_sitting(make_case(SLOW, FAST), "C1", ambient_c=27.0, was=(first, second)))
    given = sitting_in(variants, 0, "C1")
    assert given is not None
    assert given.ambient_c == 22.0


def test_set_aside_or_excluded_late_it_stays_in_one_reading_and_measured_over_it_goes_from_both() -> None:
    case = make_case(SLOW, FAST)
    aside = SetAside("a fan rattled", LATER)
    variants = read(with_sitting(case, "C2", set_aside=aside))
    assert [sitting_in(variants, number, "C2") is None for number in (0, 1)] == [False, True]
    over = read(with_sitting(case, "C2", set_aside=replace(aside, over=True)))
    assert [sitting_in(over, number, "C2") for number in range(len(over.all))] == [None]
    excluded = read(with_run(case, "C2-1", excluded_late=LateExclusion("odd")))
    assert [run_in(excluded, number, "C2-1").excluded_late is None for number in (0, 1)] == [True, False]


def left_out(case: Case, run_id: str, *, at: datetime | None = None) -> Case:
    """A run left out by hand, as a rule in the same save as its reading."""
    return with_run(case, run_id, state="spoiled", reason="a window opened", written_at=DAY, left_out_at=at or DAY)


def test_one_run_a_build_may_be_left_out_in_the_save_that_brings_it_and_no_second() -> None:
    once = left_out(make_case([[*s, 40.1] for s in SLOW], FAST), "B0-1")
    assert len(read(once).all) == 1
    variants = read(left_out(once, "B1-1"))
    assert [run_in(variants, 0, run).state for run in ("B0-1", "B1-1")] == ["spoiled", "complete"]
    # The other side has one of its own.
    assert len(read(left_out(once, "C0-1")).all) == 1


def test_a_run_left_out_after_its_reading_was_written_is_late_at_once() -> None:
    variants = read(left_out(make_case(SLOW, FAST), "B0-1", at=DAY + timedelta(seconds=1)))
    assert [run_in(variants, number, "B0-1").state for number in (0, 1)] == ["complete", "spoiled"]


def test_a_failed_run_that_never_had_a_reading_is_no_late_change() -> None:
    failed = with_run(make_case(SLOW, FAST), "C1-1", state="failed", reason="it hung", readings={}, left_out_at=LATER)
    assert len(read(failed).all) == 1


def corrected(case: Case, run_id: str, old: float, new: float, at: datetime = LATER) -> Case:
    return with_run(case, run_id, readings=reading(new), was=(was(MEMBER, Reading(old, old), at),))


@pytest.mark.parametrize(
    ("old", "new", "is_slip"),
    [
        (301.0, 30.1, True),
        (3.01, 30.1, True),
        (60.7, 30.1, True),
        # Nearer than a factor of two: somebody may have read it so.
        (60.0, 30.1, False),
        (31.0, 30.1, False),
        # The new value lies outside of the others.
        (301.0, 29.9, False),
        (301.0, 30.4, False),
    ],
)
def test_one_slip_of_the_pen_may_be_mended(old: float, new: float, is_slip: bool) -> None:
    variants = read(corrected(make_case(SLOW, FAST), "C1-2", old, new))
    assert len(variants.all) == (1 if is_slip else 2)
    shown = run_in(variants, 0, "C1-2").readings[TIME.id].value
    assert shown == (new if is_slip else old)


def test_a_slip_is_far_from_three_of_the_others_at_least() -> None:
    for far, is_slip in ((2, False), (3, True)):
        after = [[20.0] * far + [31.0, 40.0]]
        variants = read(corrected(make_case(SLOW, after), f"C0-{far + 1}", 60.0, 31.0))
        assert len(variants.all) == (1 if is_slip else 2)


def test_a_second_slip_on_the_same_side_is_a_late_change_and_on_the_other_side_none() -> None:
    once = corrected(make_case(SLOW, FAST), "C1-2", 301.0, 30.1)
    assert len(read(corrected(once, "B1-2", 401.0, 40.1)).all) == 1
    variants = read(corrected(once, "C2-2", 301.0, 30.1))
    kept = [run_in(variants, 0, run).readings[TIME.id].value for run in ("C1-2", "C2-2")]
    assert kept == [30.1, 301.0]


def test_what_is_corrected_before_the_sitting_is_closed_is_no_late_change() -> None:
    case = make_case(SLOW, FAST)
    closed = next(s.closed_at for s in case.sittings if s.id == "C1")
    assert closed is not None
    assert len(read(corrected(case, "C1-2", 31.0, 30.1, closed)).all) == 1
    assert len(read(corrected(case, "C1-2", 31.0, 30.1, closed + timedelta(seconds=1))).all) == 2
    still_open = with_sitting(corrected(case, "C1-2", 31.0, 30.1), "C1", closed_at=None)
    assert len(read(still_open).all) == 1


OPEN = DAY + timedelta(days=101, minutes=1)
MINUTE = timedelta(minutes=1)


def typed(case: Case, sitting: str, *, every: timedelta = 5 * MINUTE) -> Case:
    """The runs of an open sitting, written one after another."""
    case = with_sitting(case, sitting, closed_at=None)
    for number in (1, 2, 3):
        case = with_run(case, f"{sitting}-{number}", written_at=OPEN + (number - 1) * every)
    return case


def changed(case: Case, run_id: str, *entries: tuple[Reading | None, datetime], now: Reading | None) -> Case:
    past = tuple(was(MEMBER, old, at) for old, at in entries)
    return with_run(case, run_id, readings={} if now is None else {TIME.id: now}, was=past)


def test_a_figure_may_be_typed_anew_until_the_next_one_is_saved_and_one_a_side_after_it() -> None:
    case = typed(make_case(SLOW, FAST), "C1")
    right, wrong, mended = OPEN + MINUTE, Reading(33.0, 33.0), Reading(30.1, 30.1)
    at_once = changed(case, "C1-1", (wrong, right), (Reading(32.0, 32.0), right), now=mended)
    at_once = changed(at_once, "C1-2", (wrong, right + 5 * MINUTE), now=mended)
    assert len(read(at_once).all) == 1
    once = changed(at_once, "C1-3", (wrong, OPEN + 11 * MINUTE), now=mended)
    assert len(read(once).all) == 1
    later = changed(case, "C1-1", (wrong, OPEN + 20 * MINUTE), now=mended)
    assert len(read(later).all) == 1
    second = changed(later, "C1-2", (wrong, OPEN + 21 * MINUTE), now=mended)
    variants = read(second)
    figures = [run_in(variants, 0, run).readings[TIME.id] for run in ("C1-1", "C1-2")]
    assert figures == [mended, wrong]
    # The other side has one of its own, and the first that was changed is the free one.
    other = changed(typed(later, "B1"), "B1-1", (wrong, OPEN + 30 * MINUTE), now=Reading(40.1, 40.1))
    assert len(read(other).all) == 1
    earlier = changed(second, "C1-2", (wrong, OPEN + 12 * MINUTE), now=mended)
    assert run_in(read(earlier), 0, "C1-1").readings[TIME.id] == wrong


def test_figures_that_are_typed_column_by_column_are_each_free_until_the_next_of_their_own() -> None:
    """Three places first, then a figure in each: it is the figure's own writing that counts."""
    case = with_sitting(make_case(SLOW, FAST), "C1", closed_at=None)
    for number in (1, 2, 3):
        first = (None, OPEN + (10 + number) * MINUTE)
        case = with_run(case, f"C1-{number}", written_at=OPEN + number * timedelta(seconds=1))
        wrong = (Reading(33.0, 33.0), OPEN + (10 + number) * MINUTE + timedelta(seconds=30))
        case = changed(case, f"C1-{number}", first, wrong, now=Reading(30.1, 30.1))
    assert len(read(case).all) == 1


def test_calling_a_figure_remembered_or_another_kind_after_the_next_one_leaves_it_out_late() -> None:
    case, old = typed(make_case(SLOW, FAST), "C1"), Reading(33.0, 33.0)
    for now in (replace(old, source="remembered"), replace(old, statistic="highest")):
        assert len(read(changed(case, "C1-1", (old, OPEN + MINUTE), now=now)).all) == 1
        variants = read(changed(case, "C1-1", (old, OPEN + 6 * MINUTE), now=now))
        assert [run_in(variants, number, "C1-1").readings[TIME.id] for number in (0, 1)] == [old, now]


def test_undo_in_an_open_sitting_is_free_if_the_figure_is_typed_again_before_it_closes() -> None:
    case, old = typed(make_case(SLOW, FAST), "C1"), Reading(33.0, 33.0)
    undone, again = (old, OPEN + 11 * MINUTE), (None, OPEN + 12 * MINUTE)
    assert len(read(changed(case, "C1-3", undone, again, now=Reading(30.1, 30.1))).all) == 1
    closed = with_sitting(changed(case, "C1-3", undone, again, now=Reading(30.1, 30.1)), "C1", closed_at=undone[1])
    assert run_in(read(closed), 0, "C1-3").readings[TIME.id] == old


def test_what_hung_or_was_stopped_in_an_open_sitting_and_was_repeated_there_is_no_late_change() -> None:
    def stopped(case: Case, at: datetime, **fields: Any) -> Case:
        fields = {"state": "failed", "reason": "stopped for safety"} | fields
        case = with_run(case, "C1-1", written_at=OPEN, left_out_at=at, **fields)
        return with_run(case, "C2-1", written_at=OPEN, left_out_at=at, **fields)

    case = make_case(SLOW, FAST)
    assert len(read(stopped(case, OPEN)).all) == 1
    # Spoiled by hand one a side is free; what was complete first and called a crash later was changed late.
    assert len(read(stopped(case, OPEN, state="spoiled")).all) == 2
    assert len(read(stopped(case, LATER)).all) == 2
    later = was("state", "complete", OPEN + 9 * MINUTE)
    assert len(read(stopped(case, OPEN + 9 * MINUTE, was=(later,))).all) == 2
    last = with_run(case, "C1-3", state="failed", reason="crashed", written_at=OPEN, left_out_at=OPEN)
    again = with_run(last, "C2-3", state="failed", reason="crashed", written_at=OPEN, left_out_at=OPEN)
    assert len(read(again).all) == 2


def test_a_reading_that_was_emptied_and_not_typed_anew_by_closing_was_left_out_late() -> None:
    case = make_case(SLOW, FAST)
    opened = next(s.started_at for s in case.sittings if s.id == "C1")
    entry = was(MEMBER, Reading(35.0, 35.0), opened + timedelta(minutes=5))
    variants = read(with_run(case, "C1-2", readings={}, was=(entry,)))
    assert run_in(variants, 0, "C1-2").readings[TIME.id].value == 35.0
    assert all(run.id != "C1-2" for runs in variants.all[1].groups.values() for run in runs)


def test_a_closed_sitting_of_fewer_runs_than_planned_is_taken_in_one_reading_and_skipped_in_the_other() -> None:
    case = make_case(SLOW, [FAST[0], FAST[1][:2], FAST[2]], runs_a_sitting=3)
    variants = read(case)
    plan = case.swaps[0].plan
    sides = [variant.read(TIME, plan).after for variant in variants.all]
    assert [[sitting.id for boot in side for sitting in boot] for side in sides] == [["C0", "C1", "C2"], ["C0", "C2"]]
    unfinished = with_sitting(case, "C1", closed_at=None)
    assert len(read(unfinished).all) == 1
    warm = make_run("C1", 3, 30.2, warm_up=True)
    assert len(read(replace(case, runs=(*case.runs, warm))).all) == 2


def test_answered_boots_double_the_readings_of_the_evidence() -> None:
    case = make_case(SLOW, FAST)
    answered = tuple(replace(s, boot="one", boot_by="answered") if s.build_id == C else s for s in case.sittings)
    variants = read(replace(case, sittings=answered))
    assert [(variant.with_late, variant.merge_answered) for variant in variants.all] == [(True, True), (True, False)]
    late = read(with_sitting(replace(case, sittings=answered), "B0", set_aside=SetAside("odd", LATER)))
    assert len(late.all) == 4
    assert late.boots_answered


def test_what_happened_on_other_builds_touches_no_comparison() -> None:
    case = make_case(SLOW, FAST)
    elsewhere = tuple(replace(s, build_id="D") if s.id == "C2" else s for s in case.sittings)  # type: ignore[arg-type]
    changed = with_sitting(replace(case, sittings=elsewhere), "C2", ambient_c=30.0, was=(was("ambient_c", 20.0),))
    assert len(read(changed).all) == 1


@pytest.mark.parametrize(("role", "done", "look"), [("control", 3, 1), ("control", 2, None), ("watch", 0, 1)])
def test_an_open_sitting_is_judged_once_all_that_judges_has_its_runs(role: Role, done: int, look: int | None) -> None:
    case = make_case(SLOW, FAST, runs_a_sitting=3)
    other = replace(TIME, id=MeasureId("read"), name="Long read", workload="read")
    swap = case.swaps[0]
    plan = replace(swap.plan, measures={**swap.plan.measures, other.id: PlannedMeasure(role, 2.0)})
    sittings = tuple(replace(s, closed_at=None) if s.id == "C2" else s for s in case.sittings)
    reads = [
        make_run(sitting.id, position, 30.0 + position, other, suffix="read")
        for sitting in sittings
        for position in range(1, 1 + (done if sitting.id == "C2" else 3))
    ]
    case = replace(
        case,
        measures=(TIME, other),
        sittings=sittings,
        runs=(*case.runs, *reads),
        swaps=(replace(swap, plan=plan),),
    )
    result = next(r for r in judge_measures(case) if r.measure.id == TIME.id)
    assert result.terms.look == look
    assert (result.verdict.word == "real_gain") == (look is not None)


def test_a_slip_is_found_among_other_edits_of_its_run() -> None:
    case = corrected(make_case(SLOW, FAST), "C1-2", 301.0, 30.1)
    (entry,) = next(run.was for run in case.runs if run.id == "C1-2")
    variants = read(with_run(case, "C1-2", was=(was("note", "odd"), entry)))
    assert len(variants.all) == 1


def test_a_reading_that_came_after_closing_is_not_there_in_the_evidence_before() -> None:
    case = make_case(SLOW, FAST)
    variants = read(with_run(case, "C1-2", was=(was(MEMBER, None),)))
    kept = [{run.id for runs in variant.groups.values() for run in runs} for variant in variants.all]
    assert kept[1] - kept[0] == {"C1-2"}
    assert run_in(variants, 1, "C1-2").readings[TIME.id].value == FAST[1][1]
    gone = read(with_run(case, "C1-2", readings={}, was=(was(MEMBER, None), was(MEMBER, Reading(30.1, 30.1)))))
    assert all(run.id != "C1-2" for runs in gone.all[0].groups.values() for run in runs)


def with_p(ruling: Ruling, p: float) -> Ruling:
    assert ruling.interval is not None
    return replace(ruling, interval=replace(ruling.interval, p=p))


def test_where_readings_differ_in_their_word_the_open_one_with_the_larger_p_is_shown_provisional_with_any() -> None:
    case = make_case(SLOW, FAST)
    made = judge_pair(case, agreement_of(case, B, C))[0].ruling
    gain = replace(with_p(made, 0.4), verdict=Verdict("real_gain"), provisional=True)
    loss = replace(with_p(made, 0.01), verdict=Verdict("real_loss"))
    wide = replace(with_p(made, 0.2), verdict=Verdict("not_settled", "too_wide"))
    wider = with_p(wide, 0.3)
    for rulings, shown in (([gain, wide], wide), ([wide, wider, gain], wider), ([gain, loss], gain)):
        found = most_cautious(rulings, [True] * len(rulings))
        assert (found.verdict.word, found.verdict.remark) == ("not_settled", "rests_on_left_out")
        assert (found.p, found.provisional) == (shown.p, True)
    assert not most_cautious([loss, wide], [True, True]).provisional
    assert most_cautious([gain], [True]) is gain


def test_where_readings_agree_the_larger_p_is_shown_of_no_change_the_wider_interval() -> None:
    case = make_case(SLOW, FAST)
    made = judge_pair(case, agreement_of(case, B, C))[0].ruling
    assert made.interval is not None
    sure, less = with_p(made, 0.001), replace(with_p(made, 0.02), provisional=True)
    assert most_cautious([sure, less], [True, True]) == less
    assert made.estimate is not None
    small = made.estimate / 2
    weaker = replace(sure, estimate=small, sides=replace(sure.sides, step=1.0))
    led = most_cautious([weaker, less], [True, True])
    assert led.interval is not None
    assert (led.estimate, led.interval.estimate, led.sides.step) == (small, small, 1.0)
    assert less.interval is not None
    assert (led.p, led.interval.low, led.verdict) == (0.02, less.interval.low, less.verdict)
    assert most_cautious([less, sure], [True, True]) == less
    narrow = replace(with_p(made, 0.9), verdict=Verdict("no_change"))
    wide = replace(narrow, interval=replace(made.interval, high=made.interval.high + 1))
    assert most_cautious([narrow, wide], [True, True]) == wide
    assert most_cautious([wide, narrow], [True, True]) == wide


def test_what_waits_in_one_reading_waits_and_what_only_boots_divide_says_so() -> None:
    case = make_case(SLOW, FAST)
    made = judge_pair(case, agreement_of(case, B, C))[0].ruling
    waits = replace(made, verdict=Verdict("not_settled", "waits_for_sitting"))
    assert most_cautious([made, waits], [True, True]).verdict.remark == "waits_for_sitting"
    wide = replace(made, verdict=Verdict("not_settled", "too_wide"))
    assert most_cautious([made, wide], [True, False]).verdict.remark == "rests_on_boots"
    assert most_cautious([made, wide, wide, wide], [True, False, True, False]).verdict.remark == "rests_on_left_out"

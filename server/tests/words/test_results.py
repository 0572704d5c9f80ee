"""What is said of results: figures rounded by their interval, verdicts in one wording, the machine's decimal mark."""

from dataclasses import replace
from typing import Any, get_args

import pytest

from lynxbill.core.judgement.verdict import Remark, Verdict, VerdictWord
from lynxbill.core.plan.planning import Effort
from lynxbill.core.record.frame import Case
from lynxbill.core.record.plan import PlannedMeasure
from lynxbill.core.record.run import Reading
from lynxbill.core.result.comparison import judge, showings_of
from lynxbill.core.result.result import Grade
from lynxbill.core.result.settling import ToSettle, Way
from lynxbill.core.terms.measure import Measure, MeasureId
from lynxbill.words.base.change import Change
from lynxbill.words.base.figures import bench_minutes, decimals_for, duration, reading, step
from lynxbill.words.base.verdicts import GRADES, VERDICTS
from lynxbill.words.results.comparison import say_bundle, say_comparison
from lynxbill.words.results.remarks import say_remark, say_settling, say_why
from lynxbill.words.results.results import say_result, say_sentence
from tests.builders import DAY, RATE, RISE, TIME, B, C, make_case, make_run

SLOW = [[40.0, 40.2, 40.1], [40.3, 40.1, 40.2], [40.1, 40.0, 40.2]]
FAST = [[30.0, 30.2, 30.1], [30.3, 30.1, 30.2], [30.1, 30.0, 30.2]]
CLOCK = replace(RATE, kind="clock", unit="MHz")
NOISE = replace(RISE, kind="noise", unit="dB[SPL]", scale="level")
FAN, GAUGE = replace(RISE, kind="fan", unit="/min"), replace(RISE, kind="gauge", unit="%")
FELT = replace(RISE, scale="ordinal", kind="felt", better="higher")
POWER = replace(RATE, kind="power", unit="W", better="lower", name="At the wall")


def only(case: Case) -> Any:
    (result,) = judge(case).measures
    return result


def test_a_time_is_said_by_both_readings_and_in_every_form_with_its_name() -> None:
    worded = say_result(only(make_case(SLOW, FAST)), ".")
    assert worded.both == "40.1 → 30.1 s"
    assert worded.ratio == "1.33× as fast"
    assert worded.forms == ("1.33× as fast (+33.19 %), the same task takes 24.92 % less time", "10.0 s less")
    assert worded.sentence == "Job: 1.33× as fast, and the gain is real"
    assert (worded.before, worded.after, worded.unit, worded.level) == ("40.1", "30.1", "s", "95 %")
    assert worded.interval == "+32.52 to +33.86 %"


def test_the_decimal_mark_is_the_machines_everywhere() -> None:
    worded = say_result(only(make_case(SLOW, FAST)), ",")
    assert (worded.both, worded.change) == ("40,1 → 30,1 s", "+33,19 %")
    written = " ".join(map(str, (worded.forms, worded.interval, worded.margin, worded.before)))
    assert "." not in written


@pytest.mark.parametrize(
    ("measure", "estimate", "ends", "change", "interval"),
    [
        (TIME, 0.293, (0.27, 0.31), "+34.0 %", "+31.0 to +36.3 %"),
        (POWER, 0.2, (0.13, 0.28), "18.1 % less power", "12.2 to 24.4 % less power"),
        (POWER, -0.05, (-0.1, 0.02), "5.1 % more power", "2.0 % less power to 10.5 % more power"),
        (RISE, 0.0, (-1.3, 1.3), "alike", "1.3 K hotter to 1.3 K cooler"),
        (POWER, -0.0004, (-0.1, 0.1), "alike", "10 % less power to 11 % more power"),
        (CLOCK, 0.03, (0.02, 0.04), "3.0 % higher clock", "2.0 to 4.1 % higher clock"),
        (RISE, -4.6, (-6.6, -2.6), "4.6 K hotter", "2.6 to 6.6 K hotter"),
        (RISE, 0.4, (-1.0, 1.8), "0.4 K cooler", "1.0 K hotter to 1.8 K cooler"),
        (NOISE, 1.0, (0.0, 2.0), "1.0 dB(A) quieter", "0.0 to 2.0 dB(A) quieter"),
        (FAN, 300.0, (200.0, 400.0), "300 rpm slower fan", "200 to 400 rpm slower fan"),
        (GAUGE, 4.0, (2.0, 6.0), "4.0 points lower", "2.0 to 6.0 points lower"),
        (FELT, 1.5, (None, None), "1.5 steps better", None),
    ],
)  # fmt: skip
def test_every_scale_has_its_own_words_and_none_is_said_in_percent_that_must_not_be(
    measure: Measure, estimate: float, ends: tuple[Any, Any], change: str, interval: str | None
) -> None:
    worded = Change(measure, estimate, *ends)
    assert (worded.say(), worded.say_interval()) == (change, interval)


def test_a_change_for_the_worse_is_never_a_negative_gain_of_heat() -> None:
    for estimate in (-4.6, -0.2, -100.0):
        assert "−" not in Change(RISE, estimate, estimate - 0.1, estimate + 0.1).say()


def test_what_passed_is_counted_by_tries_and_in_each_run_where_runs_are_alike() -> None:
    works = Measure(MeasureId("w"), "Programs", "job", "1", "outcome", "other", "higher", of=9)
    case = make_case([[5.0], [5.0]] * 2, [[9.0], [9.0]] * 2, measure=works)
    assert say_result(only(case), ".").change == "5 of 9 passed → 9 of 9"
    uneven = make_case([[5.0], [6.0]] * 2, [[9.0], [9.0]] * 2, measure=works)
    assert say_result(only(uneven), ".").change == "22 of 36 passed → 36 of 36"
    single = replace(works, of=None)
    assert say_result(only(make_case([[0.0, 1.0]] * 4, [[1.0, 1.0]] * 4, measure=single)), ".").both == (
        "4 of 8 passed → 8 of 8"
    )


def test_every_remark_verdict_and_grade_has_its_words() -> None:
    result = only(make_case(SLOW, FAST))
    assert set(GRADES) == {*get_args(Grade)}
    assert set(VERDICTS) == {*get_args(VerdictWord)}
    for remark in get_args(Remark):
        one = replace(result, verdict=Verdict("not_settled", remark))
        assert say_remark(one, ".")
        assert say_why(one) or remark == "watched_only"
    for word in get_args(VerdictWord):
        assert say_sentence(replace(result, verdict=Verdict(word)), ".").startswith("Job")


def test_what_is_open_is_said_by_its_interval_beside_what_matters() -> None:
    case = make_case([[40.0], [41.5], [40.6]], [[39.2], [40.9], [39.9]])
    result = only(case)
    assert result.verdict.remark == "too_wide"
    worded = say_result(result, ".")
    assert worded.why == "in or out of the band: open"
    assert worded.remark is not None
    assert f"Anything from {worded.interval} fits the readings, and ±2 % is what matters" in worded.remark


def test_where_the_rule_for_any_time_can_t_speak_it_says_from_when_on_it_does() -> None:
    two = only(make_case(SLOW[:2], FAST[:2], sittings_a_side=None))
    assert (two.interval, two.verdict.remark) == (None, "plan_incomplete")
    assert (say_remark(two, ".") or "").endswith(
        " With 2 on a side it has no interval, however clear the change: it speaks from 3 sittings a side on."
    )
    three = only(make_case(SLOW, FAST, sittings_a_side=None))
    assert three.interval is not None


def test_a_comparison_says_first_what_got_worse_then_what_works_now_then_the_headline() -> None:
    case = make_case(SLOW, FAST, headline="time")
    rise = replace(RISE, name="Soak")
    works = Measure(MeasureId("w"), "Programs", "job", "1", "outcome", "other", "higher", of=9)
    runs = []
    for run in case.runs:
        late = run.sitting_id.startswith("C")
        beside = {rise.id: 49.6 if late else 45.0, works.id: 9.0 if late else 5.0}
        runs.append(replace(run, readings={**run.readings, **{k: Reading(v, v) for k, v in beside.items()}}))
    swap = case.swaps[0]
    claims = {**swap.plan.measures, rise.id: PlannedMeasure("claim", 1.0), works.id: PlannedMeasure("claim", 1.0)}
    plan = replace(swap.plan, measures=claims)
    whole = replace(case, measures=(TIME, rise, works), runs=tuple(runs), swaps=(replace(swap, plan=plan),))
    worded = say_comparison(judge(whole), ".")
    assert worded.losses is not None
    assert worded.losses.startswith("Got worse: Soak, 4.6")
    assert worded.no_loss is None
    assert worded.rest == "Job: 1.33× as fast, and the gain is real."
    assert worded.counts == "In all: 1 real gain, 1 loss and 1 not settled."
    alone = say_comparison(judge(case), ".")
    assert (alone.losses, alone.counts) == (None, None)
    assert alone.rest == "Nothing was shown to get worse. Job: 1.33× as fast, and the gain is real."


def test_what_was_not_given_on_judge_yet_is_known_nowhere_else() -> None:
    case = make_case(FAST, SLOW, headline="time")
    worded = say_comparison(judge(case), ".")
    assert worded.losses is not None
    assert (worded.known_losses, worded.known_no_loss) == (None, None)
    assert worded.measures["time"].known == "Job: complete, judge it"
    entries = showings_of(case, judge(case), judge(case).measures, at=DAY)
    given = replace(case, swaps=(replace(case.swaps[0], shown=entries),))
    told = say_comparison(judge(given), ".")
    assert told.known_losses == worded.losses
    assert told.measures["time"].known == told.measures["time"].sentence


@pytest.mark.parametrize(("half", "decimals"), [(None, 1), (0.0, 1), (2.0, 1), (0.5, 2), (0.004, 4), (30.0, 0)])
def test_an_estimate_has_the_digits_that_its_interval_deserves(half: float | None, decimals: int) -> None:
    assert decimals_for(half) == decimals


def test_long_times_are_written_out_and_steps_add_up() -> None:
    assert (duration(952), duration(3725), bench_minutes(130), bench_minutes(60)) == (
        *("15 min 52 s", "1 h 2 min", "2 h 10 min", "1 h"),
    )
    assert (duration(59.5), duration(59.4), duration(3599.6)) == ("1 min 0 s", "0 min 59 s", "1 h 0 min")
    assert reading(612.0, "s") == "10 min 12 s"
    assert step(700.0, 620.0, "s") == ("11 min 40 s", "10 min 20 s", "1 min 20 s")
    assert step(42.12, 31.24, "s") == ("42.1", "31.2 s", "10.9 s")


def test_what_would_settle_it_is_said_with_its_chance_and_the_minutes_of_hands() -> None:
    result = only(make_case([[40.0], [41.5], [40.6]], [[39.2], [40.9], [39.9]]))
    ways = (
        Way("second look", "gain", 6, 6, 0.842, 0.8),
        Way("measured over", "no change", 6, 1, 0.842, 0.8),
        Way("more sittings", "gain", 9, 12, 0.9, 0.8),
    )
    efforts = (Effort(6, 30, 165.0, 35.0), Effort(1, 5, None, 35.0), Effort(12, 60, 300.0, 60.0))
    settled = replace(result, settling=ToSettle(ways, None, False), efforts=efforts)
    assert say_settling(settled) == (
        "The second look to 6 a side, 6 more sittings, finds the gain hoped for with at least about 84 of 100, if so "
        "it is: 35 min of hands, 2 h 10 min unattended. Measuring it over to 6 a side, 1 more sitting, shows that it "
        "is none with at least about 84 of 100, if so it is: 35 min of hands."
    )
    assert say_settling(replace(result, settling=ToSettle((), None, False))) is None
    short = say_settling(replace(result, settling=ToSettle((), None, True)))
    assert short is not None
    assert short.endswith("put the old part back for more, or measure it over.")


def test_what_the_unchanged_machine_shows_is_said_on_the_scale_of_the_measure() -> None:
    result = only(make_case(SLOW, FAST))
    assert say_result(replace(result, floor=0.0123), ".").floor == "±1.2 %"
    heat = only(make_case([[45.0, 45.2, 45.1]] * 3, [[45.4, 45.6, 45.5]] * 3, measure=RISE, matters_from=1.0))
    assert say_result(replace(heat, floor=0.86), ".").floor == "±0.86 K, not exceeded"


@pytest.mark.parametrize(
    ("kind", "better"), [("power", "lower"), ("clock", "higher"), ("fan", "lower"), ("amount", "higher")]
)
def test_what_is_no_work_is_never_a_multiple(kind: Any, better: Any) -> None:
    measure = replace(RATE, kind=kind, better=better, name="Reading")
    for sides in ((SLOW, FAST), (FAST, SLOW)):
        sentence = say_result(only(make_case(*sides, measure=measure)), ".").sentence
        assert "×" not in sentence
        assert "as fast" not in sentence


def test_controls_are_said_to_hold_to_have_moved_or_not_to_be_shown_to() -> None:
    moved = say_comparison(judge(make_case(SLOW, FAST, role="control")), ".")
    assert moved.controls == "Controls: Job moved and should not have."
    held = say_comparison(judge(make_case(SLOW, SLOW, role="control")), ".")
    assert held.controls == "Controls: Job held."
    assert say_comparison(judge(make_case(SLOW, FAST)), ".").controls is None


def test_a_bundle_is_named_whole_and_one_change_alone_is_none() -> None:
    assert say_bundle(["processor", "fresh paste"]) == "Changed together: processor and fresh paste."
    assert say_bundle(["memory"]) is None


def test_a_figure_is_no_finer_than_a_tenth_of_what_was_read() -> None:
    sharp = Change(RISE, 5.03214, 5.03, 5.034, step=0.1)
    assert sharp.say() == "5.03 K cooler"
    assert replace(sharp, step=1.0).say() == "5.0 K cooler"
    assert replace(sharp, step=None).say() == "5.0321 K cooler"


def test_what_was_left_out_late_is_said_with_the_word_that_stood_before() -> None:
    now, before = only(make_case(SLOW, SLOW)), only(make_case(SLOW, FAST))
    worded = say_result(replace(now, with_late=before), ".")
    assert worded.late == (
        "Something was left out or changed after its reading had been seen. As it stood before: +33.2 %, real gain; "
        "the verdict is the more cautious of both."
    )


@pytest.mark.parametrize(
    ("measure", "hoped", "says"),
    [
        (TIME, 33.0, "+33 %, reached"),
        (TIME, 33.5, "+33.5 %, not reached"),
        (RISE, 9.9, "9.9 K, reached"),
        (RISE, 10.5, "10.5 K, not reached"),
    ],
)
def test_what_was_hoped_for_is_reached_or_not(measure: Measure, hoped: float, says: str) -> None:
    result = only(make_case(SLOW, FAST, measure=measure))
    assert say_result(replace(result, planned=replace(result.planned, hoped_for=hoped)), ".").hoped == says


def test_runs_that_came_to_nothing_after_the_swap_are_no_nothing_got_worse() -> None:
    case = make_case(FAST, FAST, headline="time")
    hung = [make_run(f"C{n}", 4, 1.0, state="failed", reason="hung") for n in (0, 1)]
    failed = replace(case, runs=(*case.runs, *(replace(run, readings={}) for run in hung)))
    assert say_comparison(judge(case), ".").no_loss == "Nothing was shown to get worse."
    sentence = say_comparison(judge(failed), ".").no_loss
    assert sentence == "No measure was shown to get worse. More runs came to nothing after it: job, 0 → 2."
    assert say_comparison(judge(failed, C, B), ".").no_loss == "Nothing was shown to get worse."


def test_a_sitting_that_was_closed_short_is_no_run_that_was_taken_out() -> None:
    short = judge(make_case(SLOW, [FAST[0], FAST[1][:2], *FAST[2:]], runs_a_sitting=len(FAST[0]))).measures[0]
    codes = {flag.code for flag in short.flags}
    assert ("closed_short" in codes, "corrected_late" in codes, short.closed_short) == (True, False, True)
    worded = say_result(short, ".")
    assert worded.late is not None
    assert worded.late.startswith("A sitting was closed short of its plan.")

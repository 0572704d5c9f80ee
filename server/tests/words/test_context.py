"""What a result is set against: a suspicion is worded as one, and the same on both sides is said once."""

from dataclasses import replace

from lynxbill.core.change.ceilings import Ceiling
from lynxbill.core.change.context import NO_CONTEXT, Against, Context, Rated, Realised, Side
from lynxbill.core.result.comparison import judge
from lynxbill.core.result.result import MeasureResult
from lynxbill.core.result.shares import ImpliedShare
from lynxbill.words.results.context import say_context
from tests.builders import RATE, make_case

SHARE = ImpliedShare("rate", "part", 0.4, 0.3, 0.52, 0.25, 1.333)


def result(context: Context = NO_CONTEXT) -> MeasureResult:
    (one,) = judge(make_case([[500.0]] * 3, [[3500.0]] * 3, measure=RATE)).measures
    return replace(one, context=context)


def against(side: Side, measured: float, usable: float, limited_by: str = "") -> Against:
    return Against(side, "Siskin", measured, Ceiling(usable, usable, limited_by), 100 * measured / usable)


def test_nothing_is_said_where_nothing_is_known_beside_it() -> None:
    assert say_context(result(), (), ".") == ()
    assert say_context(result(), (replace(SHARE, job="another"),), ".") == ()


def test_a_rate_above_its_ceiling_is_a_suspicion_of_a_cache() -> None:
    (line,) = say_context(result(Context(ceilings=(against("after", 690.0, 400.0),))), (), ".")
    assert line.startswith("After: 172 % of the 400 MB/s that Siskin can carry here.")
    assert "Suspected: a cache answered, or" in line


def test_a_rate_is_set_against_its_ceiling_its_rating_and_the_rise_of_the_hardware() -> None:
    context = Context(
        ceilings=(against("after", 3500.0, 3938.0, "the slot"),),
        rated=(Rated("after", "Siskin", "rated read", 3500.0, 7000.0, 50.0, reachable=False),),
        realised=(Realised("lanes", 1, 4, 300.0, 5.04), Realised("rated read", 500, 510, 2.0, 757.0)),
    )
    assert say_context(result(context), (), ".") == (
        "After: 89 % of the 3938 MB/s that Siskin can carry here, limited by the slot.",
        "After: 50 % of Siskin’s rated read, 7000 MB/s. The link could not carry that, so the rating was not tested "
        "here.",
        "The lanes rose by 300 %; 5.0 % of that came out as speed.",
        "Speed rose by more than the rated read did, 2.0 %.",
    )


def test_what_is_the_same_on_both_sides_is_said_once() -> None:
    context = Context(ceilings=(against("before", 200.0, 400.0), against("after", 200.0, 400.0)))
    (line,) = say_context(result(context), (), ".")
    assert line == "Before and after: 50 % of the 400 MB/s that Siskin can carry here."


def test_the_share_of_the_job_that_waited_is_said_with_its_ends_or_why_it_cannot_be() -> None:
    assert say_context(result(), (SHARE,), ",") == (
        "About 40 % of this task waited for the part (30 to 52 %); 25 % still does, so no faster part of this kind "
        "could make it more than 1,33 times as fast.",
    )
    none = replace(SHARE, share=None, still_waits=None, note="more_than_the_part")
    assert "does not explain it" in say_context(result(), (none,), ".")[0]

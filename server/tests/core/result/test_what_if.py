"""What leaving something out late would do, said before it is done, and kept to when it is."""

from dataclasses import replace

from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import RunId, SittingId
from lynxbill.core.record.run import LateExclusion, SetAside
from lynxbill.core.result.comparison import judge
from lynxbill.core.result.what_if import what_if_run_left_out, what_if_sitting_set_aside
from tests.builders import DAY, TIME, make_case

# Real with all of them, but not so clearly that each could be spared.
SLOW, FAST = [[39.5], [40.05], [40.45]], [[38.5], [38.1], [37.45]]


def test_a_gain_that_rests_on_a_sitting_is_lost_without_it() -> None:
    case = make_case(SLOW, FAST)
    (found,) = what_if_sitting_set_aside(case, SittingId("C1"), DAY)
    assert (found.before, found.after, found.measure) == ("B", "C", TIME.id)
    assert (found.now.word, found.then.word) == ("real_gain", "not_settled")
    assert what_if_sitting_set_aside(case, SittingId("C2"), DAY) == ()


def test_what_is_foreseen_is_what_comes() -> None:
    case = make_case(SLOW, FAST)

    def word(then: Case) -> list[str]:
        (result,) = judge(then).measures
        return [] if result.verdict.word == "real_gain" else [result.verdict.word]

    for sitting, run in zip(case.sittings, case.runs, strict=True):
        aside, late = (
            replace(sitting, set_aside=SetAside("", DAY)),
            replace(run, excluded_late=LateExclusion("", DAY)),
        )
        sittings = tuple(aside if one.id == sitting.id else one for one in case.sittings)
        runs = tuple(late if one.id == run.id else one for one in case.runs)
        without_sitting, without_run = replace(case, sittings=sittings), replace(case, runs=runs)
        assert [f.then.word for f in what_if_sitting_set_aside(case, sitting.id, DAY)] == word(without_sitting)
        assert [f.then.word for f in what_if_run_left_out(case, run.id, DAY)] == word(without_run)


def test_nothing_is_foreseen_where_no_verdict_is_given() -> None:
    watched = make_case(SLOW, FAST, role="watch")
    assert what_if_sitting_set_aside(watched, SittingId("C1"), DAY) == ()
    assert what_if_run_left_out(watched, RunId("C1-1"), DAY) == ()

"""Whether a run counts is said in one place, for each measure that it has a reading of."""

from dataclasses import replace

import pytest

from lynxbill.core.reading.counting import WhyNotCounted, counts_for, is_whole, why_not_counted
from lynxbill.core.record.run import LateExclusion, Reading, Run
from lynxbill.core.terms.measure import MeasureId
from tests.builders import RISE, TIME, make_case

RUN = make_case([[40.0]], [[30.0]]).runs[0]
TOLD = {**RUN.readings, RISE.id: Reading(50.0, 50.0, source="remembered")}


@pytest.mark.parametrize(
    ("run", "measure", "why"),
    [
        (RUN, TIME.id, None),
        (replace(RUN, warm_up=True), TIME.id, "warm_up"),
        (replace(RUN, state="failed", reason="it hung"), TIME.id, "broken"),
        (replace(RUN, excluded_late=LateExclusion("a window")), TIME.id, "late"),
        (RUN, RISE.id, "no_reading"),
        (replace(RUN, readings=TOLD), RISE.id, "told"),
    ],
)
def test_a_run_counts_or_says_why_not(run: Run, measure: MeasureId, why: WhyNotCounted | None) -> None:
    assert why_not_counted(run, measure) == why
    assert (measure in counts_for(run)) == (why is None)


def test_it_counts_for_the_measures_that_were_read_in_it_alone() -> None:
    assert counts_for(replace(RUN, readings=TOLD)) == (TIME.id,)
    assert not is_whole(replace(RUN, warm_up=True))

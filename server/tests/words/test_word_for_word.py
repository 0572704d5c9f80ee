"""
What the demo says, word for word: no sentence and no rounded figure changes without being read.

Where a change is meant, LYNXBILL_WRITE_WORDED=1 writes it anew, and the difference is read before it is kept.
"""

import os
from collections.abc import Iterator
from dataclasses import fields, is_dataclass, replace
from datetime import UTC, date, datetime
from pathlib import Path
from typing import Any

import pytest

from lynxbill.core.record.frame import Case
from lynxbill.core.record.swap import Swap
from lynxbill.core.result.comparison import judge, showings_of
from lynxbill.core.value.reckoning import reckon
from lynxbill.exchange.run_file import read_run_file
from lynxbill.words.money.reckoning import say_reckoning
from lynxbill.words.report.report import Wish, say_report
from lynxbill.words.results.comparison import say_comparison
from tests.conftest import ROOT

KEPT = Path(__file__).parents[1] / "data" / "worded"
FILES = sorted((ROOT / "demo").glob("*.json"))
# The second of the machines is in a country of the decimal comma.
COMMAS = "field-laptop"
# After all that was measured.
GIVEN_AT = datetime(2027, 1, 1, tzinfo=UTC)


def given(case: Case) -> Case:
    """Judge has shown every verdict of every swap."""

    def shown(swap: Swap) -> Swap:
        made = judge(case, swap.before, swap.after)
        return replace(swap, shown=(swap.shown or ()) + showings_of(case, made, made.measures, at=GIVEN_AT))

    return replace(case, swaps=tuple(map(shown, case.swaps)))


def leaves(place: str, sentence: Any) -> Iterator[str]:
    """Each text with the way to it; numbers are for drawing, and are tested elsewhere."""
    if isinstance(sentence, str) and sentence:
        yield f"{place}: {sentence}"
    elif is_dataclass(sentence) and not isinstance(sentence, type):
        for field in fields(sentence):
            yield from leaves(f"{place}.{field.name}", getattr(sentence, field.name))
    elif isinstance(sentence, dict):
        for number, value in enumerate(sentence.values()):
            yield from leaves(f"{place}.{number}", value)
    elif isinstance(sentence, tuple | list):
        for number, value in enumerate(sentence):
            yield from leaves(f"{place}.{number}", value)


def all_sentences(case: Case) -> Iterator[str]:
    mark = case.machine.decimal_mark
    wish = Wish("R. Vey", "Dust it once a year.", "Come back in May.", "A fan was turned.", labour=True, years=3)
    for swap in case.swaps:
        comparison = judge(case, swap.before, swap.after)
        if not any(result.estimate is not None for result in comparison.measures):
            continue
        reckoning = reckon(case, swap.before, swap.after, 3)
        yield f"# {swap.label}"
        yield from leaves("judge", say_comparison(comparison, mark))
        labels = {(str(s.before), str(s.after)): s.label for s in case.swaps}
        yield from leaves("bill", say_reckoning(reckoning, swap.label, labels, case.builds, mark))
        yield from leaves("report", say_report(case, reckoning, wish, swap.label, date(2026, 6, 1)))


@pytest.mark.parametrize("file", FILES, ids=lambda file: file.stem)
def test_the_demo_says_what_was_read_and_kept(file: Path) -> None:
    case = given(read_run_file(file.read_bytes()))
    if COMMAS in file.stem:
        case = replace(case, machine=replace(case.machine, decimal_mark=","))
    sentence = "\n".join(all_sentences(case)) + "\n"
    kept = KEPT / f"{file.stem}.txt"
    if os.environ.get("LYNXBILL_WRITE_WORDED") == "1":
        kept.write_text(sentence)
    assert sentence == kept.read_text()

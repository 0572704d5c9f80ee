"""Several parts against one baseline: candidates at full level each, another attempt at the same at half of it."""

from dataclasses import replace
from datetime import timedelta
from typing import Any

import pytest

from lynxbill.core.plan.agreement import agreement_of
from lynxbill.core.plan.rivals import Rivals, identities_of, recorded_at, rivals_of
from lynxbill.core.record.build import Build, Candidate, Part
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import BuildId, SittingId, SwapId
from lynxbill.core.record.ledger_entries import Showing
from lynxbill.core.record.swap import Swap
from lynxbill.core.result.comparison import judge
from lynxbill.words.results.comparison import say_comparison
from tests.builders import DAY, TIME, B, C, D, make_case, make_run

SLOW = [[40.0, 40.2, 40.1], [40.3, 40.1, 40.2], [40.1, 40.0, 40.2]]
FAST = [[30.0, 30.2, 30.1], [30.3, 30.1, 30.2], [30.1, 30.0, 30.2]]
SHOWN_AT = DAY + timedelta(days=150)


def memory(label: str) -> tuple[Part, ...]:
    return (Part(f"part {label}", "memory", label, {"size_gb": 16}),)


def bench(first: str = "Marl 16 GB", second: str = "Tarn 16 GB", **case_fields: Any) -> Case:
    """Two kits, one after the other, against the same old one; a verdict on the first was given."""
    case = make_case(SLOW, FAST)
    entry = Showing(TIME.id, SHOWN_AT, 1, 0.95, "sittings", "not_settled", (), rules=2)
    one = replace(case.swaps[0], shown=(entry,))
    two = Swap(SwapId("second"), B, D, "Second", one.plan)
    last = [
        replace(s, id=SittingId(f"D{n}"), build_id=D, started_at=s.started_at + timedelta(days=100), boot=f"D{n}")
        for n, s in enumerate(s for s in case.sittings if s.build_id == C)
    ]
    runs = [make_run(f"D{n}", place, v) for n, values in enumerate(FAST) for place, v in enumerate(values, start=1)]
    builds = (
        Build(B, "B", "Old", memory("Marl 8 GB")),
        Build(C, "C", "First", memory(first)),
        Build(D, "D", "Second", memory(second)),
    )
    made = replace(case, builds=builds, swaps=(one, two), sittings=(*case.sittings, *last), runs=(*case.runs, *runs))
    return replace(made, **case_fields)


def candidate(at: timedelta | None, label: str = "tarn  16 gb", swap: str = "second") -> Candidate:
    when = None if at is None else SHOWN_AT + at
    return Candidate("kit", "memory", label, swap=SwapId(swap), recorded_at=when)


SOONER, LATER = timedelta(minutes=-1), timedelta(minutes=1)


def found(case: Case) -> Rivals:
    return rivals_of(case, case.swaps[1])


@pytest.mark.parametrize(
    ("candidates", "attempts"),
    [
        ((), 1),
        ((candidate(SOONER),), 0),
        ((candidate(LATER),), 1),
        ((candidate(None),), 1),
        ((candidate(SOONER, label="Another 16 GB"),), 1),
        ((candidate(SOONER, label="Marl 16 GB"),), 1),
        ((candidate(SOONER, swap="swap"),), 1),
    ],
)
def test_another_part_is_a_candidate_if_it_was_on_record_before_the_first_verdict(
    candidates: tuple[Candidate, ...], attempts: int
) -> None:
    case = bench(candidates=candidates)
    assert found(case) == Rivals(1, attempts, as_told=True)
    agreement = agreement_of(case, B, D)
    assert (agreement.alpha, agreement.alpha_any) == (0.05 / 2**attempts, 0.05 / 2**attempts)
    assert (agreement.attempt, agreement.planned) == (1, True)
    assert agreement_of(case, B, C).alpha == 0.05
    (result,) = judge(case, B, D).measures
    assert result.grade == "part_as_told"


def test_what_the_agent_read_as_another_part_is_another_candidate() -> None:
    def read(*texts: str) -> Case:
        case = bench()
        builds = [replace(b, read={"memory": (t,)}) for b, t in zip(case.builds, ("old", *texts), strict=True)]
        return replace(case, builds=tuple(builds))

    assert found(read("size_gb 16 sum a1", "size_gb 16 sum b2")) == Rivals(1, 0)
    assert found(read("size_gb 16 sum a1", "size_gb 16 sum a1")) == Rivals(1, 1, as_told=True)
    # A sum made with another salt, or none, tells nothing apart: the way by the serial is not open.
    assert found(read("size_gb 16 sum 1f-a1", "size_gb 16 sum 1f-b2")) == Rivals(1, 0)
    for other in ("size_gb 16 sum 2e-b2", "size_gb 16 sum b2", "size_gb 16"):
        assert found(read("size_gb 16 sum 1f-a1", other)) == Rivals(1, 1, as_told=True)
    assert found(read("size_gb 16 sum 1f-a1", "size_gb 32 sum 2e-b2")) == Rivals(1, 0)
    (result,) = judge(read("one", "two"), B, D).measures
    assert result.grade != "part_as_told"


def test_a_side_change_or_another_spelling_brings_no_fresh_pair() -> None:
    ticked = bench(second="Marl 16 GB")
    ticked = replace(ticked, swaps=(ticked.swaps[0], replace(ticked.swaps[1], side_changes=("dust-out",))))
    assert found(ticked).attempts == 1
    bare = tuple(replace(build, parts=memory("Marl 8 GB")) for build in ticked.builds)
    assert found(replace(ticked, builds=bare)) == Rivals()
    both = tuple(replace(swap, side_changes=("dust-out",)) for swap in ticked.swaps)
    assert found(replace(ticked, builds=bare, swaps=both)).attempts == 1
    settings = tuple(replace(b, settings={"power_limit_w": 40 + n}) for n, b in enumerate(bare))
    assert found(replace(ticked, builds=settings)) == Rivals(1, 0)


def test_what_was_never_measured_changed_something_else_or_stood_elsewhere_is_no_rival() -> None:
    case = bench()
    unmeasured = replace(case, sittings=tuple(s for s in case.sittings if s.build_id != C))
    assert found(unmeasured) == Rivals()
    drive = (Part("p", "drive", "Ledra 1 TB"), *memory("Marl 8 GB"))
    other = replace(case, builds=(case.builds[0], replace(case.builds[1], parts=drive), case.builds[2]))
    assert found(other) == Rivals()
    elsewhere = replace(case, swaps=(replace(case.swaps[0], before=BuildId("D")), case.swaps[1]))
    assert found(elsewhere) == Rivals()
    unknown = replace(case, swaps=(replace(case.swaps[0], shown=None), case.swaps[1]))
    assert found(replace(unknown, candidates=(candidate(SOONER),))).attempts == 1


def test_the_page_says_how_many_were_compared_and_holds_the_best_of_them_to_all() -> None:
    case = bench(candidates=(candidate(SOONER),))
    entry = replace(case.swaps[0].shown[0], verdict="real_gain") if case.swaps[0].shown else None
    assert entry is not None
    look = say_comparison(judge(case, B, D), ".").look
    assert look is not None
    assert "One of 2 compared with this baseline." in look
    assert "Attempt" not in look
    again = say_comparison(judge(bench(), B, D), ".").look
    assert again is not None
    assert "Attempt 2: every level is halved." in again
    assert "where the agent read it so" in again


def test_a_part_is_on_record_from_when_its_model_and_its_price_are() -> None:
    bare = Candidate("kit", "memory", "Tarn 16 GB")
    priced = replace(bare, price=10)  # type: ignore[arg-type]
    assert recorded_at(bare, None, DAY) is None
    assert recorded_at(priced, bare, DAY) == DAY
    kept = replace(priced, recorded_at=DAY)
    assert recorded_at(replace(priced, price=12), kept, SHOWN_AT) == DAY  # type: ignore[arg-type]
    assert recorded_at(replace(priced, label="Marl 16 GB"), kept, SHOWN_AT) == SHOWN_AT
    assert recorded_at(bare, kept, SHOWN_AT) is None


def test_what_the_agent_read_is_written_down_by_what_tells_parts_apart() -> None:
    parts: dict[str, list[tuple[str, dict[str, object]]]] = {
        "memory": [("16 GB, of which the system shows 15.6 GiB", {"size_gb": 16, "modules": 2})],
        "drive": [("Ledra", {"size_gb": 1000, "sum": "ab", "lanes": 4}), ("Ledra", {"size_gb": 500})],
        "board": [("", {})],
    }
    told = identities_of(parts)
    assert told == {
        "memory": ("size_gb 16 modules 2",),
        "drive": ("Ledra size_gb 1000 sum ab", "Ledra size_gb 500"),
    }

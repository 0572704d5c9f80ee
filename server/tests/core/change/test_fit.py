"""Fit is computed from the machine's limits: changing one limit or one figure changes the answer."""

from dataclasses import replace
from decimal import Decimal

import pytest

from lynxbill.core.change.candidates import expected_per_10, rank_candidates
from lynxbill.core.change.fit import check_fit
from lynxbill.core.record.build import Build, Candidate, Part
from lynxbill.core.record.frame import Machine
from lynxbill.core.record.ids import BuildId, MachineId
from lynxbill.words.job.fit import say_fit, say_source
from tests.builders import make_case

MACHINE = Machine(
    MachineId("m"), "M", "EUR", limits={"socket": "V2", "processor_max_w": 65, "memory_slots": 2, "card_max_mm": 240}
)
SIX_CORE = Candidate(
    "c", "processor", "Varro 6-core", {"socket": "v2 ", "power_w": 65}, Decimal("118.00"), expected_gain=25
)


def test_a_part_within_every_known_limit_fits_and_says_what_was_not_checked() -> None:
    fit = check_fit(SIX_CORE, MACHINE, None)
    assert fit.word == "fits"
    assert [say_source(check) for check in fit.checks] == [
        "the machine's limits, socket",
        "the machine's limits, most processor power",
    ]
    assert fit.unknown == ("cores",)


@pytest.mark.parametrize(
    ("role", "rated", "limits", "word"),
    [
        ("processor", {"socket": "V3"}, {"socket": "V2"}, "does not fit"),
        ("processor", {"power_w": 95}, {"processor_max_w": 65}, "does not fit"),
        ("processor", {"power_w": 95}, {"processor_max_w": 95}, "fits"),
        ("memory", {"modules": 4}, {"memory_slots": 2}, "does not fit"),
        ("memory", {"rate_mts": 3200}, {"memory_max_mts": 2666}, "doubtful"),
        ("drive", {"lanes": 4}, {"drive_lanes": 2}, "doubtful"),
        ("graphics", {"length_mm": 241}, {"card_max_mm": 240}, "does not fit"),
        ("graphics", {"power_leads": 1}, {"free_leads": 0}, "does not fit"),
        ("cooler", {"height_mm": 158}, {"cooler_max_mm": 160}, "fits"),
        ("processor", {"power_w": 95}, {"processor_held_w": 65}, "doubtful"),
        ("cooler", {"depth_mm": 80}, {"cooler_depth_max_mm": 75}, "does not fit"),
        ("thermal paste", {"pad_mm": 1.5}, {"pad_gap_mm": 1.5}, "fits"),
        ("thermal paste", {"pad_mm": 1.0}, {"pad_gap_mm": 1.5}, "does not fit"),
        ("graphics", {"bracket": "low"}, {"card_bracket": "full"}, "does not fit"),
        ("graphics", {"lead_kind": "8-pole"}, {"lead_kinds": "6-pole, 8-pole"}, "fits"),
        ("graphics", {"lead_kind": "12-pole"}, {"lead_kinds": "6-pole, 8-pole"}, "does not fit"),
        ("memory", {"volts": 1.5}, {"memory_volts": 1.35}, "does not fit"),
        ("other", {}, {}, "doubtful"),
    ],
)
def test_one_figure_against_one_limit(
    role: str, rated: dict[str, object], limits: dict[str, object], word: str
) -> None:
    candidate = Candidate("c", role, "Part", rated)  # type: ignore[arg-type]
    assert check_fit(candidate, Machine("m", "M", "EUR", limits=limits), None).word == word  # type: ignore[arg-type]


def test_the_supply_must_feed_what_stays_and_what_comes() -> None:
    def build(supply_w: int) -> Build:
        parts = (
            Part("p", "processor", "Old", {"power_w": 51}),
            Part("g", "graphics", "Card", {"power_w": 120}),
            Part("s", "power supply", "Quarl", {"power_w": supply_w}),
        )
        return Build(BuildId("A"), "A", "As found", parts)

    words = {watts: check_fit(SIX_CORE, MACHINE, build(watts)).word for watts in (180, 200, 250)}
    assert words == {180: "does not fit", 200: "doubtful", 250: "fits"}
    (supply,) = (check for check in check_fit(SIX_CORE, MACHINE, build(200)).checks if check.about == "supply")
    assert (say_fit(supply), say_source(supply)) == (
        "power: the rated parts draw 185 W of the supply's 200 W",
        "Quarl",
    )


def test_firmware_and_the_technicians_own_word_count() -> None:
    build = Build(BuildId("A"), "A", "As found", settings={"firmware": "1.4"})
    needs = replace(SIX_CORE, rated={**SIX_CORE.rated, "min_firmware": "1.6"})
    assert check_fit(needs, MACHINE, build).word == "doubtful"
    newer = "firmware: the part needs 1.6, the machine has 1.4; which is newer?"
    assert newer in [say_fit(check) for check in check_fit(needs, MACHINE, build).checks]
    assert check_fit(needs, MACHINE, replace(build, settings={"firmware": "1.6"})).word == "fits"
    sentence = replace(SIX_CORE, fit_answer="does not fit", fit_source="the board's manual")
    assert check_fit(sentence, MACHINE, build).word == "does not fit"
    assert say_source(check_fit(sentence, MACHINE, build).checks[-1]) == "the board's manual"


def test_candidates_are_ranked_by_expected_gain_for_10_units_and_what_does_not_fit_comes_last() -> None:
    case = make_case([[1.0]], [[1.0]])
    wrong = replace(SIX_CORE, id="wrong", rated={"socket": "V3"}, price=Decimal("10.00"))
    drive = Candidate("drive", "drive", "Siskin", {}, Decimal("40.00"), expected_gain=10)
    unknown = Candidate("unknown", "memory", "Marl", {}, None)
    ranked = rank_candidates(replace(case, machine=MACHINE, candidates=(wrong, unknown, SIX_CORE, drive)))
    assert [entry.candidate.id for entry in ranked] == ["drive", "c", "unknown", "wrong"]
    assert [r.expected_per_10 for r in ranked if r.fit.word == "does not fit"] == [None], "no value without a fit"
    assert ranked[1].expected_per_10 == pytest.approx(10 * 25 / 118)
    assert expected_per_10(replace(SIX_CORE, price=Decimal(0))) is None


def test_a_limit_that_few_machines_have_is_asked_for_only_where_this_one_has_it() -> None:
    cooler = Candidate("c", "cooler", "Ostrel Tower", {"height_mm": 150})
    plain = Machine(MachineId("m"), "M", "EUR", limits={"cooler_max_mm": 160})
    assert "depth with its fans" not in check_fit(cooler, plain, None).unknown
    tight = replace(plain, limits={**plain.limits, "cooler_depth_max_mm": 75})
    assert "depth with its fans" in check_fit(cooler, tight, None).unknown


def test_what_is_no_part_has_nothing_to_fit() -> None:
    cleaning = Candidate("c", "other", "Dust out, nothing else", alternative="cleaning")
    fit = check_fit(cleaning, MACHINE, None)
    assert (fit.word, fit.unknown) == ("fits", ())


def test_what_exceeds_a_pace_is_said_to_be_held_to_it() -> None:
    memory = Candidate("c", "memory", "Marl", {"rate_mts": 3200})
    fit = check_fit(memory, Machine(MachineId("m"), "M", "EUR", limits={"memory_max_mts": 2666}), None)
    assert [say_fit(check) for check in fit.checks] == [
        "memory rate: the part has 3200 MT/s, the machine takes 2666 MT/s, to which it would be held"
    ]

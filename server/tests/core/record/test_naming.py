"""Which part is meant by a name, and what a workload is set against."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lynxbill.core.change.difference import find_differences
from lynxbill.core.change.seating import Aim, Stranger, aim_of, seat_parts
from lynxbill.core.record.build import Build, Part, PartRole
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import WorkloadId
from lynxbill.core.record.naming import find_named, parts_loaded
from lynxbill.core.record.workload import Workload
from tests.builders import B, C, make_case

SYSTEM = Part("s", "drive", "Siskin 480 GB", {"link_gts": 6, "lanes": 1, "read_mbs": 550})
DATA = Part("d", "drive", "Dunlin 2 TB", {"link_gts": 16, "lanes": 4, "read_mbs": 3400})
RISER = Part("a", "adapter", "Riser of the shop, long", {"link_gts": 8, "lanes": 2, "drive_slot": "key M"})
CARD = Part("g", "graphics", "Ostra 8")
READS = Workload(WorkloadId("w"), "reads", loads=("drive",))


@pytest.mark.parametrize(
    ("name", "meant"),
    [
        ("Siskin 480 GB", SYSTEM),
        ("  siskin  480 gb ", SYSTEM),
        ("the Siskin", SYSTEM),
        ("“Dunlin”", DATA),
        ("2 TB drive", DATA),
        ("the adapter", RISER),
        ("long riser", RISER),
        ("graphics", CARD),
        # Of two of a kind none is meant, and half a word is none.
        ("the drive", None),
        ("Sisk", None),
        ("Siskin 4 TB", None),
        ("", None),
        ("the", None),
        (None, None),
    ],
)
def test_a_part_is_meant_by_its_label_its_kind_or_its_words(name: str | None, meant: Part | None) -> None:
    assert find_named(name, (SYSTEM, DATA, RISER, CARD)) is meant


@given(
    st.lists(st.text(max_size=12), min_size=1, max_size=6, unique_by=lambda text: " ".join(text.split()).casefold())
)
def test_whoever_is_found_by_a_label_of_its_own_is_the_one_that_bears_it(labels: list[str]) -> None:
    parts = [Part(f"id {index}", "other", label) for index, label in enumerate(labels)]
    for part in parts:
        assert find_named(part.label, parts) in (part, None)


def case_of(*builds: Build) -> Case:
    return replace(make_case([], []), builds=builds)


def loaded(case: Case, build: Build, target: str | None, *loads: PartRole) -> list[str]:
    workload = replace(READS, target=target, loads=loads or ("drive",))
    return [part.label for part in parts_loaded(case, build, workload, ("drive", "graphics"))]


def test_a_workload_is_set_against_what_it_is_aimed_at_and_what_came_in_its_place() -> None:
    new = Part("n", "drive", "Dunlin 4 TB")
    before, after = Build(B, "B", "Old", (SYSTEM, DATA)), Build(C, "C", "New", (SYSTEM, new))
    case = case_of(before, after)
    assert loaded(case, before, None) == ["Siskin 480 GB", "Dunlin 2 TB"]
    assert loaded(case, before, "Dunlin 2 TB") == ["Dunlin 2 TB"]
    # The drive that it is aimed at came out: what went in stands in its place, never the other drive.
    assert loaded(case, after, "Dunlin 2 TB") == ["Dunlin 4 TB"]
    assert loaded(case, after, "Siskin 480 GB") == ["Siskin 480 GB"]
    gone = Build(C, "C", "Without it", (SYSTEM,))
    assert loaded(case_of(before, gone), gone, "Dunlin 2 TB") == []
    # What nothing goes by is set against nothing, even where one drive alone is noted.
    assert loaded(case_of(gone), gone, "the customer’s stick") == []
    assert loaded(case, before, "Dunlin 2 TB", "processor") == []


def test_a_workload_that_may_go_to_two_drives_is_asked_about() -> None:
    build = Build(B, "B", "Two", (SYSTEM, DATA))
    case = case_of(build)
    assert aim_of(case, build, READS) == Aim(among=(SYSTEM, DATA))
    assert aim_of(case, build, replace(READS, target="slot 3")) == Aim(stranger="slot 3")
    aimed = aim_of(case, build, replace(READS, target="siskin", loads=("drive", "processor")))
    assert (aimed.part, aimed.ceiling and round(aimed.ceiling.usable)) == (SYSTEM, 600)
    assert aim_of(case, build, replace(READS, loads=("processor",))) == Aim()


def test_a_seat_counts_by_any_name_of_its_adapter_and_is_asked_about_where_nothing_goes_by_it() -> None:
    def seat(name: str | None) -> tuple[int | None, str, bool, tuple[Stranger, ...]]:
        drive = replace(DATA, rated={**DATA.rated, "seat": name})
        build = Build(B, "B", "Seated", (drive, SYSTEM, RISER))
        seated = seat_parts({"drive_slot": "short", "drive_link_gts": 8, "drive_lanes": 4}, build)[0]
        ceiling = seated.ceiling
        usable = round(ceiling.usable) if ceiling else None
        return usable, ceiling.limited_by if ceiling else "", seated.seat_missing, seated.strangers

    over_riser = (1969, RISER.label, False, ())
    for name in ("Riser of the shop, long", "the riser", "Adapter", "key m"):
        assert seat(name) == over_riser
    for name in ("the machine’s own slot", "SHORT", "board"):
        assert seat(name) == (3938, "the slot", False, ())
    assert seat("rizer") == (None, "", False, (Stranger("seat", "rizer"),))
    assert seat(None) == (None, "", True, ())


def test_what_is_carried_and_what_paste_is_on_are_parts_of_the_build() -> None:
    paste = Part("p", "thermal paste", "Merle", {"belongs_to": "the grafics"})
    riser = replace(RISER, rated={**RISER.rated, "carries": "Dunlin"})
    build = Build(B, "B", "Carried", (DATA, SYSTEM, riser, CARD, paste))
    seated = {each.part.label: each for each in seat_parts({}, build)}
    assert seated["Merle"].strangers == (Stranger("belongs_to", "the grafics"),)
    assert seated[RISER.label].strangers == ()
    ceiling = seated["Dunlin 2 TB"].ceiling
    assert ceiling is not None
    assert ceiling.limited_by == RISER.label


def test_a_part_that_goes_in_beside_others_of_its_kind_says_so() -> None:
    alone, empty = Build(B, "B", "One", (SYSTEM,)), Build(B, "B", "None noted", ())
    for before, after, beside in ((alone, (SYSTEM, DATA), True), (empty, (DATA,), False), (alone, (DATA,), False)):
        (difference,) = find_differences(before, Build(C, "C", "New", after))
        assert difference.beside == beside

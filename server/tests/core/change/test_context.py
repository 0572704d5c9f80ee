"""Results in their context: ceilings of links and buses, ratings, the rise of the hardware, shares of a job."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lynxbill.core.change.ceilings import LinkEnd, bus_ceiling, ceiling_of, link_ceiling
from lynxbill.core.change.context import Context
from lynxbill.core.record.build import Build, Part
from lynxbill.core.record.ids import Plain, RunId, WorkloadId
from lynxbill.core.record.plan import PlannedMeasure
from lynxbill.core.record.workload import Workload
from lynxbill.core.result.comparison import judge
from lynxbill.core.result.result import Comparison
from lynxbill.core.result.shares import still_waiting, waiting_share
from lynxbill.core.terms.errors import BadValue
from lynxbill.core.terms.measure import MeasureId
from tests.builders import RATE, TIME, B, C, make_case

STEADY = [[1000.0, 1010.0, 1005.0], [1008.0, 1002.0, 1004.0], [1003.0, 1001.0, 1006.0]]


@pytest.mark.parametrize(
    ("rate", "lanes", "raw", "usable"),
    [
        # The link standards' own tables, in MB/s: 250 a lane at 2.5 GT/s, 500 at 5, 985 at 8, 1969 at 16.
        (2.5, 1, 312.5, 250.0),
        (5.0, 1, 625.0, 500.0),
        (6.0, 1, 750.0, 600.0),
        (8.0, 4, 4000.0, 3938.46),
        (10.0, 1, 1250.0, 1212.12),
        (16.0, 4, 8000.0, 7876.92),
        (64.0, 4, 32000.0, 30250.0),
    ],
)
def test_a_link_carries_what_the_standards_say(rate: float, lanes: float, raw: float, usable: float) -> None:
    ceiling = link_ceiling([LinkEnd("drive", rate, lanes)])
    assert ceiling.raw == pytest.approx(raw)
    assert ceiling.usable == pytest.approx(usable, rel=1e-5)
    assert ceiling.limited_by == ""


def test_the_slower_and_the_narrower_end_limit_a_link_and_are_named() -> None:
    ends = [LinkEnd("the drive", 16, 4), LinkEnd("the slot", 8, 4), LinkEnd("the adapter", 16, 2)]
    ceiling = link_ceiling(ends)
    assert ceiling.usable == pytest.approx(8 * 2 * 125 * 128 / 130)
    assert ceiling.limited_by == "the slot and the adapter"


def test_a_link_rate_of_no_known_coding_loses_nothing_and_says_so() -> None:
    ceiling = link_ceiling([LinkEnd("drive", 7.0, 1)])
    assert (ceiling.usable, ceiling.loss_known) == (ceiling.raw, False)


def test_a_memory_bus_carries_transfers_times_width() -> None:
    assert bus_ceiling(3200, 2).usable == 51_200
    assert bus_ceiling(1600, 1).usable == 12_800


@pytest.mark.parametrize("ends", [[], [LinkEnd("x", 0, 4)], [LinkEnd("x", 8, -1)]])
def test_what_is_no_link_is_refused(ends: list[LinkEnd]) -> None:
    with pytest.raises(BadValue):
        link_ceiling(ends)
    with pytest.raises(BadValue):
        bus_ceiling(0, 2)


DRIVE = Part("d", "drive", "Siskin 1 TB", {"link_gts": 16, "lanes": 4})
RISER = Part("a", "adapter", "Riser", {"link_gts": 8, "lanes": 4, "drive_slot": "short"})
SLOT: dict[str, Plain] = {"drive_slot": "long", "drive_link_gts": 16, "drive_lanes": 2}
LONG, SHORT, OWN = 16 * 2 * 125 * 128 / 130, 8 * 4 * 125 * 128 / 130, 16 * 4 * 125 * 128 / 130


@pytest.mark.parametrize(
    ("adapters", "needs", "sentence", "usable"),
    [
        # One seat alone is known without a word; more than one has to be told.
        ((), None, None, LONG),
        ((RISER,), None, None, None),
        ((RISER,), None, "long", LONG),
        ((RISER,), None, "Riser", SHORT),
        ((RISER,), None, "SHORT ", SHORT),
        ((RISER,), None, "the third bay", None),
        # A drive that fits one seat only sits there.
        ((RISER,), "long", None, LONG),
        ((RISER,), "short", None, SHORT),
        ((), "short", None, None),
    ],
)
def test_a_drive_has_a_ceiling_only_where_its_seat_is_known(
    adapters: tuple[Part, ...], needs: str | None, sentence: str | None, usable: float | None
) -> None:
    drive = replace(DRIVE, rated={**DRIVE.rated, "drive_slot": needs})
    build = Build(B, "B", "Built", (drive, *adapters), {"drive_slot": sentence} if sentence else {})
    ceiling = ceiling_of(SLOT, build, drive)
    assert (ceiling and ceiling.usable) == (usable and pytest.approx(usable))


def test_an_adapter_elsewhere_or_a_second_drive_lays_no_ceiling_on_a_drive() -> None:
    second = replace(DRIVE, id="e", label="Old drive")
    build = Build(B, "B", "Built", (DRIVE, second, RISER))
    assert ceiling_of(SLOT, build, DRIVE) is None
    bare = Build(B, "B", "Built", (DRIVE,))
    own = ceiling_of({}, bare, DRIVE)
    assert own is not None
    assert own.usable == pytest.approx(OWN)
    assert own.limited_by == ""
    card = Part("g", "graphics", "Card", {"link_gts": 16, "lanes": 4})
    beside = Build(B, "B", "Built", (card, RISER))
    assert ceiling_of({"card_link_gts": 8, "card_lanes": 4}, beside, card) is None


def test_of_several_drives_each_has_the_ceiling_of_the_seat_that_is_named_for_it() -> None:
    old = replace(DRIVE, id="e", label="Old drive")
    carrying = replace(RISER, rated={**RISER.rated, "carries": "Old drive"})
    build = Build(B, "B", "Built", (DRIVE, old, carrying))
    found = [ceiling_of(SLOT, build, part) for part in (DRIVE, old)]
    assert [ceiling and ceiling.usable for ceiling in found] == [pytest.approx(LONG), pytest.approx(SHORT)]
    sentence = replace(DRIVE, rated={**DRIVE.rated, "seat": "riser"})
    moved = Build(B, "B", "Built", (sentence, old, RISER))
    ceiling = ceiling_of(SLOT, moved, sentence)
    assert ceiling is not None
    assert ceiling.usable == pytest.approx(SHORT)
    assert ceiling.limited_by == "Riser"


def test_a_path_that_slots_share_limits_what_sits_in_any_of_them() -> None:
    build = Build(B, "B", "Built", (DRIVE,))
    limits = SLOT | {"drive_lanes": 4, "path_gts": 8, "path_lanes": 4}
    ceiling = ceiling_of(limits, build, DRIVE)
    assert ceiling is not None
    assert ceiling.usable == pytest.approx(SHORT)
    assert ceiling.limited_by == "the path that slots share"


def test_the_ceiling_of_memory_is_that_of_the_slowest_of_rate_setting_and_board() -> None:
    memory = Part("r", "memory", "Pair", {"rate_mts": 3200, "channels": 2})
    held = Build(C, "C", "Held", (memory,), {"memory_mts": 2666})
    slow = ceiling_of({"memory_max_mts": 2933}, held, memory)
    assert slow is not None
    assert (slow.usable, slow.limited_by) == (2666 * 16, "the memory speed held")
    unknown = Part("u", "drive", "No figures", {})
    assert ceiling_of(SLOT, held, unknown) is None


def drive_swap(after_rate: float, **rated: Plain) -> Comparison:
    """A drive on a link of 600 MB/s gives way to one on 3938 MB/s; read rates from `STEADY` to `after_rate`."""
    old = Part("old", "drive", "Old", {"link_gts": 6, "lanes": 1, "read_mbs": 550})
    new = Part("new", "drive", "New", {"link_gts": 8, "lanes": 4, **rated})
    half = [[value / 2 for value in sitting] for sitting in STEADY]
    after = [[value * after_rate / 1005 for value in sitting] for sitting in STEADY]
    case = make_case(half, after, replace(RATE, rated_as="read_mbs"))
    return judge(
        replace(
            case,
            builds=(Build(B, "B", "Old", (old,)), Build(C, "C", "New", (new,))),
            workloads=(Workload(WorkloadId("w"), "job", loads=("drive",)),),
        )
    )


def test_a_rate_stands_beside_its_ceiling_and_its_rating() -> None:
    (result,) = drive_swap(3500, read_mbs=3400).measures
    before, after = result.context.ceilings
    assert (before.part, before.side, after.side) == ("Old", "before", "after")
    assert before.share_percent == pytest.approx(100 * 502 / 600, rel=0.01)
    assert after.share_percent == pytest.approx(100 * 3500 / 3938.46, rel=0.01)
    rated = result.context.rated
    assert [(r.part, r.figure, r.reachable) for r in rated] == [
        ("Old", "rated read", True),
        ("New", "rated read", True),
    ]
    assert rated[1].share_percent == pytest.approx(100 * 3500 / 3400, rel=0.01)
    assert "above_ceiling" not in [flag.code for flag in result.flags]


def test_a_rate_above_its_ceiling_came_from_a_cache_and_a_rating_above_it_could_not_be_tested() -> None:
    (result,) = drive_swap(4200, read_mbs=7000).measures
    assert result.context.ceilings[1].share_percent > 100
    (flag,) = (flag for flag in result.flags if flag.code == "above_ceiling")
    assert (flag.side, flag.figures) == ("after", (result.context.ceilings[1].share_percent,))
    assert [rated.reachable for rated in result.context.rated] == [True, False]


@pytest.mark.parametrize(
    ("target", "rated"), [("Old", ["Old", "New"]), (None, []), ("Data", ["Data", "Data"]), ("x", [])]
)
def test_a_figure_is_set_against_the_rating_of_the_drive_that_it_is_aimed_at(
    target: str | None, rated: list[str]
) -> None:
    def drive(name: str) -> Part:
        return Part(name, "drive", name, {"read_mbs": 500})

    case = make_case(STEADY, STEADY, replace(RATE, rated_as="read_mbs"))
    builds = (
        Build(B, "B", "Old", (drive("Data"), drive("Old"))),
        Build(C, "C", "New", (drive("Data"), drive("New"))),
    )
    aimed = Workload(WorkloadId("w"), "job", loads=("drive",), target=target)
    (result,) = judge(replace(case, builds=builds, workloads=(aimed,))).measures
    assert [each.part for each in result.context.rated] == rated


def test_the_gain_is_related_to_each_figure_that_grew() -> None:
    (result,) = drive_swap(3500, read_mbs=5500, size_gb=2000).measures
    grown = {realised.figure: realised for realised in result.context.realised}
    assert set(grown) == {"link rate", "lanes", "rated read"}
    rated = grown["rated read"]
    assert rated.increase_percent == pytest.approx(900)
    assert result.gain_percent is not None
    assert rated.share_percent == pytest.approx(100 * result.gain_percent / 900)


def test_a_workload_of_unknown_load_has_no_context() -> None:
    (result,) = judge(make_case(STEADY, STEADY, RATE)).measures
    assert result.context == Context()


def test_amdahl_by_hand() -> None:
    # Twice as fast a part makes the job a quarter faster: 0.2/0.5 = 40 % waited for it, 0.2/0.8 = 25 % still does.
    share = waiting_share(2.0, 1.25)
    assert share == pytest.approx(0.4)
    assert still_waiting(share, 2.0) == pytest.approx(0.25)


@given(st.floats(0.01, 1), st.floats(1.05, 50))
def test_the_share_is_what_the_speed_ups_were_made_from(share: float, part: float) -> None:
    whole = 1 / (1 - share + share / part)
    assert waiting_share(part, min(whole, part)) == pytest.approx(share, rel=1e-6)
    assert 0 < still_waiting(share, part) <= 1


@pytest.mark.parametrize("speedups", [(2.0, 1.0), (2.0, 2.5), (0.9, 0.8)])
def test_speed_ups_that_no_share_explains_are_refused(speedups: tuple[float, float]) -> None:
    with pytest.raises(BadValue):
        waiting_share(*speedups)


def processor_swap(task_gain: float, part_gain: float) -> Comparison:
    """One processor for another; a job that loads two parts, and a workload that loads the processor alone."""
    part = replace(TIME, id=MeasureId("part"), name="Part", workload="alone")
    jobs = make_case(STEADY, [[value / task_gain for value in sitting] for sitting in STEADY])
    alone = make_case(STEADY, [[value / part_gain for value in sitting] for sitting in STEADY], part)
    plan = replace(
        jobs.swaps[0].plan,
        measures={TIME.id: PlannedMeasure("claim", 2.0), MeasureId("part"): PlannedMeasure("claim", 2.0)},
    )
    four, six = (Part(name, "processor", name, {"cores": n}) for name, n in (("four", 4), ("six", 6)))
    return judge(
        replace(
            jobs,
            measures=(TIME, part),
            runs=(*jobs.runs, *(replace(run, id=RunId(f"alone {run.id}")) for run in alone.runs)),
            swaps=(replace(jobs.swaps[0], plan=plan),),
            builds=(Build(B, "B", "Four", (four,)), Build(C, "C", "Six", (six,))),
            workloads=(
                Workload(WorkloadId("w"), "job", loads=("processor", "drive")),
                Workload(WorkloadId("v"), "alone", loads=("processor",)),
            ),
        )
    )


def test_a_comparison_says_which_share_of_the_job_waited_for_the_part() -> None:
    (share,) = processor_swap(1.25, 2.0).shares
    assert (share.job, share.part_measure, share.note) == ("time", "part", None)
    assert share.share == pytest.approx(0.4)
    assert share.still_waits == pytest.approx(0.25)
    assert share.most_left == pytest.approx(4 / 3)
    assert share.low is not None
    assert share.high is not None
    assert share.low < 0.4 < share.high


@pytest.mark.parametrize(
    ("job", "part", "note"), [(0.9, 2.0, "no_gain"), (1.5, 0.9, "no_gain"), (3, 2, "more_than_the_part")]
)
def test_where_no_share_explains_the_gains_it_says_why(job: float, part: float, note: str) -> None:
    (share,) = processor_swap(job, part).shares
    assert (share.share, share.note) == (None, note)

"""What a machine shows against what its build says."""

import pytest

from lynxbill.core.change.identified import Shown, ShownPart, find_departures
from lynxbill.core.record.build import Build, Part, PartRole
from lynxbill.core.record.ids import BuildId, Plain
from lynxbill.words.base.identified import say_departure


def build(*parts: tuple[PartRole, str, dict[str, Plain]], **settings: Plain) -> Build:
    fitted = tuple(Part(str(number), role, label, rated) for number, (role, label, rated) in enumerate(parts))
    return Build(BuildId("b"), "B", "as it is", fitted, settings)


def shown(*parts: tuple[PartRole, dict[str, Plain]], firmware: str | None = None) -> Shown:
    return Shown(tuple(ShownPart(role, "as shown", rated) for role, rated in parts), firmware)


def sentence(of: Build, told: Shown) -> list[str]:
    return [say_departure(departure, ",") for departure in find_departures(of, told)]


def test_memory_that_is_not_all_there_asks_for_its_seat() -> None:
    two = build(("memory", "one", {"size_gb": 8, "modules": 1}), ("memory", "other", {"size_gb": 8.0, "modules": 1}))
    assert sentence(two, shown(("memory", {"size_gb": 16, "modules": 2}))) == []
    assert sentence(two, shown(("memory", {"size_gb": 8, "modules": 1}))) == [
        "Memory, size: the build says 16 GB, the machine shows 8 GB: is a module not seated?",
        "Memory, modules: the build says 2, the machine shows 1: is a module not seated?",
    ]
    assert "written down" in sentence(two, shown(("memory", {"size_gb": 32})))[0]


def test_a_processor_is_held_by_its_cores_and_its_clock() -> None:
    one = build(("processor", "Varro 6-core", {"cores": 6, "boost_ghz": 3.9, "power_w": 65}))
    assert sentence(one, shown(("processor", {"cores": 6, "threads": 12, "boost_ghz": 3.92}))) == []
    assert sentence(one, shown(("processor", {"cores": 4, "boost_ghz": 3.4}))) == [
        "Processor, cores: the build says 6, the machine shows 4: are cores switched off in the firmware, or is it "
        "another processor?",
        "Processor, boost clock: the build says 3,9 GHz, the machine shows 3,4 GHz: is boost switched off?",
    ]


def test_drives_are_known_by_their_size_and_each_once() -> None:
    two = build(
        ("drive", "Siskin 1 TB", {"size_gb": 1000, "lanes": 4}), ("drive", "Siskin 1 TB, old", {"size_gb": 1000})
    )
    assert sentence(two, shown(("drive", {"size_gb": 1024, "lanes": 2}), ("drive", {"size_gb": 4000}))) == [
        "Drive, lanes: the build says 4, the machine shows 2: is it in another slot?",
        "“Siskin 1 TB, old” is not seen by the machine: are its lead and slot right?",
    ]
    assert sentence(two, shown(("memory", {"size_gb": 8}))) == []


@pytest.mark.parametrize(("told", "count"), [("1.20", 0), ("F 1.20 (May)", 0), ("1.10", 1), (None, 0)])
def test_firmware_is_held_against_what_was_written_down(told: str | None, count: int) -> None:
    assert len(sentence(build(firmware="1.20"), shown(firmware=told))) == count

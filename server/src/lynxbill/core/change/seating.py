"""Where each part of a build sits, what it can carry there, and what is named there that nothing goes by."""

from collections.abc import Mapping
from dataclasses import dataclass

from lynxbill.core.change.ceilings import Ceiling, ceiling_of, is_seat_known, number
from lynxbill.core.change.context import CEILED, ceiling_over
from lynxbill.core.record.build import Build, Part
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import Plain
from lynxbill.core.record.naming import find_named, is_named_at_all, means_own_seat, parts_loaded, same_words
from lynxbill.core.record.vocabulary import PART_FIGURES
from lynxbill.core.record.workload import Workload


@dataclass(frozen=True, slots=True)
class Stranger:
    """What a figure of a part names though no part of the build goes by it; `key` is the figure's."""

    key: str
    name: str


@dataclass(frozen=True, slots=True)
class Seating:
    """A part where it sits: its ceiling in MB/s where it is known, and whether its seat has to be told for that."""

    part: Part
    ceiling: Ceiling | None = None
    seat_missing: bool = False
    strangers: tuple[Stranger, ...] = ()


@dataclass(frozen=True, slots=True)
class Aim:
    """
    What a workload is set against on a build.

    `part` is the one it is aimed at, or the only one it loads whose link or rating counts; `among` are those it may
    be, where that can't be told; `stranger` is what it is aimed at though no part goes by it.
    """

    part: Part | None = None
    ceiling: Ceiling | None = None
    among: tuple[Part, ...] = ()
    stranger: str | None = None


def seat_parts(limits: Mapping[str, Plain], build: Build) -> tuple[Seating, ...]:
    """
    Seat every part of a build.

    Args:
        limits: of the machine, by their keys.
    """
    return tuple(_seat(limits, build, part) for part in build.parts)


def aim_of(case: Case, build: Build, workload: Workload) -> Aim:
    """
    Find what a workload is set against on a build: by what it is aimed at, and what it loads.

    Args:
        case: the machine.
        build: the build that the workload runs on.
        workload: what is run, with the target that it names.
    Returns: empty where it loads nothing whose link or rating could count.
    """
    roles = [role for role in workload.loads if role in CEILED]
    parts = parts_loaded(case, build, workload, roles)
    if is_named_at_all(workload.target) and not parts:
        anything = find_named(workload.target, build.parts)
        return Aim(anything) if anything is not None else Aim(stranger=str(workload.target))
    if len(parts) > 1 and any(part.role == other.role for part in parts for other in parts if part is not other):
        return Aim(among=tuple(parts))
    return Aim(parts[0], ceiling_over(case, build, workload)) if len(parts) == 1 else Aim()


def _seat(limits: Mapping[str, Plain], build: Build, part: Part) -> Seating:
    strangers = tuple(_strangers(limits, build, part))
    ceiling = ceiling_of(limits, build, part)
    has_link = number(part.rated, "link_gts") is not None and number(part.rated, "lanes") is not None
    is_asked = any(stranger.key == "seat" for stranger in strangers)
    missing = has_link and not is_asked and not is_seat_known(limits, build, part)
    return Seating(part, ceiling, missing, strangers)


def _strangers(limits: Mapping[str, Plain], build: Build, part: Part) -> list[Stranger]:
    others = [other for other in build.parts if other.id != part.id]
    adapters = [other for other in others if other.role == "adapter"]
    found = []
    for figure in PART_FIGURES[part.role]:
        name = part.rated.get(figure.key)
        if figure.kind != "part" or not is_named_at_all(name):
            continue
        if figure.key == "seat":
            slots = (adapter.rated.get("drive_slot") for adapter in adapters)
            is_known = (
                find_named(name, adapters) is not None
                or means_own_seat(name, limits.get("drive_slot"))
                or any(same_words(slot, name) for slot in slots)
            )
        else:
            is_known = find_named(name, others) is not None
        if not is_known:
            found.append(Stranger(figure.key, str(name)))
    return found

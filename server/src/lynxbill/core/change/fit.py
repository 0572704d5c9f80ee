"""Whether a part can go in at all, from the machine's limits where they are known."""

import re
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from lynxbill.core.record.build import Build, Candidate, FitWord, PartRole
from lynxbill.core.record.frame import Machine
from lynxbill.core.record.ids import Plain

Relation = Literal["same", "one of", "at most", "held to"]
FitAbout = Literal["no part", "limit", "supply", "firmware", "answer"]
AMPLE_SUPPLY = 0.8


@dataclass(frozen=True, slots=True)
class FitCheck:
    """
    One demand of the part against what the machine has: a `limit` by its `rule`, the power `supply` (in W), the
    `firmware` (None: not noted), or what the technician `said` of it. `source` is what somebody wrote of where that
    stands: of the technician's word its source, of a supply the part it is (empty: the machine's own limit).
    """

    word: FitWord
    about: FitAbout
    demand: Plain = None
    limit: Plain = None
    rule: "Rule | None" = None
    source: str = ""


@dataclass(frozen=True, slots=True)
class Fit:
    """The worst of all checks; `unknown` lists what could not be checked, for a limit or a figure is missing."""

    word: FitWord
    checks: tuple[FitCheck, ...]
    unknown: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Rule:
    """
    `one of`: the limit lists what there is; `held to`: what exceeds it still works, at the limit's pace.

    `rare`: said to be unknown only where the machine has such a limit.
    """

    role: PartRole
    demand: str
    limit: str
    relation: Relation
    name: str
    unit: str = ""
    rare: bool = False


RULES: tuple[Rule, ...] = (
    Rule("processor", "socket", "socket", "same", "socket"),
    Rule("processor", "power_w", "processor_max_w", "at most", "processor power", "W"),
    Rule("processor", "cores", "processor_max_cores", "at most", "cores"),
    Rule("processor", "power_w", "processor_held_w", "held to", "power that the board lets it draw", "W", rare=True),
    Rule("cooler", "socket", "socket", "same", "socket"),
    Rule("cooler", "height_mm", "cooler_max_mm", "at most", "height", "mm"),
    Rule("cooler", "depth_mm", "cooler_depth_max_mm", "at most", "depth with its fans", "mm", rare=True),
    Rule("thermal paste", "pad_mm", "pad_gap_mm", "same", "pad thickness", "mm", rare=True),
    Rule("memory", "volts", "memory_volts", "same", "supply voltage", "V", rare=True),
    Rule("memory", "memory_type", "memory_type", "same", "memory type"),
    Rule("memory", "modules", "memory_slots", "at most", "modules in its slots"),
    Rule("memory", "size_gb", "memory_max_gb", "at most", "memory size", "GB"),
    Rule("memory", "rate_mts", "memory_max_mts", "held to", "memory rate", "MT/s"),
    Rule("drive", "drive_slot", "drive_slot", "same", "drive slot"),
    Rule("drive", "link_gts", "drive_link_gts", "held to", "link rate", "GT/s"),
    Rule("drive", "lanes", "drive_lanes", "held to", "lanes"),
    Rule("graphics", "length_mm", "card_max_mm", "at most", "length", "mm"),
    Rule("graphics", "height_mm", "card_height_max_mm", "at most", "height", "mm", rare=True),
    Rule("graphics", "bracket", "card_bracket", "same", "bracket", rare=True),
    Rule("graphics", "lead_kind", "lead_kinds", "one of", "kind of lead", rare=True),
    Rule("graphics", "power_leads", "free_leads", "at most", "power leads"),
    Rule("graphics", "link_gts", "card_link_gts", "held to", "link rate", "GT/s"),
    Rule("graphics", "lanes", "card_lanes", "held to", "lanes"),
)
_RANK: dict[FitWord, int] = {"fits": 0, "doubtful": 1, "does not fit": 2}


def check_fit(candidate: Candidate, machine: Machine, build: Build | None) -> Fit:
    """
    Hold a candidate's demands against the machine's limits.

    Args:
        build: what the machine is now; its other parts draw power and its firmware is known.
    Returns: `fits` only if something was checked and nothing spoke against it; where nothing could be checked,
        `doubtful`. The technician's own word (`fit_answer`) is one more check.
    """
    if candidate.alternative != "part":
        return Fit("fits", (FitCheck("fits", "no part"),), ())
    checks: list[FitCheck] = []
    unknown: list[str] = []
    for rule in RULES:
        if rule.role != candidate.role:
            continue
        demand, limit = candidate.rated.get(rule.demand), machine.limits.get(rule.limit)
        if demand is None or limit is None:
            if not rule.rare or limit is not None:
                unknown.append(rule.name)
        else:
            checks.append(_check(rule, demand, limit))
    checks += _check_supply(candidate, machine, build) + _check_firmware(candidate, build)
    if candidate.fit_answer is not None:
        checks.append(FitCheck(candidate.fit_answer, "answer", source=candidate.fit_source))
    words: list[FitWord] = [check.word for check in checks] or ["doubtful"]
    return Fit(max(words, key=_RANK.__getitem__), tuple(checks), tuple(unknown))


def _check(rule: Rule, demand: Plain, limit: Plain) -> FitCheck:
    word: FitWord
    if rule.relation in ("same", "one of"):
        there = re.split(r"[,;/]", str(limit)) if rule.relation == "one of" else [str(limit)]
        same = str(demand).strip().casefold() in [each.strip().casefold() for each in there]
        word = "fits" if same else "does not fit"
    elif _as_number(demand) <= _as_number(limit):
        word = "fits"
    else:
        word = "doubtful" if rule.relation == "held to" else "does not fit"
    return FitCheck(word, "limit", demand, limit, rule)


def _as_number(value: Plain) -> float:
    return float(value) if isinstance(value, (int, float)) else float("inf")


def _check_supply(candidate: Candidate, machine: Machine, build: Build | None) -> list[FitCheck]:
    """Add up the rated power of everything that would be fitted; a tenth to a fifth of a supply is no reserve."""
    if candidate.role in ("power supply", "cooler", "thermal paste") or "power_w" not in candidate.rated:
        return []
    supply, source = _supply_of(machine, build)
    if supply is None:
        return []
    stays = [p for p in (build.parts if build else ()) if p.role not in (candidate.role, "power supply", "cooler")]
    drawn = _as_number(candidate.rated["power_w"]) + sum(_known_power(part.rated) for part in stays)
    word: FitWord = "fits" if drawn <= AMPLE_SUPPLY * supply else "doubtful"
    return [FitCheck("does not fit" if drawn > supply else word, "supply", drawn, supply, source=source)]


def _known_power(rated: Mapping[str, Plain]) -> float:
    value = rated.get("power_w")
    return float(value) if isinstance(value, (int, float)) else 0.0


def _supply_of(machine: Machine, build: Build | None) -> tuple[float | None, str]:
    limit = machine.limits.get("supply_w")
    if isinstance(limit, (int, float)):
        return float(limit), ""
    for part in build.parts if build else ():
        if part.role == "power supply" and "power_w" in part.rated:
            return _known_power(part.rated), part.label
    return None, ""


def _check_firmware(candidate: Candidate, build: Build | None) -> list[FitCheck]:
    needed = candidate.rated.get("min_firmware")
    if needed is None:
        return []
    here = build.settings.get("firmware") if build else None
    is_same = here is not None and str(here) == str(needed)
    return [FitCheck("fits" if is_same else "doubtful", "firmware", needed, here)]

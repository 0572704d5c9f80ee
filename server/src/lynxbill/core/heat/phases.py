"""The phases of a run: rest, load and cool-down, from its marks or from its load."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from lynxbill.core.heat.trace import Floats

PhaseName = Literal["rest", "load", "cool-down"]
# Under load from so much of what all cores can do; a phase shorter than this belongs to the one around it.
LOADED_PERCENT = 50.0
SHORTEST_S = 20.0
_AT_REST = frozenset({"rest", "idle", "cool", "cool-down", "cooling", "end", "done"})


@dataclass(frozen=True, slots=True)
class Phase:
    """A stretch of a run, in s since its start; times of a load are counted from its own beginning."""

    name: PhaseName
    began_s: float
    ended_s: float

    @property
    def lasted_s(self) -> float:
        return self.ended_s - self.began_s

    def covers(self, at: Floats) -> NDArray[np.bool_]:
        """Which samples are in it: that on its end is the next phase's, where there is one."""
        inside: NDArray[np.bool_] = (at >= self.began_s) & ((at < self.ended_s) | (at[-1:] <= self.ended_s))
        return inside


def phases_by_marks(marks: Sequence[tuple[float, str]], end_s: float) -> tuple[Phase, ...]:
    """
    Read phases off the marks that a run was given while it lasted.

    Args:
        marks: (seconds since the start, what begins then), in order; “rest”, “idle” and “cool-down” are at rest, any
            other (“load”, “two thirds”) is load. end_s: when the run ended.
    """
    loads = [(max(0.0, at), name.strip().lower() not in _AT_REST) for at, name in marks if at < end_s]
    if not loads:
        return ()
    if loads[0][0] > 0:
        loads.insert(0, (0.0, not loads[0][1]))
    return _named(loads, end_s)


def phases_by_load(at: Floats, load: Floats) -> tuple[Phase, ...]:
    """
    Read phases off the load of the processor.

    Args:
        at: shape (n,), seconds since the start, rising; load: shape (n,), in % of all cores, no gap.
    Returns: none for fewer than two samples.
    """
    if len(at) < 2:
        return ()
    loaded = load >= LOADED_PERCENT
    turns = [0, *(np.flatnonzero(loaded[1:] != loaded[:-1]) + 1).tolist()]
    stretches = [(float(at[turn]), bool(loaded[turn])) for turn in turns]
    return _named(_without_short(stretches, float(at[-1])), float(at[-1]))


def _without_short(stretches: list[tuple[float, bool]], end_s: float) -> list[tuple[float, bool]]:
    """A stretch that is too short joins the one before it; at the beginning, the one after."""
    kept: list[tuple[float, bool]] = []
    for (began, loaded), (until, _) in pairwise([*stretches, (end_s, False)]):
        if until - began < SHORTEST_S and (kept or until < end_s):
            continue
        if not kept or kept[-1][1] != loaded:
            kept.append((began, loaded))
    return [(stretches[0][0], kept[0][1]), *kept[1:]] if kept else stretches[:1]


def _named(stretches: list[tuple[float, bool]], end_s: float) -> tuple[Phase, ...]:
    """Name what is at rest by what came before it; stretches of the same kind are one."""
    phases: list[Phase] = []
    for (began, loaded), (until, _) in pairwise([*stretches, (end_s, False)]):
        had_load = any(phase.name == "load" for phase in phases)
        name: PhaseName = "load" if loaded else "cool-down" if had_load else "rest"
        if phases and phases[-1].name == name:
            phases[-1] = Phase(name, phases[-1].began_s, until)
        else:
            phases.append(Phase(name, began, until))
    return tuple(phases)

"""Pairs: before-runs and after-runs matched by a rule that never looks at the readings."""

from collections.abc import Sequence
from dataclasses import dataclass
from statistics import median

from lynxbill.core.judgement.sitting import LeftOut, Sides, SittingUnit, WhyLeftOut
from lynxbill.core.record.ids import RunId
from lynxbill.core.record.plan import FixedPair, PairBy
from lynxbill.core.record.run import Run


@dataclass(frozen=True, slots=True)
class Pairing:
    """
    Matched runs (before id, after id), matched sittings (indices into the sides' units), and the rest.
    """

    pairs: tuple[tuple[RunId, RunId], ...]
    sittings: tuple[tuple[int, int], ...]
    unpaired: tuple[LeftOut, ...]


def pair_runs(sides: Sides, rule: PairBy, fixed: Sequence[FixedPair] = ()) -> Pairing:
    """
    Match before-sitting with after-sitting, and within them run with run.

    Args:
        sides: the units of one measure, each side oldest first.
        rule: `order` by position; `ambient` by the one-to-one assignment of least total difference in room
            temperature; `label` by the runs' pair labels; `none`.
        fixed: pairs set by hand, which replace the rule where the runs are part of the comparison.
    Returns: pairs of run ids, the matched sittings, and every run without a partner with its reason.
    Source: docs/judgement.md, "Pairs".
    """
    sittings = _match_sittings(sides, rule)
    present = {run.id for unit in sides.units for run in unit.runs} if fixed else set[RunId]()
    by_hand = [(p.before_run, p.after_run) for p in fixed if {p.before_run, p.after_run} <= present]
    pairs = by_hand or [pair for i, j in sittings for pair in _match_runs(sides.before[i], sides.after[j], rule)]
    matched = {run_id for pair in pairs for run_id in pair}
    why: WhyLeftOut = "no_pairs" if rule == "none" else "alone"
    alone = [
        LeftOut(run.id, why) for unit in sides.before + sides.after for run in unit.runs if run.id not in matched
    ]
    return Pairing(tuple(pairs), sittings, sides.left_out + tuple(alone))


def unit_differences(sides: Sides, pairing: Pairing) -> list[float]:
    """
    Take the difference after − before of every matched pair of sittings.

    Args:
        sides: sitting units of both sides, oriented: more is better.
        pairing: which is matched with which.
    Returns: oriented, on the scale of judgement, in the order of the pairs.
    """
    return [sides.after[j].unit - sides.before[i].unit for i, j in pairing.sittings]


def label_differences(sides: Sides, pairing: Pairing) -> list[list[float]]:
    """
    Take the differences of labelled inputs, sitting pair by sitting pair.

    Args:
        sides: sitting units of both sides, with their values by label.
        pairing: which is matched with which.
    Returns: for each matched pair of sittings after − before of every label's median, oriented, over the labels that
        every sitting of both sides has, in order of label; inner lists are empty where none is shared.
    """
    return [[row[label] for label in sorted(row)] for row in label_tables(sides, pairing)]


def label_tables(sides: Sides, pairing: Pairing) -> list[dict[str, float]]:
    """
    Take the differences of labelled inputs by their labels.

    Args:
        sides: sitting units of both sides, with their values by label.
        pairing: which is matched with which.
    Returns: as `label_differences`, each a mapping from label to difference.
    """
    matched = [(sides.before[i], sides.after[j]) for i, j in pairing.sittings]
    if not matched:
        return []
    units = [unit for pair in matched for unit in pair]
    shared = set.intersection(*({run.pair_label for run in unit.runs if run.pair_label} for unit in units))
    labels = [label for label in shared if label]
    return [
        {label: _label_median(after, label) - _label_median(before, label) for label in labels}
        for before, after in matched
    ]


def _label_median(unit: SittingUnit, label: str) -> float:
    return median(value for run, value in zip(unit.runs, unit.values, strict=True) if run.pair_label == label)


def _match_sittings(sides: Sides, rule: PairBy) -> tuple[tuple[int, int], ...]:
    if rule == "none":
        return ()
    if rule == "ambient":
        return _match_ambient(sides)
    return tuple((i, i) for i in range(min(len(sides.before), len(sides.after))))


def _match_ambient(sides: Sides) -> tuple[tuple[int, int], ...]:
    # SciPy's optimiser is imported only for the plans that ask for it: it costs a quarter of a second.
    from scipy.optimize import linear_sum_assignment

    before = [i for i, unit in enumerate(sides.before) if unit.sitting.ambient_c is not None]
    after = [j for j, unit in enumerate(sides.after) if unit.sitting.ambient_c is not None]
    if not before or not after:
        return ()
    cost = [[abs(_ambient(sides.before[i]) - _ambient(sides.after[j])) for j in after] for i in before]
    rows, columns = linear_sum_assignment(cost)
    return tuple((before[int(i)], after[int(j)]) for i, j in zip(rows, columns, strict=True))


def _ambient(unit: SittingUnit) -> float:
    return unit.sitting.ambient_c or 0.0


def _match_runs(before: SittingUnit, after: SittingUnit, rule: PairBy) -> list[tuple[RunId, RunId]]:
    if rule != "label":
        return [(ours.id, theirs.id) for ours, theirs in zip(before.runs, after.runs, strict=False)]
    partners: dict[str | None, list[Run]] = {}
    for run in after.runs:
        partners.setdefault(run.pair_label, []).append(run)
    return [
        (run.id, partners[run.pair_label].pop(0).id)
        for run in before.runs
        if run.pair_label is not None and partners.get(run.pair_label)
    ]

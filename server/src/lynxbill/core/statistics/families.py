"""Many measures at once: the headline alone, the other claims together, the controls together."""

from collections.abc import Mapping, Sequence

from lynxbill.core.terms.measure import MeasureId, Role


def holm(p_values: Sequence[float]) -> tuple[float, ...]:
    """
    Adjust the p-values of one family by Holm's step-down rule.

    Args:
        p_values: shape (m,), each in [0, 1].
    Returns: adjusted p-values in the given order, each in [p, 1]; the chance of any false finding among them is then
        held at the level they are compared with, whatever the correlation.
    Source: S. Holm, Scand. J. Statist. 6 (1979) 65.
    """
    order = sorted(range(len(p_values)), key=lambda index: p_values[index])
    adjusted = [1.0] * len(p_values)
    largest = 0.0
    for rank, index in enumerate(order):
        largest = max(largest, min(1.0, (len(p_values) - rank) * p_values[index]))
        adjusted[index] = largest
    return tuple(adjusted)


def adjust_families(
    tested: Mapping[MeasureId, tuple[Role, float]], headline: MeasureId | None, *, beside: float | None = None
) -> dict[MeasureId, float]:
    """
    Adjust every p-value within its family.

    Args:
        tested: role and p of each measure that can be tested.
        headline: the one claim named before the swap.
        beside: p of the headline in another comparison that was to be judged along with this one.
    Returns: adjusted p by measure. The headline claim stands alone, or with its own in that other comparison; the
        other claims are one family, the controls another; watch measures are not tested.
    """
    families: dict[str, list[MeasureId]] = {"claim": [], "control": []}
    adjusted: dict[MeasureId, float] = {}
    for measure, (role, p) in tested.items():
        if role == "claim" and measure == headline:
            adjusted[measure] = p if beside is None else holm((p, beside))[0]
        elif role != "watch":
            families[role].append(measure)
    for members in families.values():
        values = holm([tested[measure][1] for measure in members])
        adjusted |= dict(zip(members, values, strict=True))
    return adjusted

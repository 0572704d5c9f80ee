"""How many times as fast, and how much less time: said so that a reader can picture it, however large it is."""

from lynxbill.words.base.figures import DecimalMark, shown

# Beyond these nobody pictures the figure, and no reading carries it.
MOST_TIMES, LEAST_SHARE = 100.0, 1.0
_SLOW = 0.1


def say_times(ratio: float, mark: DecimalMark, *, score: bool = False, decimals: int = 2) -> str:
    """
    Say a speed against another.

    Args:
        ratio: above 0; 1 is as fast as before.
        score: what was measured is a score.
        decimals: of the ratio, where it is neither very large nor very small.
    """
    of = "the score" if score else "as fast"
    if ratio > MOST_TIMES:
        return f"over {MOST_TIMES:.0f} times {of}"
    if ratio >= _SLOW:
        return f"{shown(ratio, decimals, mark)}× {of}"
    if 1 / ratio > MOST_TIMES:
        return f"under 1 % of {of}" if score else f"over {MOST_TIMES:.0f} times slower"
    times = 1 / ratio
    if score:
        return f"{shown(100 * ratio, 1, mark)} % of the score"
    return f"{shown(times, 0 if times >= _SLOW * MOST_TIMES * 2 else 1, mark)} times slower"


def say_time(saved: float, mark: DecimalMark, decimals: int | None = None) -> str:
    """
    Say how much less time a job takes, or more.

    Args:
        saved: percent of the time before; negative, it takes longer.
        decimals: of the percent; as many as its size deserves where they are not given.
    """
    digits = decimals if decimals is not None else 0 if abs(saved) >= 10 else 1
    left = 100 - saved
    if left < LEAST_SHARE:
        return f"under {LEAST_SHARE:.0f} % of the time"
    if left > 100 * MOST_TIMES:
        return f"over {MOST_TIMES:.0f} times the time"
    if left > 100 / _SLOW:
        return f"{shown(left / 100, 0 if left > 2000 else 1, mark)} times the time"
    return f"{shown(abs(saved), digits, mark)} % {'less' if saved >= 0 else 'more'} time"

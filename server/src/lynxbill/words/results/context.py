"""What a result is set against, in words: ceilings, ratings, the rise of the hardware, its share of the job."""

from collections.abc import Iterable, Sequence

from lynxbill.core.change.context import Against, Rated, Realised, Side
from lynxbill.core.result.result import MeasureResult
from lynxbill.core.result.shares import ImpliedShare
from lynxbill.core.terms.quantity import unit_of
from lynxbill.words.base.figures import DecimalMark, figure, shown

# From here on a ceiling or a rating holds a measure back.
REACHED_PERCENT = 80.0


def say_context(result: MeasureResult, shares: Sequence[ImpliedShare], mark: DecimalMark) -> tuple[str, ...]:
    """Set a result against all that is known beside it, a line each; what is the same on both sides is said once."""
    context = result.context
    unit = unit_of(result.measure.unit).display
    return (
        *_by_side((against.side, _say_ceiling(against, mark)) for against in context.ceilings),
        *_by_side((rated.side, _say_rated(rated, unit, mark)) for rated in context.rated),
        *(_say_realised(realised, mark) for realised in context.realised),
        *(_say_share(share, mark) for share in shares if share.job == result.measure.id),
    )


def say_limits(result: MeasureResult, shares: Sequence[ImpliedShare], mark: DecimalMark) -> tuple[str, ...]:
    """Say what a result shows to hold the machine back now: ceilings and ratings that it reaches, and its share."""
    context = result.context
    unit = unit_of(result.measure.unit).display
    ceilings = (c for c in context.ceilings if c.side == "after" and c.share_percent >= REACHED_PERCENT)
    ratings = (r for r in context.rated if r.side == "after" and r.share_percent >= REACHED_PERCENT)
    return (
        *(_say_ceiling(ceiling, mark) for ceiling in ceilings),
        *(_say_rated(rated, unit, mark) for rated in ratings),
        *(_say_share(share, mark) for share in shares if share.job == result.measure.id),
    )


def _by_side(lines: Iterable[tuple[Side, str]]) -> list[str]:
    sides: dict[str, list[Side]] = {}
    for side, line in lines:
        sides.setdefault(line, []).append(side)
    return [f"{'Before and after' if len(of) > 1 else of[0].capitalize()}: {line}" for line, of in sides.items()]


def _say_ceiling(against: Against, mark: DecimalMark) -> str:
    limit = against.ceiling.limited_by
    by = f", limited by {limit}" if limit else ""
    # At its ceiling or above, it can't have come over that link.
    is_doubtful = against.share_percent >= 100
    doubt = " Suspected: a cache answered, or the link is not the one that is noted." if is_doubtful else ""
    share, usable = _percent(against.share_percent, mark), figure(against.ceiling.usable, mark)
    return f"{share} of the {usable} MB/s that {against.part} can carry here{by}.{doubt}"


def _say_rated(rated: Rated, unit: str, mark: DecimalMark) -> str:
    untested = "" if rated.reachable else " The link could not carry that, so the rating was not tested here."
    claim = f"{figure(rated.rated, mark)} {unit}".rstrip()
    return f"{_percent(rated.share_percent, mark)} of {rated.part}’s {rated.figure}, {claim}.{untested}"


def _say_realised(realised: Realised, mark: DecimalMark) -> str:
    rose = _percent(realised.increase_percent, mark)
    if realised.share_percent > 100:
        return f"Speed rose by more than the {realised.figure} did, {rose}."
    share = _percent(realised.share_percent, mark)
    return f"The {realised.figure} rose by {rose}; {share} of that came out as speed."


def _say_share(share: ImpliedShare, mark: DecimalMark) -> str:
    if share.note == "more_than_the_part":
        return "The task gained more than the part’s own measure did: the part alone does not explain it."
    if share.share is None or share.still_waits is None:
        return "No gain on the part’s own measure or on this task, so its share of the task can’t be told."
    ends = (share.low, share.high)
    span = "" if None in ends else f" ({' to '.join(shown(100 * (end or 0.0), 0) for end in ends)} %)"
    left = ""
    if share.most_left is not None:
        times = shown(share.most_left, 2, mark)
        left = f", so no faster part of this kind could make it more than {times} times as fast"
    waited, still = shown(100 * share.share, 0), shown(100 * share.still_waits, 0)
    return f"About {waited} % of this task waited for the part{span}; {still} % still does{left}."


def _percent(share: float, mark: DecimalMark) -> str:
    return f"{shown(share, 1 if share < 10 else 0, mark)} %"

"""Is there a better way to spend it: every swap that was done, every candidate and doing nothing, side by side."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import Literal

import numpy as np

from lynxbill.core.change.fit import check_fit
from lynxbill.core.judgement.verdict import VerdictWord
from lynxbill.core.record.build import Candidate
from lynxbill.core.record.frame import Frame
from lynxbill.core.result.result import Comparison, MeasureResult
from lynxbill.core.statistics.samples import SAMPLES, Floats, draw_prices, in_order, seed_of
from lynxbill.core.terms.measure import Measure, gain_percent
from lynxbill.core.terms.money import Basis, Booked
from lynxbill.core.value.account import Account, Terms
from lynxbill.core.value.bill import bill_of
from lynxbill.core.value.value import Value, no_value
from lynxbill.core.value.weighing import Stake, draw_together

OptionKind = Literal["swap", "candidate", "nothing"]
# More draws than this share with both gain and cost below nothing, and no ratio means anything.
_BOTH_BELOW = 0.025


@dataclass(frozen=True, slots=True)
class Option:
    """
    One way to spend money on a machine.

    `gain` with `low` to `high` is percent of speed for work, else the measure's unit, oriented; of a swap as judged,
    of a candidate as expected (`verdict` None). `cost_low` to `cost_high` are None where the cost is certain.
    `chance` is the probability that it buys most per unit of money among those that can be weighed; `extra_per_10`
    the extra gain for each extra 10 units of currency over the next cheaper one that is not `outdone` by another one.
    `expected` is what was expected of a swap before, `result` what it was judged to bring.
    """

    kind: OptionKind
    id: str | None
    label: str
    verdict: VerdictWord | None
    provisional: bool
    cost: Decimal | None
    cost_low: Decimal | None
    cost_high: Decimal | None
    gain: float | None
    low: float | None
    high: float | None
    value: Value
    basis: Basis | None = None
    chance: float | None = None
    extra_per_10: float | None = None
    outdone: bool = False
    fits: bool = True
    result: MeasureResult | None = None
    expected: float | None = None
    waits: bool = False

    @property
    def has_gain(self) -> bool:
        """Whether it has a gain that money can be set against: a real one, or one that is expected."""
        return self.gain is not None and self.verdict in (None, "real_gain") and not self.waits


def options_of(
    frame: Frame, comparisons: Mapping[str, Comparison], measure: Measure | None, terms: Terms
) -> tuple[Option, ...]:
    """
    Set every way to spend money beside the others, by one measure.

    Args:
        comparisons: that of each swap that was carried out, by swap id.
        measure: by which gains are told; None: nothing is measured.
        terms: which lines are in the sums.
    Returns: doing nothing first, then the swaps oldest first, then the candidates that were not fitted. Expected
        gains are percent of speed: beside another kind of measure a candidate has none.
    Source: docs/judgement.md, "Value"; the chance is the share of 20,000 draws of all in which its angle of
        (gain, cost) is the largest.
    """
    expected: dict[str, Candidate] = {c.swap: c for c in frame.candidates if c.swap is not None}
    swaps = [
        (_of_swap(swap.id, swap.label, comparisons[swap.id], measure, terms, frame), comparisons[swap.id])
        for swap in frame.swaps
        if swap.id in comparisons
    ]
    options = [replace(option, expected=_expected(expected.get(option.id or ""), measure)) for option, _ in swaps]
    candidates = [c for c in frame.weighed if c.swap is None]
    waiting = [_of_candidate(candidate, measure, frame) for candidate in candidates]
    idle = [] if any(c.alternative == "nothing" for c in candidates) else [_NOTHING]
    drawn = _draw_all(options, swaps, list(zip(waiting, candidates, strict=True)), measure, terms, frame)
    return _with_extra(_with_chances([*idle, *options, *waiting], drawn))


_NOTHING = Option(
    kind="nothing",
    id=None,
    label="Do nothing",
    verdict=None,
    provisional=False,
    cost=Decimal(0),
    cost_low=None,
    cost_high=None,
    gain=0.0,
    low=None,
    high=None,
    value=no_value("no_ratio"),
)


def _result_of(comparison: Comparison, measure: Measure | None) -> MeasureResult | None:
    named = (r for r in comparison.measures if measure is not None and r.measure.id == measure.id)
    return next((result for result in named if result.planned.role == "claim"), None)


def _of_swap(
    swap: str, label: str, comparison: Comparison, measure: Measure | None, terms: Terms, frame: Frame
) -> Option:
    bill, result = bill_of(frame, comparison, terms), _result_of(comparison, measure)
    account = bill.account
    cost_low, cost_high = account.range or (None, None)
    bare = Option(
        kind="swap",
        id=swap,
        label=label,
        verdict="untested",
        provisional=False,
        cost=account.net,
        cost_low=cost_low,
        cost_high=cost_high,
        gain=None,
        low=None,
        high=None,
        value=no_value("untested"),
        basis=_basis_of(account),
    )
    if result is None or not result.is_given:
        return replace(bare, waits=result is not None)
    interval = result.interval
    return replace(
        bare,
        verdict=result.verdict.word,
        provisional=result.provisional,
        gain=_size(result.estimate, result.measure),
        low=_size(interval.low, result.measure) if interval is not None else None,
        high=_size(interval.high, result.measure) if interval is not None else None,
        value=bill.values.get(result.measure.id, bare.value),
        waits=result.waits,
        result=result,
    )


def _size(oriented: float | None, measure: Measure) -> float | None:
    """Percent of speed for work, things of a set that pass, else the measure's unit."""
    if oriented is None:
        return None
    if measure.is_work:
        return gain_percent(oriented)
    return oriented * measure.whole if measure.scale == "outcome" else oriented


def _basis_of(account: Account) -> Basis | None:
    """What the prices of its parts are taken from, where they all are from the same."""
    bases = {entry.line.basis for entry in account.entries if entry.line.kind == "part"}
    return next(iter(bases)) if len(bases) == 1 else None


def _expected(candidate: Candidate | None, measure: Measure | None) -> float | None:
    return candidate.expected_gain if candidate is not None and measure is not None and measure.is_work else None


def _of_candidate(candidate: Candidate, measure: Measure | None, frame: Frame) -> Option:
    fits = check_fit(candidate, frame.machine, frame.fitted).word != "does not fit"
    gain = _expected(candidate, measure)
    per_10 = None
    if fits and gain is not None and candidate.price:
        per_10 = 10 * gain / float(candidate.price)
    return Option(
        kind="nothing" if candidate.alternative == "nothing" else "candidate",
        id=candidate.id,
        label=candidate.label,
        verdict=None,
        provisional=False,
        cost=candidate.price,
        cost_low=candidate.price_low,
        cost_high=candidate.price_high,
        gain=gain if fits else None,
        low=candidate.gain_low if gain is not None and fits else None,
        high=candidate.gain_high if gain is not None and fits else None,
        value=Value(per_10, None, None, None if per_10 is not None else "no_ratio"),
        basis=candidate.basis,
        fits=fits,
    )


Drawn = dict[str, tuple[Floats, Floats]]


def _draw_all(
    options: Sequence[Option],
    swaps: Sequence[tuple[Option, Comparison]],
    candidates: Sequence[tuple[Option, Candidate]],
    measure: Measure | None,
    terms: Terms,
    frame: Frame,
) -> Drawn:
    """Gains and costs of all that can be weighed, by id; the same data give the same draws."""
    stakes: dict[str, Stake] = {}
    for option, (_, comparison) in zip(options, swaps, strict=True):
        result = _result_of(comparison, measure)
        weighs = option.has_gain and option.cost is not None and option.id is not None
        if weighs and result is not None and result.interval is not None and option.id is not None:
            lines = in_order(bill_of(frame, comparison, terms).account.booked)
            stakes[option.id] = Stake(comparison, result.interval, {result.measure.id: 1.0}, lines)
    ordered = sorted(stakes, key=lambda name: stakes[name].rank)
    is_work = measure is not None and measure.is_work
    drawn = dict(zip(ordered, draw_together([stakes[name] for name in ordered], percent=is_work), strict=True))
    return drawn | _draw_candidates(candidates)


def _draw_candidates(candidates: Sequence[tuple[Option, Candidate]]) -> Drawn:
    """
    Draw what is expected, all from one generator: two of the same figures are drawn apart.

    A candidate takes part only with a low and a high beside its expected gain.
    """
    known = []
    for option, candidate in candidates:
        low, gain, high, price = option.low, option.gain, option.high, candidate.price
        if option.id is None or low is None or gain is None or high is None or price is None:
            continue
        ends = (price if end is None else end for end in (candidate.price_low, candidate.price_high))
        known.append(((low, gain, high), Booked(price, *ends), option.id))
    known.sort(key=lambda each: (each[0], each[1].likely, each[1].low, each[1].high, each[2]))
    generator = np.random.default_rng(seed_of([f for gains, _, _ in known for f in gains], [b for _, b, _ in known]))
    return {
        name: (
            generator.triangular(*gains, SAMPLES) if gains[0] < gains[2] else np.full(SAMPLES, gains[1]),
            draw_prices(generator, [line]),
        )
        for gains, line, name in known
    }


def _with_chances(options: Iterable[Option], drawn: Drawn) -> list[Option]:
    sound = {
        name: np.arctan2(gains, prices)
        for name, (gains, prices) in drawn.items()
        if np.mean((gains < 0) & (prices < 0)) <= _BOTH_BELOW
    }
    if len(sound) < 2:
        return list(options)
    names = sorted(sound)
    best = np.argmax(np.stack([sound[name] for name in names]), axis=0)
    chances = {name: float(np.mean(best == place)) for place, name in enumerate(names)}
    return [replace(option, chance=chances.get(option.id or "")) for option in options]


def _with_extra(options: Sequence[Option]) -> tuple[Option, ...]:
    """Hold each against the next cheaper one that is not outdone itself: cheaper, and bringing as much."""
    known = [o for o in options if o.cost is not None and o.gain is not None and (o.has_gain or o.kind == "nothing")]
    best: Option | None = None
    found: dict[int, Option] = {}
    for option in sorted(known, key=lambda option: (option.cost or Decimal(0), -(option.gain or 0.0))):
        gain, cost = option.gain or 0.0, option.cost or Decimal(0)
        if best is None:
            best = option
            continue
        more, paid = gain - (best.gain or 0.0), float(cost - (best.cost or Decimal(0)))
        if more <= 0 or paid <= 0:
            found[id(option)] = replace(option, outdone=True)
            continue
        found[id(option)] = replace(option, extra_per_10=10 * more / paid)
        best = option
    return tuple(found.get(id(option), option) for option in options)

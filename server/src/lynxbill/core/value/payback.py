"""When the time that a swap saves has earned its cost back."""

from dataclasses import dataclass

import numpy as np

from lynxbill.core.record.frame import Machine
from lynxbill.core.result.result import MeasureResult
from lynxbill.core.statistics.samples import draw_gains, draw_prices, in_order, seed_of
from lynxbill.core.value.bill import Bill

_SECONDS_AN_HOUR = 3600


@dataclass(frozen=True, slots=True)
class Payback:
    """
    Weeks until the cost is earned back, with their interval at the gain's own level; `high` None: no upper end.

    `saved_s` are the seconds saved a job.
    """

    saved_s: float
    weeks: float
    low: float
    high: float | None


def payback_of(machine: Machine, lead: MeasureResult | None, bill: Bill) -> Payback | None:
    """
    Turn the time that a job takes less into weeks.

    Args:
        machine: with how often the job is done, and what an hour of waiting for it is worth.
        lead: the leading claim's result.
    Returns: None unless the lead is a time with a real gain, the net cost is above zero, and the machine says how
        often the job is done and what an hour is worth.
    Source: docs/judgement.md, "Payback": weeks = net cost / (seconds saved a job × jobs a week × worth of a second),
        over the same draws as the value.
    """
    net, jobs, worth = bill.net_cost, machine.tasks_a_week, machine.hour_worth
    if lead is None or lead.measure.kind != "time" or lead.measure.unit != "s" or lead.interval is None:
        return None
    before, estimate = lead.before_mean, lead.estimate
    if lead.verdict.word != "real_gain" or before is None or estimate is None or net is None or net <= 0:
        return None
    if not jobs or not worth:
        return None
    a_week = float(worth) * jobs / _SECONDS_AN_HOUR
    lines = in_order(bill.account.booked)
    generator = np.random.default_rng(seed_of((estimate, lead.interval.se, lead.interval.df), lines))
    saved = -before * np.expm1(-draw_gains(generator, lead.interval))
    prices = draw_prices(generator, lines)
    # Where a draw saves nothing the cost never comes back.
    weeks = np.where(saved > 0, np.maximum(prices, 0) / np.maximum(saved, 1e-300) / a_week, np.inf)
    level = lead.interval.level
    low, high = np.quantile(weeks, ((1 - level) / 2, (1 + level) / 2), method="lower")
    saved_s = -before * float(np.expm1(-estimate))
    return Payback(saved_s, float(net) / saved_s / a_week, float(low), float(high) if np.isfinite(high) else None)

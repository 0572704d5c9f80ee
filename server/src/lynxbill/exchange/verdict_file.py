"""The result of a comparison put into its written form."""

from typing import Protocol

from lynxbill.core.change.context import Against
from lynxbill.core.judgement.sitting import LeftOut
from lynxbill.core.record.ledger_entries import Showing
from lynxbill.core.result.flags import Flag
from lynxbill.core.result.result import Comparison, MeasureResult, Overall
from lynxbill.core.result.settling import NOTHING_TO_SETTLE
from lynxbill.core.result.summary import Summary
from lynxbill.core.statistics.estimate import Basis
from lynxbill.core.terms.measure import gain_percent
from lynxbill.core.value.better import Better, Placing
from lynxbill.core.value.bill import Bill
from lynxbill.exchange.verdict_schema import (
    BetterOut,
    BillOut,
    CeilingOut,
    ClaimValueOut,
    CompanionsOut,
    ComparisonOut,
    FirstShownOut,
    FlagOut,
    MeasureResultOut,
    OverallOut,
    RatedOut,
    RealisedOut,
    SettlingOut,
    ShareOut,
    SummaryOut,
    TodayOut,
    TrendOut,
    UnpairedOut,
    WayOut,
    WithLateOut,
)


class Say(Protocol):
    """Whoever puts into words what the core says in codes."""

    def flag(self, flag: Flag, result: MeasureResult) -> str: ...

    def left_out(self, left: LeftOut) -> str: ...


def describe(placing: Placing, say: Say, counts: tuple[int, int] | None = None) -> ComparisonOut:
    """
    Put a comparison into its written form, with how it stands against other swaps of the machine.

    Args:
        say: puts flags, and why runs are left out, into words.
        counts: the machine's revision and count of evidence on the server where it was judged.
    """
    comparison = placing.comparison
    agreement = comparison.agreement
    return ComparisonOut(
        before=comparison.before,
        after=comparison.after,
        lead=comparison.lead.measure.id if comparison.lead else None,
        planned=agreement is not None and agreement.planned,
        first_look=agreement.first if agreement else None,
        second_look=agreement.second if agreement else None,
        attempt=agreement.attempt if agreement else 1,
        revision=counts[0] if counts else None,
        evidence_revision=counts[1] if counts else None,
        closes=list(comparison.closes),
        measures={result.measure.id: _describe_measure(result, say) for result in comparison.measures},
        overall=_describe_overall(comparison.overall),
        bill=_describe_bill(placing.bill),
        changes=list(comparison.changes),
        shares=[ShareOut.model_validate(share) for share in comparison.shares],
        trends=[TrendOut.model_validate(trend) for trend in comparison.trends],
        better_value=[_describe_better(other, better) for other, better in placing.others],
    )


def _describe_measure(result: MeasureResult, say: Say) -> MeasureResultOut:
    interval = result.interval
    is_ratio = result.measure.scale == "ratio"
    before, after = result.sides.before, result.sides.after
    summary_before, summary_after = result.summaries
    return MeasureResultOut(
        role=result.planned.role,
        matters_from=result.planned.matters_from,
        hoped_for=result.planned.hoped_for,
        bound=result.bound,
        pairs=list(result.pairing.pairs),
        unpaired=[UnpairedOut(run=run, reason=reason) for run, reason in _unpaired(result, say).items()],
        basis=_basis(result),
        provisional=result.provisional,
        units_before=len(before),
        units_after=len(after),
        runs_before=sum(len(unit.runs) for unit in before),
        runs_after=sum(len(unit.runs) for unit in after),
        passed_before=result.passed[0] if result.passed else None,
        passed_after=result.passed[1] if result.passed else None,
        above_room=result.sides.above_room,
        before_mean=result.before_mean,
        after_mean=result.after_mean,
        summary_before=_describe_summary(summary_before),
        summary_after=_describe_summary(summary_after),
        estimate=result.estimate,
        sd=interval.sd if interval else None,
        se=interval.se if interval else None,
        df=interval.df if interval else None,
        ci_low=interval.low if interval else None,
        ci_high=interval.high if interval else None,
        ci90_low=interval.low90 if interval else None,
        ci90_high=interval.high90 if interval else None,
        p=result.p if result.is_tested else None,
        p_adjusted=result.p_adjusted if result.is_tested else None,
        gain_percent=result.gain_percent,
        gain_low=gain_percent(interval.low) if interval and is_ratio else None,
        gain_high=gain_percent(interval.high) if interval and is_ratio else None,
        time_saved_percent=result.time_saved_percent,
        rise_saved_percent=result.rise_saved_percent,
        p_equivalence=result.p_equivalence if result.is_tested else None,
        e_value=interval.e_value if interval and result.is_tested else None,
        break_even=interval.break_even if interval else None,
        grade=result.grade,
        companions=CompanionsOut.model_validate(result.companions),
        least_rank_p=result.least_rank_p,
        verdict=result.verdict.word,
        remark=result.verdict.remark,
        sittings_to_settle=_fewest(result),
        settling=_describe_settling(result),
        noise_floor=result.floor,
        within_floor=result.within_floor,
        with_late=_describe_late(result.with_late),
        level=result.level,
        look=result.terms.look,
        sides_differ=interval.sides_differ if interval else False,
        first_shown=_describe_shown(result.first_shown),
        shown=result.shown,
        changed=result.changed,
        rules=result.rules,
        today=_describe_today(result.today),
        can_be_shown=result.can_be_shown,
        ceilings=[_describe_ceiling(against) for against in result.context.ceilings],
        rated=[RatedOut.model_validate(rated) for rated in result.context.rated],
        realised=[RealisedOut.model_validate(realised) for realised in result.context.realised],
        flags=[FlagOut(code=flag.code, message=say.flag(flag, result)) for flag in result.flags],
    )


def _unpaired(result: MeasureResult, say: Say) -> dict[str, str]:
    """Every run without a partner, with the reason; what was left out late is named whatever the figures rest on."""
    return {item.run_id: say.left_out(item) for item in (*result.pairing.unpaired, *result.late)}


def _describe_summary(summary: Summary | None) -> SummaryOut | None:
    return SummaryOut.model_validate(summary) if summary else None


def _fewest(result: MeasureResult) -> int | None:
    return min((way.sittings_a_side for way in result.to_settle.ways if way.goal == "gain"), default=None)


def _describe_settling(result: MeasureResult) -> SettlingOut | None:
    to_settle = result.to_settle
    if to_settle == NOTHING_TO_SETTLE:
        return None
    ways = [
        WayOut(
            name=way.name,
            goal=way.goal,
            sittings_a_side=way.sittings_a_side,
            more_sittings=way.more,
            more_runs=effort.runs,
            minutes=effort.minutes,
            minutes_at_hand=effort.at_hand,
            chance=way.chance,
        )
        for way, effort in zip(to_settle.ways, result.efforts, strict=True)
    ]
    return SettlingOut(ways=ways, matters_from_least=to_settle.least, short_block=to_settle.short_block)


def _describe_shown(entry: Showing | None) -> FirstShownOut | None:
    return FirstShownOut.model_validate(entry) if entry else None


def _describe_today(result: MeasureResult | None) -> TodayOut | None:
    if result is None:
        return None
    return TodayOut(
        rules=result.rules,
        verdict=result.verdict.word,
        remark=result.verdict.remark,
        estimate=result.estimate,
        ci_low=result.interval.low if result.interval else None,
        ci_high=result.interval.high if result.interval else None,
        p=result.p,
    )


def _describe_late(result: MeasureResult | None) -> WithLateOut | None:
    if result is None:
        return None
    return WithLateOut(
        verdict=result.verdict.word,
        remark=result.verdict.remark,
        runs_before=sum(len(unit.runs) for unit in result.sides.before),
        runs_after=sum(len(unit.runs) for unit in result.sides.after),
        estimate=result.estimate,
        ci_low=result.interval.low if result.interval else None,
        ci_high=result.interval.high if result.interval else None,
        gain_percent=result.gain_percent,
        p=result.p,
    )


def _describe_ceiling(against: Against) -> CeilingOut:
    return CeilingOut(
        side=against.side,
        part=against.part,
        measured=against.measured,
        raw=against.ceiling.raw,
        usable=against.ceiling.usable,
        loss_known=against.ceiling.loss_known,
        limited_by=against.ceiling.limited_by,
        share_percent=against.share_percent,
    )


def _describe_better(other: Comparison, better: Better) -> BetterOut:
    return BetterOut(
        before=other.before,
        after=other.after,
        probability=better.probability,
        winner=better.winner,
        note=better.note,
    )


def _basis(result: MeasureResult) -> Basis | None:
    if result.interval is not None:
        return result.interval.basis
    if result.exact_p is not None:
        return "exact"
    return "one_sitting" if result.provisional else None


def _describe_overall(overall: Overall | None) -> OverallOut:
    if overall is None:
        return OverallOut(
            basis=None,
            waiting=False,
            provisional=False,
            verdict=None,
            remark=None,
            level=None,
            look=None,
            gain_percent=None,
            low=None,
            high=None,
            measures=[],
        )
    estimate = overall.estimate
    return OverallOut(
        basis=estimate.basis if estimate else None,
        waiting=overall.waiting,
        provisional=overall.provisional,
        verdict=overall.verdict.word,
        remark=overall.verdict.remark,
        level=estimate.level if estimate else None,
        look=overall.look,
        gain_percent=gain_percent(overall.difference),
        low=gain_percent(estimate.low) if estimate else None,
        high=gain_percent(estimate.high) if estimate else None,
        measures=list(overall.measures),
    )


def _describe_bill(bill: Bill) -> BillOut:
    value = bill.value
    return BillOut(
        net_cost=bill.net_cost,
        currency=bill.currency,
        gain_per_10=value.gain_per_10,
        low=value.low,
        high=value.high,
        note=value.note,
        values={measure: ClaimValueOut.model_validate(one) for measure, one in bill.values.items()},
    )

"""The result of a comparison as JSON: what `lynxbill judge` prints and the server answers."""

from decimal import Decimal
from typing import Annotated

from pydantic import Field

from lynxbill.core.bill import Bill
from lynxbill.core.comparison import Comparison, Grade, MeasureResult
from lynxbill.core.estimate import Basis
from lynxbill.core.flags import FlagCode
from lynxbill.core.measure import Role, gain_percent
from lynxbill.core.overall import Overall
from lynxbill.core.value import ValueNote
from lynxbill.core.verdict import Remark, VerdictWord
from lynxbill.exchange.fields import Strict

RunId = str


class UnpairedOut(Strict):
    run: RunId
    reason: str


class CompanionsOut(Strict):
    """Figures shown on demand that never decide; null where they can't exist for the design."""

    sign_flip_p: float | None
    hodges_lehmann: float | None
    signed_rank_p: float | None
    mann_whitney_p: float | None
    welch_p: float | None


class FlagOut(Strict):
    code: FlagCode
    message: str


class MeasureResultOut(Strict):
    role: Role
    matters_from: float
    hoped_for: float | None
    bound: Annotated[float, Field(description="Half-width of the band that does not matter, on the estimate's scale")]
    pairs: list[tuple[RunId, RunId]]
    unpaired: list[UnpairedOut]
    basis: Basis | None
    provisional: bool
    units_before: int
    units_after: int
    runs_before: int
    runs_after: int
    before_mean: Annotated[float | None, Field(description="Mean behind the estimate: geometric for a ratio measure")]
    after_mean: float | None
    estimate: float | None
    sd: float | None
    se: float | None
    df: float | None
    ci_low: float | None
    ci_high: float | None
    ci90_low: float | None
    ci90_high: float | None
    p: float | None
    p_adjusted: float | None
    gain_percent: float | None
    gain_low: float | None
    gain_high: float | None
    time_saved_percent: float | None
    p_equivalence: float | None
    e_value: float | None
    break_even: float | None
    grade: Grade | None
    companions: CompanionsOut
    verdict: VerdictWord
    remark: Remark | None
    sittings_to_settle: int | None
    flags: list[FlagOut]


class OverallOut(Strict):
    gain_percent: float | None
    low: float | None
    high: float | None
    measures: list[str]


class BillOut(Strict):
    net_cost: Decimal | None
    currency: str
    gain_per_10: float | None
    low: float | None
    high: float | None
    note: ValueNote | None


class ComparisonOut(Strict):
    before: str
    after: str
    measures: dict[str, MeasureResultOut]
    overall: OverallOut
    bill: BillOut
    changes: list[str]


def describe(comparison: Comparison) -> ComparisonOut:
    """Put a comparison into its written form."""
    return ComparisonOut(
        before=comparison.before,
        after=comparison.after,
        measures={result.measure.id: _describe_measure(result) for result in comparison.measures},
        overall=_describe_overall(comparison.overall),
        bill=_describe_bill(comparison.bill),
        changes=list(comparison.changes),
    )


def _describe_measure(result: MeasureResult) -> MeasureResultOut:
    interval = result.interval
    is_ratio = result.measure.scale == "ratio"
    before, after = result.sides.before, result.sides.after
    return MeasureResultOut(
        role=result.planned.role,
        matters_from=result.planned.matters_from,
        hoped_for=result.planned.hoped_for,
        bound=result.bound,
        pairs=list(result.pairing.pairs),
        unpaired=[UnpairedOut(run=item.run_id, reason=item.reason) for item in result.pairing.unpaired],
        basis=_basis(result),
        provisional=result.provisional,
        units_before=len(before),
        units_after=len(after),
        runs_before=sum(len(unit.runs) for unit in before),
        runs_after=sum(len(unit.runs) for unit in after),
        before_mean=result.before_mean,
        after_mean=result.after_mean,
        estimate=result.estimate,
        sd=interval.sd if interval else None,
        se=interval.se if interval else None,
        df=interval.df if interval else None,
        ci_low=interval.low if interval else None,
        ci_high=interval.high if interval else None,
        ci90_low=interval.low90 if interval else None,
        ci90_high=interval.high90 if interval else None,
        p=result.p,
        p_adjusted=result.p_adjusted,
        gain_percent=result.gain_percent,
        gain_low=gain_percent(interval.low) if interval and is_ratio else None,
        gain_high=gain_percent(interval.high) if interval and is_ratio else None,
        time_saved_percent=result.time_saved_percent,
        p_equivalence=result.p_equivalence,
        e_value=interval.e_value if interval else None,
        break_even=interval.break_even if interval else None,
        grade=result.grade,
        companions=CompanionsOut.model_validate(result.companions),
        verdict=result.verdict.word,
        remark=result.verdict.remark,
        sittings_to_settle=result.sittings_to_settle,
        flags=[FlagOut.model_validate(flag) for flag in result.flags],
    )


def _basis(result: MeasureResult) -> Basis | None:
    if result.interval is not None:
        return result.interval.basis
    if result.exact_p is not None:
        return "exact"
    return "one_sitting" if result.provisional else None


def _describe_overall(overall: Overall | None) -> OverallOut:
    if overall is None:
        return OverallOut(gain_percent=None, low=None, high=None, measures=[])
    estimate = overall.estimate
    return OverallOut(
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
    )

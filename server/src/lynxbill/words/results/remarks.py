"""Why a verdict is what it is, and what would settle it."""

from collections.abc import Mapping

from lynxbill.core.judgement.verdict import Remark
from lynxbill.core.plan.planning import Effort
from lynxbill.core.result.result import MeasureResult
from lynxbill.core.result.settling import Goal, ToSettle, Way, WayName
from lynxbill.core.statistics.anytime import fewest_units
from lynxbill.core.terms.measure import difference_unit, gain_percent
from lynxbill.core.terms.quantity import unit_of
from lynxbill.words.base.change import Change, in_units
from lynxbill.words.base.figures import DecimalMark, bench_minutes, counted, shown, signed_percent

# In as few words as a row has room for; None where the row's group says it.
_WHY: Mapping[Remark, str | None] = {
    "small_but_detectable_gain": "a small gain, below what matters",
    "small_but_detectable_loss": "a small loss, below what matters",
    "may_be_too_small_to_matter": "may be too small to matter",
    "too_wide": "in or out of the band: open",
    "too_few_sittings": "fewer than 3 sittings a side",
    "plan_incomplete": "the plan is not complete",
    "added_after_verdict": "added after the last look",
    "awaits_second_look": "second look not due yet",
    "waits_for_sitting": "one more sitting is needed",
    "rests_on_left_out": "other with what was left out",
    "rests_on_boots": "restarts were only answered",
    "room_unknown": "the room is not known",
    "blocked_by_family": "chance, among so many",
    "one_run_a_side": "one run a side",
    "too_few_runs": "too few runs",
    "before_missing": "no before-side",
    "after_missing": "no after-side yet",
    "not_measured": "not measured",
    "watched_only": None,
    "workload_version_differs": "other versions",
    "parameters_differ": "other parameters",
    "target_differs": "other targets",
    "statistic_differs": "unlike readings",
    "scale_needs_counts": "needs 4 sittings a side",
    "pairs_missing": "labels make no pairs",
}
_REMARKS: Mapping[Remark, str] = {
    "small_but_detectable_gain": "A small gain can be detected, but it is below what matters.",
    "small_but_detectable_loss": "A small loss can be detected, but it is below what matters.",
    "may_be_too_small_to_matter": (
        "The change is real, but its interval reaches into the band: it may be too small to matter."
    ),
    "too_few_sittings": (
        "Fewer than three sittings a side leave the interval wide. Reboot and measure again, on both sides if you "
        "can."
    ),
    "plan_incomplete": (
        "The plan is not complete yet. Until it is, a stricter rule speaks, which stays right however often one "
        "looks; it does not settle this."
    ),
    "added_after_verdict": (
        "Sittings were added beyond the plan’s last look. They speak by a rule that asks for twice the evidence, and "
        "there is not that much."
    ),
    "awaits_second_look": (
        "The first look left it open, and the second is not due yet. Until then a stricter rule speaks, and does not "
        "settle it."
    ),
    "waits_for_sitting": (
        "Something was taken out late, or a sitting was closed short of its planned runs, and what is left is not "
        "enough: one more sitting has to make it good."
    ),
    "rests_on_left_out": (
        "With what was taken out or changed late, or closed short of its planned runs, the verdict is another one "
        "than without it. So it is not settled."
    ),
    "rests_on_boots": (
        "Whether the machine was restarted between sittings was only answered, and the verdict is another one if it "
        "was not. So it is not settled."
    ),
    "blocked_by_family": "On its own this would count as real; among so many measures it could be chance.",
    "one_run_a_side": "One run a side shows a change, never a verdict: it says nothing about chance.",
    "too_few_runs": "Too few runs: take at least three runs a side, better three sittings.",
    "before_missing": "Only the after-side is measured; there is nothing to compare with.",
    "after_missing": "Only the before-side is measured so far.",
    "not_measured": "Neither side is measured yet.",
    "watched_only": "Watched only: it gets an interval, no verdict.",
    "workload_version_differs": (
        "The two sides ran different versions of the task. Different versions are never compared: measure one "
        "side again."
    ),
    "parameters_differ": (
        "The two sides ran the task with different parameters. Measure one side again with the same ones."
    ),
    "target_differs": "The two sides were aimed at different targets. Measure one side again on the right one.",
    "statistic_differs": (
        "The two sides read different figures: lowest, mean, highest, settled or momentary. Read the same one on "
        "both sides, or correct which one a reading was."
    ),
    "scale_needs_counts": (
        "Steps and outcomes are counted by sittings: two a side at least, four before anything can be called."
    ),
    "pairs_missing": "This plan pairs by label, and too few inputs carry the same label on both sides.",
}
_UNPLANNED = (
    "These two builds were not planned to be compared. A stricter rule speaks of them, which stays right however "
    "often one looks; it does not settle this."
)
_WAYS: Mapping[WayName, str] = {
    "second look": "The second look",
    "more sittings": "Going on",
    "measured over": "Measuring it over",
}
_SHORT_BLOCK = (
    "Fewer than three sittings stand before the swap, so more after it can’t settle it: put the old part back for "
    "more, or measure it over"
)


def say_why(result: MeasureResult) -> str | None:
    """Say on its row why a verdict is what it is; None where there is nothing to say."""
    remark = result.verdict.remark
    if remark is None:
        return "one sitting on a side" if result.provisional else None
    # What was never planned has no plan to be completed.
    if remark == "plan_incomplete" and result.grade == "unplanned":
        return "not planned: more is asked"
    return _WHY[remark]


def say_remark(result: MeasureResult, mark: DecimalMark) -> str | None:
    """Say in full why a verdict is what it is, and what would help; None where there is nothing to say."""
    match result.verdict.remark:
        case None:
            return _say_provisional(result, mark) if result.provisional else None
        case "too_wide":
            return _say_too_wide(result, mark)
        case "too_few_sittings" if result.provisional:
            return _say_provisional(result, mark)
        case "plan_incomplete" if result.grade == "unplanned":
            return f"{_UNPLANNED}{_say_missing(result)}"
        case "plan_incomplete" | "awaits_second_look" | "added_after_verdict" as remark:
            return f"{_REMARKS[remark]}{_say_missing(result)}"
        case "room_unknown":
            change = "" if result.estimate is None else Change(result.measure, result.estimate, mark=mark).say()
            if result.sides.above_room:
                return (
                    f"{change} as the rooms were given, and they were given afterwards: such a room counts as its "
                    "side’s mean, give or take 1 K, and the verdict does not stand in all of that. Of 2 K hardly any "
                    "are found so, of 3 K less than half, of 4 K nine in ten: note the room while a sitting is open."
                )
            return (
                f"{change}, the room not known: a cooler day would look just the same. Say how warm the room was, "
                "and it is judged above it."
            )
        case remark:
            return _REMARKS[remark]


def _say_missing(result: MeasureResult) -> str:
    """What the rule for any time still lacks, where it has no interval yet."""
    if result.interval is not None or not result.sides.before or not result.sides.after:
        return ""
    paired, terms = result.design == "paired", result.terms
    had = len(result.pairing.sittings) if paired else min(len(side) for side in result.sides.both)
    least = fewest_units(after_last_look=terms.after_last_look, paired=paired, alpha=terms.alpha)
    wanted = "pairs" if paired else "sittings a side"
    have = counted(had, "pair") if paired else f"{had} on a side"
    speaks = f"{max(least, had + 1)} {wanted}"
    return f" With {have} it has no interval, however clear the change: it speaks from {speaks} on."


def _say_too_wide(result: MeasureResult, mark: DecimalMark) -> str:
    """It may matter or not: said by the interval, for the estimate itself may well lie beyond what matters."""
    matters = result.planned.matters_from
    margin = in_units(shown(matters, 1 if matters % 1 else 0, mark), result.measure)
    sentence = ""
    if result.interval is not None and result.estimate is not None:
        interval = Change(result.measure, result.estimate, result.interval.low, result.interval.high, mark)
        sentence = f"Anything from {interval.say_interval()} fits the readings, and "
    return (
        f"{sentence}±{margin} is what matters: so it is open whether it does. {_say_what_narrows(result.to_settle)}"
    )


def _say_what_narrows(to_settle: ToSettle) -> str:
    if to_settle.too_coarse:
        return "More sittings do not narrow it: it was read too coarsely."
    if to_settle.least is not None:
        return "Twenty sittings a side would not narrow it enough."
    return "More sittings narrow it; more runs in the same sitting hardly do."


def _say_provisional(result: MeasureResult, mark: DecimalMark) -> str:
    """What a single sitting on a side can't tell, with the figures filled in."""
    interval = result.interval
    if interval is None or interval.break_even is None:
        return "Provisional: one side has a single sitting, taken to be as steady as the other."
    moved = interval.break_even * interval.sd
    if result.measure.scale == "ratio":
        size = signed_percent(gain_percent(moved), 1, mark).removeprefix("+")
    else:
        size = f"{shown(moved, 2, mark)} {unit_of(difference_unit(result.measure)).display}".rstrip()
    times = shown(interval.break_even, 1, mark)
    holds = (
        f"The sides would still differ unless a reboot moves this measure by more than {times} times its scatter "
        f"({size})."
        if interval.break_even > 0
        else "The difference is within the scatter of the runs themselves."
    )
    return (
        f"A reboot alone can move readings, and with one sitting a side that can't be told from the part. {holds} "
        "More runs here won't help; two more sittings a side, with a reboot and three runs each, will."
    )


def say_settling(result: MeasureResult) -> str | None:
    """Say what would settle it, and what that takes at the bench: the cheapest way to each end; None if nothing."""
    to_settle = result.to_settle
    ways = list(zip(to_settle.ways, result.efforts, strict=False))

    def cheapest(goal: Goal) -> list[str]:
        return [_say_way(way, effort) for way, effort in ways if way.goal == goal][:1]

    sentences = [*([_SHORT_BLOCK] if to_settle.short_block else []), *cheapest("gain"), *cheapest("no change")]
    return f"{'. '.join(sentences)}." if sentences else None


def _say_way(way: Way, effort: Effort) -> str:
    end = "finds the gain hoped for" if way.goal == "gain" else "shows that it is none"
    waits = 0.0 if effort.minutes is None else effort.minutes - effort.at_hand
    unattended = f", {bench_minutes(waits)} unattended" if waits >= 1 else ""
    chance = shown(min(99.0, 100 * way.chance), 0)
    return (
        f"{_WAYS[way.name]} to {way.sittings_a_side} a side, {counted(way.more, 'more sitting')}, {end} with at "
        f"least about {chance} of 100, if so it is: {bench_minutes(effort.at_hand)} of hands{unattended}"
    )

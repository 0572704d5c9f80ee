"""What is wrong with a run file beyond its single fields: ids that repeat, references that lead nowhere."""

from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence, Set

from lynxbill.core.heat.readoff import role_read
from lynxbill.core.record.run import Run
from lynxbill.core.terms.errors import BadValue, Refusal
from lynxbill.core.terms.measure import Measure, check_reading
from lynxbill.core.terms.money import book, measures_of
from lynxbill.exchange.fields import UNSEEN, can_be_seen
from lynxbill.exchange.frame_schema import MeasureFile, PartFile, PlanFile
from lynxbill.exchange.problem import Problem
from lynxbill.exchange.run_members import to_measure
from lynxbill.exchange.run_schema import RunFile
from lynxbill.exchange.swap_members import swap_id, to_cost
from lynxbill.exchange.swap_schema import SwapFile


def find_problems(file: RunFile, runs: Sequence[Run]) -> Iterator[Problem]:
    """What a field alone can't tell: ids that repeat, references that lead nowhere, values of the wrong kind."""
    run_ids = {run.id for run in runs}
    yield from _unseen_names(file)
    yield from _repeated("measures", [m.id for m in file.measures])
    yield from _repeated("builds", [b.id for b in file.builds])
    yield from _repeated("sittings", [s.id for s in file.sittings])
    yield from _repeated("runs", [r.id for r in runs])
    yield from _build_problems(file)
    yield from _sitting_problems(file)
    yield from _run_problems(file, runs)
    yield from _swap_problems(file, run_ids)
    yield from _workload_problems(file)
    yield from _planning_problems(file, run_ids)


def _unseen_names(file: RunFile) -> Iterator[Problem]:
    """Names that are typed here are refused, and come in by no file either."""
    named = [("$.machine.name", file.machine.name)]
    for number, build in enumerate(file.builds):
        named.append((f"$.builds[{number}].label", build.label))
        named += [(f"$.builds[{number}].parts[{n}].label", part.label) for n, part in enumerate(build.parts)]
    named += [(f"$.workloads[{n}].name", workload.name) for n, workload in enumerate(file.workloads)]
    named += [(f"$.measures[{n}].name", measure.name) for n, measure in enumerate(file.measures)]
    named += [(f"$.swaps[{n}].label", swap.label) for n, swap in enumerate(file.swaps)]
    named += [(f"$.candidates[{n}].label", candidate.label) for n, candidate in enumerate(file.candidates)]
    yield from (Problem(path, UNSEEN) for path, name in named if not can_be_seen(name))


def _workload_problems(file: RunFile) -> Iterator[Problem]:
    yield from _repeated("workloads", [w.id for w in file.workloads])
    names: Counter[str] = Counter()
    for index, workload in enumerate(file.workloads):
        names[workload.name] += 1
        if names[workload.name] == 2:
            yield Problem(f"$.workloads[{index}].name", f"“{workload.name}” stands twice; names are unique")
    measures = {measure.id: measure for measure in file.measures}
    for index, measure in enumerate(file.measures):
        yield from _derived_problems(f"$.measures[{index}]", measure, measures)
        try:
            role_read(to_measure(measure))
        except BadValue as refusal:
            yield Problem(f"$.measures[{index}].trace_figure", str(refusal))
        if measure.part_of is None:
            continue
        path = f"$.measures[{index}].part_of"
        yield from _unknown(path, "measure", measure.part_of, measures)
        whole = measures.get(measure.part_of)
        if whole is not None and (whole.id == measure.id or whole.workload != measure.workload or whole.part_of):
            yield Problem(path, "a measure is part of another one of the same workload that is itself a whole")


def _derived_problems(path: str, measure: MeasureFile, measures: Mapping[str, MeasureFile]) -> Iterator[Problem]:
    ways = (measure.per_measure, measure.per_parameter, measure.needs)
    if (measure.derived_from is not None) != any(way is not None for way in ways):
        divisor = "what divides it or what is needed"
        yield Problem(path, f"a derived measure has “derived_from” and {divisor}, the others have neither")
    for name in ("derived_from", "per_measure"):
        other = getattr(measure, name)
        if other is None:
            continue
        yield from _unknown(f"{path}.{name}", "measure", other, measures)
        known = measures.get(other)
        if known is not None and (known.derived_from is not None or known.workload != measure.workload):
            yield Problem(f"{path}.{name}", "a measure is derived from others of the same workload that are read")


def _planning_problems(file: RunFile, runs: Set[str]) -> Iterator[Problem]:
    builds = {build.id for build in file.builds}
    swaps = {swap.id for swap in file.swaps}
    yield from _repeated("candidates", [c.id for c in file.candidates])
    yield from _repeated("rechecks", [r.id for r in file.rechecks])
    for index, candidate in enumerate(file.candidates):
        if candidate.swap is not None:
            yield from _unknown(f"$.candidates[{index}].swap", "swap", candidate.swap, {s for s in swaps if s})
    for index, recheck in enumerate(file.rechecks):
        yield from _unknown(f"$.rechecks[{index}].build", "build", recheck.build, builds)
        yield from _plan_problems(f"$.rechecks[{index}].plan", recheck.plan, file, runs)


def _repeated(noun: str, ids: list[str]) -> Iterator[Problem]:
    seen: Counter[str] = Counter()
    for index, identifier in enumerate(ids):
        seen[identifier] += 1
        if seen[identifier] == 2:
            yield Problem(f"$.{noun}[{index}].id", f"“{identifier}” stands twice; ids are unique")


def _unknown(path: str, noun: str, identifier: str, known: Iterable[str]) -> Iterator[Problem]:
    if identifier not in known:
        yield Problem(path, f"there is no {noun} “{identifier}” in this file")


def _build_problems(file: RunFile) -> Iterator[Problem]:
    first: dict[str, PartFile] = {}
    letters: set[str] = set()
    for index, build in enumerate(file.builds):
        if build.letter is not None and build.letter in letters:
            yield Problem(f"$.builds[{index}].letter", f"“{build.letter}” stands twice; letters are unique")
        letters |= {build.letter} if build.letter is not None else set()
        yield from _repeated(f"builds[{index}].parts", [part.id for part in build.parts])
        for number, part in enumerate(build.parts):
            if first.setdefault(part.id, part) != part:
                path = f"$.builds[{index}].parts[{number}]"
                yield Problem(path, f"part “{part.id}” is described differently in an earlier build; use another id")


def _sitting_problems(file: RunFile) -> Iterator[Problem]:
    builds = {build.id for build in file.builds}
    for index, sitting in enumerate(file.sittings):
        yield from _unknown(f"$.sittings[{index}].build", "build", sitting.build, builds)
        if sitting.boot_by is not None and sitting.boot is None:
            yield Problem(f"$.sittings[{index}].boot", "say which boot it was, or leave “boot_by” out")


def _run_problems(file: RunFile, runs: Sequence[Run]) -> Iterator[Problem]:
    sittings = {sitting.id for sitting in file.sittings}
    measures = {measure.id: to_measure(measure) for measure in file.measures}
    places: set[tuple[str, str, bool, int]] = set()
    for index, run in enumerate(runs):
        at = f"$.runs[{index}]"
        yield from _unknown(f"{at}.sitting", "sitting", run.sitting_id, sittings)
        place = (run.sitting_id, run.workload, run.warm_up, run.position)
        if place in places:
            yield Problem(
                f"{at}.position", f"sitting “{run.sitting_id}” already has a run {run.position} of “{run.workload}”"
            )
        places.add(place)
        for identifier in run.readings:
            path = f"{at}.readings.{identifier}"
            yield from _unknown(path, "measure", identifier, measures)
            if identifier in measures:
                yield from _reading_problems(path, measures[identifier], run)


def _reading_problems(path: str, measure: Measure, run: Run) -> Iterator[Problem]:
    if measure.workload != run.workload:
        yield Problem(path, f"this measure belongs to workload “{measure.workload}”, the run to “{run.workload}”")
    reading = run.readings[measure.id]
    try:
        for value in {reading.low, reading.high}:
            check_reading(value, measure)
    except Refusal as refusal:
        yield Problem(path, refusal.message)


def _swap_problems(file: RunFile, runs: Set[str]) -> Iterator[Problem]:
    builds = {build.id for build in file.builds}
    if file.plan is not None:
        yield from _plan_problems("$.plan", file.plan, file, runs)
    yield from _repeated("swaps", [swap.id or f"#{index}" for index, swap in enumerate(file.swaps)])
    for index, swap in enumerate(file.swaps):
        at = f"$.swaps[{index}]"
        yield from _unknown(f"{at}.from", "build", swap.before, builds)
        yield from _unknown(f"{at}.to", "build", swap.after, builds)
        if swap.before == swap.after:
            yield Problem(f"{at}.to", "a swap leads to another build; “from” and “to” are the same")
        yield from _plan_problems(f"{at}.plan", swap.plan, file, runs)
        yield from _record_problems(f"swaps[{index}]", swap, {measure.id for measure in file.measures})
        yield from _shown_problems(f"{at}.verdict_shown_for", swap.verdict_shown_for, file)
        yield from _ledger_problems(f"{at}.shown", swap, file)
        yield from _cost_problems(at, swap, file)


def _cost_problems(at: str, swap: SwapFile, file: RunFile) -> Iterator[Problem]:
    swaps = {other.id or swap_id(number) for number, other in enumerate(file.swaps, start=1)}
    measures = {measure.id for measure in file.measures}
    for number, line in enumerate(swap.costs):
        here, cost = f"{at}.costs[{number}]", to_cost(line)
        for share in cost.shares:
            yield from _unknown(f"{here}.shares", "swap", share, swaps)
        for measure in measures_of(cost):
            yield from _unknown(f"{here}.running", "measure", measure, measures)
        try:
            book(cost, file.machine.currency)
        except Refusal as refusal:
            yield Problem(f"{here}.{refusal.field or 'amount'}", refusal.message)


def _record_problems(at: str, swap: SwapFile, measures: set[str]) -> Iterator[Problem]:
    """What was noted at the bench while the swap was made."""
    for noun in ("steps", "recognitions", "starts", "notes", "explanations"):
        yield from _repeated(f"{at}.{noun}", [record.id for record in getattr(swap, noun)])
    for number, edit in enumerate(swap.margin_edits):
        yield from _unknown(f"$.{at}.margin_edits[{number}].measure", "measure", edit.measure, measures)


def _shown_problems(at: str, shown: list[str] | dict[str, list[str]] | None, file: RunFile) -> Iterator[Problem]:
    sittings = {sitting.id for sitting in file.sittings}
    measures = {measure.id for measure in file.measures}
    lists = {at: shown} if isinstance(shown, list) else {f"{at}.{key}": ids for key, ids in (shown or {}).items()}
    if isinstance(shown, dict):
        for measure in shown:
            yield from _unknown(f"{at}.{measure}", "measure", measure, measures)
    for path, ids in lists.items():
        for number, sitting in enumerate(ids):
            yield from _unknown(f"{path}[{number}]", "sitting", sitting, sittings)


def _ledger_problems(at: str, swap: SwapFile, file: RunFile) -> Iterator[Problem]:
    sittings = {sitting.id for sitting in file.sittings}
    measures = {measure.id for measure in file.measures}
    builds = {build.id for build in file.builds}
    for number, entry in enumerate(swap.shown or ()):
        yield from _unknown(f"{at}[{number}].measure", "measure", entry.measure, measures)
        if entry.compared is not None:
            yield from _unknown(f"{at}[{number}].compared", "build", entry.compared, builds)
        for place, sitting in enumerate(entry.sittings):
            yield from _unknown(f"{at}[{number}].sittings[{place}]", "sitting", sitting, sittings)


def _plan_problems(at: str, plan: PlanFile, file: RunFile, runs: Set[str]) -> Iterator[Problem]:
    measures = {measure.id for measure in file.measures}
    for identifier in plan.measures:
        yield from _unknown(f"{at}.measures.{identifier}", "measure", identifier, measures)
    if plan.headline is not None:
        yield from _unknown(f"{at}.headline", "measure", plan.headline, measures)
    for number, pair in enumerate(plan.pairs):
        for run in pair.runs:
            yield from _unknown(f"{at}.pairs[{number}].runs", "run", run, runs)
    builds = {build.id for build in file.builds}
    if plan.judge_whole is not None:
        yield from _unknown(f"{at}.judge_whole", "build", plan.judge_whole, builds)
    for number, build in enumerate(plan.borrow_spread_from):
        yield from _unknown(f"{at}.borrow_spread_from[{number}]", "build", build, builds)

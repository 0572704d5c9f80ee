"""What a run file says of its own past: a sum over it shows whether something of that was cut out."""

import hashlib
import json
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import fields, is_dataclass, replace
from datetime import UTC, datetime

from lynxbill.core.record.frame import Case
from lynxbill.core.record.ledger_entries import Showing
from lynxbill.core.record.swap import Swap

# Ids are written into these, so that they differ where nothing does but ids.
_HOLD_IDS = ("digest", "plan")
Json = str | float | bool | None | list["Json"] | dict[str, "Json"]


def history_sum(case: Case) -> str:
    """
    Sum up what was shown, when things were written, and what was changed since.

    Returns: hexadecimal SHA-256; the same under other ids.
    """
    names = _numbered(case)
    digest = hashlib.sha256()
    for line in _lines(case):
        digest.update(json.dumps([_plain(part, names) for part in line], sort_keys=True).encode() + b"\n")
    return digest.hexdigest()


def _numbered(case: Case) -> Mapping[str, str]:
    """Every id by its kind and place: a case that is taken in gets ids of its own."""
    kinds: Mapping[str, Iterable[str]] = {
        "measure": (measure.id for measure in case.measures),
        "build": (build.id for build in case.builds),
        "sitting": (sitting.id for sitting in case.sittings),
        "run": (run.id for run in case.runs),
        "swap": (swap.id for swap in case.swaps),
    }
    return {name: f"{kind} {n}" for kind, names in kinds.items() for n, name in enumerate(names)}


def _lines(case: Case) -> Iterator[tuple[object, ...]]:
    for swap in case.swaps:
        yield swap.id, "nobody knows" if swap.shown is None else len(swap.shown), swap.attempts, swap.margin_edits
        if swap.looked_at is not None:
            yield swap.id, "looked at", swap.looked_at
        for entry in swap.shown or ():
            yield swap.id, *(getattr(entry, f.name) for f in fields(Showing) if f.name not in _HOLD_IDS)
    for sitting in case.sittings:
        yield sitting.id, sitting.closed_at, sitting.was, sitting.set_aside
    for run in case.runs:
        if run.written_at or run.left_out_at or run.was or run.excluded_late:
            yield run.id, run.written_at, run.left_out_at, run.was, run.excluded_late


def _plain(value: object, names: Mapping[str, str]) -> Json:
    if isinstance(value, str):
        member, _, of = value.partition(".")
        return f"{member}.{names[of]}" if of in names else names.get(value, value)
    if isinstance(value, datetime):
        return value.astimezone(UTC).isoformat()
    if isinstance(value, Mapping):
        return {str(_plain(key, names)): _plain(kept, names) for key, kept in value.items()}
    if isinstance(value, (tuple, list)):
        return [_plain(kept, names) for kept in value]
    if is_dataclass(value) and not isinstance(value, type):
        return [_plain(getattr(value, member.name), names) for member in fields(value)]
    if isinstance(value, (int, float)) and not isinstance(value, bool):
        return float(value).hex()
    assert value is None or isinstance(value, bool), value
    return value


def hold_history(case: Case, told: str | None) -> Case:
    """
    Believe what a file says of its past only where its sum is that of it.

    Args:
        told: the sum that the file carries; None, it has none.
    Returns: the case; where the past is not whole, nobody knows what was shown of what has readings after its swap,
        nor by which rules.
    """
    if told == history_sum(case):
        return case
    measured = {s.build_id for s in case.sittings if s.id in case.used_sittings}
    return replace(case, swaps=tuple(_unknown(swap) if swap.after in measured else swap for swap in case.swaps))


def _unknown(swap: Swap) -> Swap:
    shown = tuple(replace(entry, rules=None) for entry in swap.shown or ())
    return replace(swap, shown=shown or None)

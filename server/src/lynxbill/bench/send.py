"""Sending what was measured: kept until the server has it, in the order in which it was made."""

from typing import Any

from lynxbill.bench.client import Client, ServerLost, ServerRefused
from lynxbill.bench.keep import Keep

Body = dict[str, Any]


def send_kept(keep: Keep, client: Client | None, machine: str, sitting: str) -> int:
    """
    Send what is kept of a sitting, in order; the server keeps each once, however often it comes.

    Returns: how many runs the server does not have yet.
    """
    entries = keep.entries(sitting)
    sent = {entry["sent"] for entry in entries if "sent" in entry}
    waiting = [entry for entry in entries if "sent" not in entry and _name(entry) not in sent]
    for done, entry in enumerate(waiting):
        if client is None:
            return _count_runs(waiting)
        try:
            refused = send_entry(client, machine, entry)
        except ServerLost:
            return _count_runs(waiting[done:])
        keep.add(sitting, {"sent": _name(entry), "refused": refused})
    return 0


def send_entry(client: Client, machine: str, entry: Body) -> str | None:
    """Send one thing that was kept; answers what of it was not taken, though the run was."""
    refused = None
    if "run" in entry:
        run = entry["run"]
        if entry["trace"] is not None:
            # First what its sensors told: the server reads off it what the run comes without.
            whole = {name: run[name] for name in ("sitting", "workload", "position", "warm_up")}
            trace = entry["trace"] | {"channels": [{**c, "first": 0} for c in entry["trace"]["channels"]]}
            try:
                client.post(f"/machines/{machine}/traces/{entry['id']}", whole | trace | {"ended": True})
            except ServerRefused as why:
                # A trace that can't be taken holds up neither its run nor those after it.
                refused = f"its trace was not taken: {why}"
        client.put(f"/machines/{machine}/bench/runs/{entry['id']}", run)
    elif "sitting" in entry:
        body = {"build": entry["build"], "purpose": "plan", "started_at": entry["started_at"]}
        client.put(
            f"/machines/{machine}/bench/sittings/{entry['sitting']}",
            body | {"boot": entry["boot"], "boot_by": "read"},
        )
    return refused


def close(client: Client, machine: str, sitting: str, keep: Keep) -> None:
    """The sitting is whole, and the server has it all; where it took a trace not, what is kept of it stays."""
    client.post(f"/machines/{machine}/sittings/{sitting}/close")
    if not refused_of(keep, sitting):
        keep.forget(sitting)


def refused_of(keep: Keep, sitting: str) -> list[str]:
    """What of a sitting the server did not take."""
    return [entry["refused"] for entry in keep.entries(sitting) if entry.get("refused")]


def _name(entry: Body) -> str:
    return str(entry.get("id") or f"sitting {entry.get('sitting')}")


def _count_runs(entries: list[Body]) -> int:
    return sum("run" in entry for entry in entries)

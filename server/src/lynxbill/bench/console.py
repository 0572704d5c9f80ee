"""The agent at the terminal: one word does what the plan needs next, and every refusal says what to type instead."""

import argparse
import json
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

from lynxbill.bench.bring import Known, bring, find_work, offer, read_set
from lynxbill.bench.catalogue import catalogue
from lynxbill.bench.client import TYPE_LIKE, Client, ServerLost, ServerRefused, read_address
from lynxbill.bench.job import WORK, Job, read_job
from lynxbill.bench.keep import Keep, Paired, usual_folder
from lynxbill.bench.runfile import write_run_file
from lynxbill.bench.runner import Outcome, Settings, choose_sitting, sit
from lynxbill.bench.send import close, refused_of, send_kept
from lynxbill.bench.sensors import ROOT
from lynxbill.bench.source import Source, ThisMachine
from lynxbill.bench.talk import INTERRUPTED, LOST, OK, UNUSABLE, Console, agrees, end, say
from lynxbill.bench.work.own import read_programs
from lynxbill.bench.workload import CannotRun

AGENT = "python3 lynxbill-bench.pyz"
NO_SERVER = "No server"


def main(words: Sequence[str] | None = None, called: str = AGENT, stand_in: Source | None = None) -> int:
    """Do what the words say, and answer the exit status; `stand_in` is measured in place of this machine."""
    told = _parser(called).parse_args(words)
    told.called, told.stand_in = called, stand_in
    # What was typed by then is told before the first run, not after an hour of them.
    try:
        keep = Keep(Path(told.state).expanduser() if told.state else usual_folder())
        return int(told.do(told, keep))
    except (ServerRefused, ServerLost, CannotRun) as error:
        return end(UNUSABLE, str(error))
    except KeyboardInterrupt:
        return end(INTERRUPTED, "\nStopped. What was measured by then is kept.")


def _parser(called: str) -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog=called, description="Measures this very machine for a Lynxbill server.", parents=[_everywhere()]
    )
    parser.set_defaults(
        **dict.fromkeys(("server", "machine", "job", "state", "target", "boot")),
        **{"sensors": "/", "hertz": 1.0, "rest_limit": 10.0, "yes": False, "do": _next},
    )
    # Its own copy: what is told before a word must not be taken back by a default after it.
    common = _everywhere()
    doing = parser.add_subparsers(title="what it does; without a word: what the plan needs next", metavar="WORD")
    pair = doing.add_parser("pair", parents=[common], help="take an address and the code on the Measure screen")
    pair.add_argument("address")
    pair.add_argument("code")
    pair.set_defaults(do=_pair)
    told = doing.add_parser("identify", parents=[common], help="say what is fitted here, as the system shows it")
    told.set_defaults(do=_identify)
    listed = doing.add_parser("list", parents=[common], help="list the workloads that it knows")
    listed.set_defaults(do=_list)
    run = doing.add_parser("run", parents=[common], help="measure by hand: workloads, repeats, parameters, target")
    run.add_argument("workload", nargs="*", help="as “list” names them; none: those of the plan")
    run.add_argument("--repeats", type=int, help="runs of each (as planned)")
    run.add_argument("--warm-ups", type=int, help="warm-ups before them (as planned)")
    run.add_argument(
        "--set", action="append", default=[], metavar="NAME=VALUE", help="a parameter, as “list” names it"
    )
    run.set_defaults(do=_run)
    send = doing.add_parser("send", parents=[common], help="send what is kept here")
    send.set_defaults(do=_send)
    return parser


def _everywhere() -> argparse.ArgumentParser:
    """What may be told before a word and after it; what is not told has no value here."""
    common = argparse.ArgumentParser(add_help=False, argument_default=argparse.SUPPRESS)
    common.add_argument("--server", help=f"address of the Lynxbill server; {TYPE_LIKE}")
    common.add_argument("--machine", help="id or name of the machine on it")
    common.add_argument("--job", help="a job carried here as a file, where no server can be reached")
    common.add_argument("--state", help="folder in which runs are kept until the server has them")
    common.add_argument("--sensors", help="folder laid out like the system’s, that stands in for sensors")
    common.add_argument("--hertz", type=float, help="how often sensors are read, in a second (1)")
    common.add_argument("--target", help="folder on the drive under test")
    common.add_argument("--rest-limit", type=float, help="minutes that are waited for rest at most (10)")
    common.add_argument("--boot", help="for trials: a name for this start of the machine, else it is read")
    quiet = "ask nothing; runs that were disturbed stay, marked"
    common.add_argument("--yes", action="store_true", default=argparse.SUPPRESS, help=quiet)
    return common


def _pair(told: argparse.Namespace, keep: Keep) -> int:
    server = read_address(told.address)
    found = Client(server).post("/pairings", {"code": told.code})
    keep.pair(Paired(server, found["id"], found["name"]))
    say(f"Paired with {server} for “{found['name']}”. Now, and whenever it shall measure:\n  {told.called}")
    return OK


def _paired(told: argparse.Namespace, keep: Keep) -> Paired:
    """The machine that was named, else the one that was paired, else the only one there is."""
    paired = keep.paired()
    if told.machine is None and paired is not None and told.server is None:
        return paired
    server = read_address(told.server) if told.server else paired.server if paired else read_address("127.0.0.1")
    names = Client(server).get("/machine-names")
    found = [m for m in names if told.machine in (None, m["id"], m["name"])]
    if len(found) != 1:
        listed = "\n".join(f"  {m['name']}" for m in names) or "  none yet"
        raise ServerRefused(
            f"Which machine is this? Pair it, as the Measure screen says:\n  {told.called} pair ADDRESS CODE\n"
            f"or name it with --machine. {server} has:\n{listed}"
        )
    return Paired(server, found[0]["id"], found[0]["name"])


def _sensors_of(told: argparse.Namespace) -> Path:
    root = Path(told.sensors)
    if root != ROOT and not root.is_dir():
        raise CannotRun(f"--sensors: {root} is no folder.")
    return root


def _settings(told: argparse.Namespace, keep: Keep, client: Client | None) -> Settings:
    if not 0.01 <= told.hertz <= 20:
        raise CannotRun("--hertz is from 0.01 to 20: sensors are read so often in a second.")
    programs = read_programs(keep.folder)
    source: Source = told.stand_in or ThisMachine(_sensors_of(told), programs)
    source.boot = told.boot or source.boot
    return Settings(
        source=source,
        hertz=told.hertz,
        target=Path(told.target) if told.target else None,
        programs=programs,
        rest_limit_s=60 * max(0.0, told.rest_limit),
        offset=_offset(client),
    )


def _offset(client: Client | None) -> timedelta:
    """How far this machine's clock is behind the server's, where that is over a minute: a firmware reset does it."""
    if client is None:
        return timedelta(0)
    try:
        theirs = client.read_clock()
    except ServerLost:
        return timedelta(0)
    apart = theirs - datetime.now(UTC)
    if abs(apart) < timedelta(minutes=1):
        return timedelta(0)
    way = "behind" if apart > timedelta(0) else "ahead"
    say(f"This machine’s clock is {_roughly(abs(apart))} {way}; runs are dated by the server’s.")
    return apart


def _roughly(span: timedelta) -> str:
    for unit, most, seconds in (("minutes", 120, 60), ("hours", 48, 3600)):
        if (count := round(span.total_seconds() / seconds)) < most:
            return f"{count} {unit}"
    return f"{round(span.total_seconds() / 86400)} days"


def _carried(told: argparse.Namespace, keep: Keep) -> Paired | None:
    """The machine of a job that was carried here as a file; no server is asked then."""
    if told.job is None:
        return None
    file = Path(told.job)
    try:
        answer = json.loads(file.read_text(encoding="utf-8"))
        machine = answer["machine"]
        paired = Paired(NO_SERVER, machine["id"], machine["name"])
        read_job(answer, {})
    except (OSError, ValueError, KeyError, TypeError) as error:
        raise CannotRun(
            f"{file} is no job that a Lynxbill server handed out: save it anew on the Measure screen."
        ) from error
    keep.keep_job(answer)
    return paired


def _read_job(keep: Keep, client: Client | None, machine: str, known: Known) -> tuple[Job, bool]:
    """What is to be done, as the server says, or as it said last; and whether the server is there."""
    if client is None:
        return read_job(keep.job() or {}, known), False
    try:
        answer = client.get(f"/machines/{machine}/bench")
    except ServerLost as error:
        kept = keep.job()
        if kept is None or kept["machine"]["id"] != machine:
            raise
        say(f"{error}\nGoing on with what it said last; runs are kept here until it is back.")
        return read_job(kept, known), False
    keep.keep_job(answer)
    return read_job(answer, known), True


def _next(told: argparse.Namespace, keep: Keep) -> int:
    """The one word: whatever the plan needs next."""
    return _measure(told, keep, lambda client, paired, known: None)


def _run(told: argparse.Namespace, keep: Keep) -> int:
    def bring_named(client: Client, paired: Paired, known: Known) -> None:
        for key in told.workload:
            work = find_work(known, key)
            bring(client, paired.machine, work, read_set(told.set, work))

    return _measure(told, keep, bring_named)


def _measure(told: argparse.Namespace, keep: Keep, bring_along: Callable[[Client, Paired, Known], None]) -> int:
    carried = _carried(told, keep)
    paired = carried or _paired(told, keep)
    client = None if carried else Client(paired.server)
    settings = _settings(told, keep, client)
    known: Known = settings.source.known()
    if client is not None:
        bring_along(client, paired, known)
    job, is_there = _read_job(keep, client, paired.machine, known)
    if not job.asked and client is not None and is_there and getattr(told, "workload", None) is None:
        offer(client, job, known, settings, told.yes)
        job, is_there = _read_job(keep, client, paired.machine, known)
    job = _as_told(job, told)
    if not job.asked:
        raise CannotRun(
            f"The plan of “{job.machine_name}” asks for nothing that the agent can do. Bring a workload along:\n"
            f"  {told.called} run WORKLOAD\nIt knows them by the names that it lists:\n  {told.called} list"
        )
    say(describe_job(job, settings, keep))
    if client is not None and is_there:
        _show(client, paired.machine, settings.source.identify(settings.target, job.serial_salt))
    if not told.yes and not agrees("Begin?"):
        return end(INTERRUPTED, "Nothing was begun.")
    outcome = sit(job, keep, client, settings, Console(told.yes))
    return _close(told, paired, job, outcome, keep, client)


def describe_job(job: Job, settings: Settings, keep: Keep) -> str:
    """What is to be done, in a few lines."""
    stage = {"baseline": ", before the swap", "after": ", after the swap", "judged": ", beyond its plan"}
    _, is_new = choose_sitting(job, settings.boot, keep)
    number = len(job.boots) + 1
    of = f" of {job.sittings_wanted}" if job.sittings_wanted and number <= job.sittings_wanted else ""
    work = "1 workload" if len(job.asked) == 1 else f"{len(job.asked)} workloads"
    lines = [
        f"{job.machine_name}, build {job.letter}, sitting {number}{of}{stage.get(job.stage, '')}: "
        f"{work}, about {_minutes(job.minutes)}.",
        f"All-core work runs in {settings.threads(job)} threads"
        + (
            ", as the build says." if "threads" in job.settings else ": all of them, since the build names no number."
        ),
    ]
    if is_new and settings.boot in job.boots:
        joined = job.boots.index(settings.boot) + 1
        lines.append(f"Same boot as sitting {joined}: restart first, or these runs join it as one sitting.")
    if not is_new and job.done:
        lines.append(f"{len(job.done)} runs of this sitting are there already; it goes on after them.")
    if job.unknown:
        lines.append(f"To be timed by hand, on the run sheet: {', '.join(job.unknown)}.")
    return "\n".join(lines)


def _minutes(minutes: float) -> str:
    hours, rest = divmod(round(max(1.0, minutes)), 60)
    return f"{hours} h {rest} min" if hours else f"{rest} min"


def _as_told(job: Job, told: argparse.Namespace) -> Job:
    """The job cut to the workloads that were named, as often as was said."""
    named = getattr(told, "workload", None)
    asked = job.asked
    if named:
        keys = {key: read_set(told.set, a.work) for a in asked for key in named if key == a.work.key}
        asked = tuple(a for a in asked if a.work.key in keys and _has(a.parameters, keys[a.work.key]))
    repeats, warm_ups = getattr(told, "repeats", None), getattr(told, "warm_ups", None)
    return replace(
        job,
        asked=tuple(
            replace(
                a,
                runs=a.runs if repeats is None else max(1, repeats),
                warm_ups=a.warm_ups if warm_ups is None else max(0, warm_ups),
            )
            for a in asked
        ),
    )


def _has(parameters: Any, told: dict[str, Any]) -> bool:
    return all(parameters.get(name) == value for name, value in told.items())


def _close(
    told: argparse.Namespace, paired: Paired, job: Job, outcome: Outcome, keep: Keep, client: Client | None
) -> int:
    for name, why in outcome.left_out.items():
        say(f"Left out: {name}: {why}")
    if outcome.unsent or client is None:
        file = Path(f"lynxbill-runs-{datetime.now(UTC):%Y%m%d-%H%M%S}.json").absolute()
        write_run_file(file, job, keep.entries(outcome.sitting), keep.job())
        if client is None:
            say(f"All {len(outcome.runs)} runs are in\n  {file}\nTake that file in on the Measure screen.")
            return OK
        say(f"{paired.server} does not answer: {outcome.unsent} runs are not there yet. All are kept in\n  {file}")
        say(f"Take that file in on the Measure screen, or send them when it is back:\n  {told.called} send")
        return LOST
    for refused in refused_of(keep, outcome.sitting):
        say(f"Of one run {refused}")
    complete = sum(run["state"] == "complete" for _, run in outcome.runs)
    if outcome.interrupted:
        return end(
            INTERRUPTED, f"Stopped. {complete} complete runs are on the server; the next call goes on from here."
        )
    if not outcome.left_out:
        close(client, paired.machine, outcome.sitting, keep)
    say(f"All {len(outcome.runs)} runs are on the server.")
    return OK


def _send(told: argparse.Namespace, keep: Keep) -> int:
    paired = _paired(told, keep)
    client, count = Client(paired.server), 0
    for sitting in list(keep.sittings()):
        left = send_kept(keep, client, paired.machine, sitting)
        if left:
            return end(
                LOST, f"{paired.server} does not answer: {left} runs wait here. Type this again when it is back."
            )
        count += sum("run" in entry for entry in keep.entries(sitting))
    say(f"The server has all {count} runs that were kept here.")
    return OK


def _identify(told: argparse.Namespace, keep: Keep) -> int:
    source: Source = told.stand_in or ThisMachine(_sensors_of(told), {})
    found = source.identify(Path(told.target) if told.target else None, None)
    for part in found["parts"]:
        figures = ", ".join(f"{key} {value}" for key, value in part["rated"].items())
        say(f"{part['role']:12} {part['label']}" + (f" ({figures})" if figures else ""))
    for name in ("system", "python", "firmware", "power_source", "governor", "target"):
        say(f"{name.replace('_', ' '):12} {found[name] or 'not told'}")
    for sensor in found["sensors"]:
        say(f"{'sensor':12} {sensor}")
    for role, why in found["missing"].items():
        say(f"{'missing':12} {role}: {why}")
    paired = keep.paired()
    if paired is not None or told.server is not None or told.machine is not None:
        paired = _paired(told, keep)
        _show(Client(paired.server), paired.machine, found)
    return OK


def _show(client: Client, machine: str, found: Mapping[str, Any]) -> None:
    """Send what the machine shows; what of it is not as the build says is said here too."""
    body = {name: found[name] for name in ("parts", "firmware", "system")}
    answer = client.put(f"/machines/{machine}/bench/shown", body)
    for line in answer["departs"] if answer else ():
        say(line)
    if answer and not answer["departs"]:
        say(f"As build {answer['build']} says, as far as the machine tells.")


def _list(told: argparse.Namespace, keep: Keep) -> int:
    for work in catalogue(read_programs(keep.folder)).values():
        say(f"{work.key}\n    {work.card}")
        if work.parameters:
            say("    " + ", ".join(f"{name} = {value}" for name, value in work.parameters.items() if name != WORK))
    return OK

"""The command line. Each command imports what it needs, so that `judge` starts fast and needs no server."""

import sys
from collections.abc import Iterable
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Never

import typer

if TYPE_CHECKING:
    from lynxbill.core.record.frame import Case
    from lynxbill.core.value.better import Placing
    from lynxbill.rig.machine import Rig

app = typer.Typer(
    help="Benchmark one PC before and after an upgrade; learn whether the gain is real and what it cost.",
    no_args_is_help=True,
    add_completion=False,
    pretty_exceptions_enable=False,
)

UNUSABLE = 2


def main() -> None:
    """Run the command line."""
    app()


@app.command()
def judge(
    file: Annotated[str, typer.Argument(help="A run file, or - for standard input.")],
    before: Annotated[str | None, typer.Option(help="Id of the build before.")] = None,
    after: Annotated[str | None, typer.Option(help="Id of the build after.")] = None,
    lines: Annotated[bool, typer.Option("--lines", help="One run file a line in, one result a line out.")] = False,
    text: Annotated[bool, typer.Option("--text", help="Print what the screens say of it instead of JSON.")] = False,
) -> None:
    """Judge the last swap of a run file, or the two builds named; prints one JSON object."""
    from lynxbill.exchange.problem import UnusableText

    if lines and text:
        _refuse(["--lines answers in JSON alone: leave --text out, or judge one file."])
    try:
        if text:
            sys.stdout.write(_say_text(_read(file), before, after) + "\n")
            return
        if lines:
            raise typer.Exit(_judge_lines(_open_lines(file), before, after))
        sys.stdout.write(_judge_text(_read(file), before, after, indent=2) + "\n")
    except UnusableText as error:
        _refuse([str(problem) for problem in error.problems])
    except BrokenPipeError:
        sys.stderr.close()
        raise typer.Exit(1) from None


@app.command()
def heat(
    file: Annotated[str, typer.Argument(help="A table (CSV: seconds, °C, more by heading), a run file, or -.")],
) -> None:
    """Read traces: phases, settled or not, and where they were heading; prints one JSON object."""
    import json

    from lynxbill.exchange.heat_file import describe_heat
    from lynxbill.exchange.problem import UnusableText
    from lynxbill.words.heat.heat import say_not_reached

    try:
        sys.stdout.write(json.dumps(describe_heat(_read(file), say_not_reached), indent=2) + "\n")
    except UnusableText as error:
        _refuse([str(problem) for problem in error.problems])


@app.command()
def start(
    port: Annotated[int, typer.Option(help="Port on this computer.")] = 8440,
    empty: Annotated[bool, typer.Option("--empty", help="Do not load the demo into a new database.")] = False,
    reset_demo: Annotated[bool, typer.Option("--reset-demo", help="Load the demo's machines anew.")] = False,
) -> None:
    """Start the database and the server, and print the address; Ctrl-C stops both."""
    from lynxbill.installation import CannotStart
    from lynxbill.serve import serve

    try:
        serve(port, empty=empty, renew_demo=reset_demo)
    except CannotStart as error:
        sys.stderr.write(f"{error}\n")
        raise typer.Exit(1) from None
    except KeyboardInterrupt:
        return


@app.command()
def backup(file: Annotated[Path, typer.Argument(help="The file to write; it must not be there yet.")]) -> None:
    """Write everything that is recorded into one file, while the server runs or not."""
    from lynxbill.backup import back_up
    from lynxbill.dump_programs import BackupError
    from lynxbill.installation import CannotStart, place_at_hand

    try:
        with place_at_hand() as place:
            back_up(place.url, file)
    except (BackupError, CannotStart) as error:
        _refuse([str(error)])
    sys.stdout.write(f"{file} holds everything that is recorded, {file.stat().st_size / 1e6:.1f} MB.\n")


@app.command()
def restore(
    file: Annotated[Path, typer.Argument(help="A file that `backup` wrote.")],
    machine: Annotated[
        str | None, typer.Option(help="Only this machine, by name or id; it comes in beside what is there.")
    ] = None,
) -> None:
    """Restore a backup into an empty database, or one machine of it beside what is there."""
    from lynxbill.backup import restore_all, restore_machine
    from lynxbill.dump_programs import BackupError
    from lynxbill.installation import CannotStart, place_at_hand

    try:
        with place_at_hand(alone=machine is None) as place:
            if machine is not None:
                sys.stdout.write(f"{restore_machine(place.url, file, machine, place.chores_url)} is restored.\n")
            else:
                count = restore_all(place.url, file)
                sys.stdout.write(f"Everything is restored: {count} machine{'' if count == 1 else 's'}.\n")
    except (BackupError, CannotStart) as error:
        _refuse([str(error)])


@app.command("import")
def import_file(
    file: Annotated[Path, typer.Argument(help="A run file.")],
    server: Annotated[str, typer.Option(help="Address of the Lynxbill server.")] = "http://127.0.0.1:8440",
) -> None:
    """Take a machine over from a run file, whole or not at all; Ctrl-C stops it."""
    from lynxbill.import_command import import_on_console

    raise typer.Exit(import_on_console(file, server))


@app.command()
def report(
    machine: Annotated[str, typer.Argument(help="Name or id of the machine.")],
    to: Annotated[Path, typer.Option("--to", help="The file to write, .html or .pdf.")],
    form: Annotated[str, typer.Option(help="“short” for the customer, “full” for the next technician.")] = "short",
    number: Annotated[int | None, typer.Option(help="Number of a report that was handed out; else a draft.")] = None,
    before: Annotated[str | None, typer.Option(help="Id of the build before; without it the newest swap.")] = None,
    after: Annotated[str | None, typer.Option(help="Id of the build after.")] = None,
    labour: Annotated[bool, typer.Option("--labour/--without-labour", help="With labour in the bill.")] = True,
    years: Annotated[int, typer.Option(min=0, max=30, help="Over how many years electricity runs.")] = 0,
    paper: Annotated[str, typer.Option(help="“A4” or “letter”.")] = "A4",
    server: Annotated[str, typer.Option(help="Address of the Lynxbill server.")] = "http://127.0.0.1:8440",
) -> None:
    """Write a machine's report into a file that stands alone: no script, no network, its pictures inside."""
    from lynxbill.paper import NoReport, save_report

    if form not in ("short", "full") or paper not in ("A4", "letter"):
        _refuse(["--form is “short” or “full”, --paper “A4” or “letter”."])
    wish = {"form": form, "number": number, "before": before, "after": after, "labour": labour, "years": years}
    try:
        save_report(server, machine, to, wish, "A4" if paper == "A4" else "letter")
    except (NoReport, OSError) as error:
        _refuse([str(error)])


@app.command("take-in", hidden=True)
def take_in_file(
    file: Annotated[Path, typer.Argument()], import_id: Annotated[str, typer.Option("--import")]
) -> None:
    """What a server starts for a large run file; the file is removed."""
    from uuid import UUID

    from lynxbill.services.files.imports import take_in
    from lynxbill.settings import Settings
    from lynxbill.store.database import open_engine, session_factory
    from lynxbill.store.space import Space

    settings = Settings()
    engine = open_engine(settings.database_url or "")
    take_in(session_factory(engine, Space(settings.data_folder)), UUID(import_id), file)
    engine.dispose()


@app.command()
def prove(
    full: Annotated[bool, typer.Option("--full", help="Up to 20,000 replications a cell; takes an hour.")] = False,
    cell: Annotated[
        list[str] | None, typer.Option("--cell", help="Only cells whose group or name begins so; may be repeated.")
    ] = None,
) -> None:
    """Prove the verdicts by simulation: machines whose true gain is known, judged by this program's own core."""
    from lynxbill.prove.table import prove as run_proof

    missed = 0
    for outcome in run_proof(full=full, names=tuple(cell or ())):
        sys.stdout.write(f"{outcome}\n")
        sys.stdout.flush()
        missed += not outcome.kept
    sys.stdout.write(f"{missed} cell(s) missed their limits.\n")
    raise typer.Exit(1 if missed else 0)


@app.command()
def openapi() -> None:
    """Print the server's OpenAPI description."""
    import json

    from lynxbill.app import create_app

    sys.stdout.write(json.dumps(create_app("postgresql://").openapi(), indent=1) + "\n")


@app.command()
def schema() -> None:
    """Print the JSON Schema (2020-12) of the run file."""
    import json

    from lynxbill.exchange.run_file import run_file_schema

    sys.stdout.write(json.dumps(run_file_schema(), indent=1) + "\n")


@app.command(
    "bench",
    context_settings={"allow_extra_args": True, "ignore_unknown_options": True, "help_option_names": []},
    help="Measure this very machine; `lynxbill bench --help` says how.",
)
def bench(context: typer.Context) -> None:
    from lynxbill.bench.console import main as measure

    words, stand_in = _take_rig(context.args)
    raise typer.Exit(measure(words, called="lynxbill bench", stand_in=stand_in))


def _take_rig(words: list[str]) -> tuple[list[str], "Rig | None"]:
    """Take `--rig NAME` and `--speed N` out of the agent's words: a simulated PC is measured in place of this one."""
    import argparse

    from lynxbill.rig.machine import start_rig

    parser = argparse.ArgumentParser(add_help=False, allow_abbrev=False)
    parser.add_argument("--rig")
    parser.add_argument("--speed", type=float, default=200.0)
    told, rest = parser.parse_known_args(words)
    if told.rig is None:
        return rest, None
    try:
        return rest, start_rig(told.rig, told.speed)
    except ValueError as error:
        _refuse([str(error)])


def _judge_text(text: bytes, before: str | None, after: str | None, indent: int | None) -> str:
    from lynxbill.exchange.verdict_file import describe
    from lynxbill.words.results.voice import Voice

    placing, case = _judge_file(text, before, after)
    return describe(placing, Voice(case.machine.decimal_mark)).model_dump_json(indent=indent)


def _say_text(text: bytes, before: str | None, after: str | None) -> str:
    from lynxbill.words.results.comparison import write_comparison

    placing, case = _judge_file(text, before, after)
    return write_comparison(placing.comparison, case.machine.decimal_mark)


def _judge_file(text: bytes, before: str | None, after: str | None) -> tuple["Placing", "Case"]:
    from lynxbill.core.heat.trace import WholeTrace
    from lynxbill.core.record.ids import BuildId, RunId
    from lynxbill.core.terms.errors import Refusal
    from lynxbill.core.value.better import judge_beside_others
    from lynxbill.exchange.heat_file import with_traced
    from lynxbill.exchange.problem import Problem, UnusableText
    from lynxbill.exchange.run_file import read_run_file

    traces: dict[RunId, WholeTrace] = {}
    case = with_traced(read_run_file(text, traces=traces), traces)
    try:
        named = (None if build is None else BuildId(build) for build in (before, after))
        return judge_beside_others(case, *named), case
    except Refusal as refusal:
        raise UnusableText([Problem("$", refusal.message)]) from refusal


def _judge_lines(texts: Iterable[bytes], before: str | None, after: str | None) -> int:
    """Keep one line out for each line in: a line that can't be used answers with its problems."""
    import json

    from lynxbill.exchange.problem import UnusableText

    status = 0
    for number, text in enumerate(texts, start=1):
        try:
            answer = _judge_text(text, before, after, indent=None)
        except UnusableText as error:
            status = UNUSABLE
            for problem in error.problems:
                sys.stderr.write(f"line {number}: {problem}\n")
            answer = json.dumps({"problems": [str(problem) for problem in error.problems]})
        sys.stdout.write(answer + "\n")
    return status


def _read(file: str) -> bytes:
    if file == "-":
        return sys.stdin.buffer.read()
    try:
        return Path(file).read_bytes()
    except OSError as error:
        _refuse([f"{file}: {error.strerror or error}"])


def _open_lines(file: str) -> Iterable[bytes]:
    if file == "-":
        return sys.stdin.buffer
    return _read(file).splitlines()


def _refuse(messages: list[str]) -> Never:
    for message in messages:
        sys.stderr.write(f"{message}\n")
    raise typer.Exit(UNUSABLE)

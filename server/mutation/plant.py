"""
Plants bugs one at a time and counts how many of them a test notices.

Usage: plant.py [PATH] [--seed N] [--count N]      (by way of: bin/test --mutants [PATH])

Without a path a sample of every room is planted, and its share told with a 95 % interval; with the path of a module
all of that module. What no test noticed is printed, as it was and as it was made, to be read: a test is missing, or
the bug changes nothing that can be seen; then it is named in equal.toml with the reason, and counts no more.
"""

import argparse
import json
import math
import os
import random
import re
import shutil
import subprocess
import sys
import tomllib
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from pathlib import Path

ROOT = Path(__file__).parents[2]
PACKAGE = ROOT / "server" / "src" / "lynxbill"
WEB = ROOT / "web"
WORK = ROOT / ".local" / "mutants"
EQUAL = Path(__file__).with_name("equal.toml")
# What is wanted of each room, in percent.
WANTED = {"core": 85, "words": 80, "web": 75}
# All that tests the computation without a server: what one of these rooms says is looked at from the others too.
TESTS = ("tests/core", "tests/words", "tests/exchange")
# Plain functions; what asks the server or holds a screen's state is worked by the browser.
MODELS = ("lib", "charts", "job", "features")
NO_MODELS = {
    *("api.ts", "comparison.ts", "vocabulary.ts", "shown.ts", "useSheet.ts", "keys.ts"),
    *("save.ts", "bringUp.ts", "download.ts", "picture.ts", "sound.ts"),
}
KILLED, UNSEEN = (1, 3, 24, 36, -24, 152, 255), (0, 33)


@dataclass(frozen=True)
class Bug:
    """A planted bug: where it stands, what it makes of the line, and whether a test noticed it."""

    place: str
    change: str
    noticed: bool


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("path", nargs="?", type=Path, help="a module of core, words or the web's plain functions")
    parser.add_argument("--room", choices=WANTED, action="append", help="a sample of this room alone")
    parser.add_argument("--seed", type=int, default=8440)
    parser.add_argument("--count", type=int, default=400, help="bugs that are planted in a room")
    told = parser.parse_args()
    if told.path is None:
        rooms = [(room, files_of(room), told.count) for room in told.room or WANTED]
    else:
        path = told.path.resolve()
        rooms = [(room_of(path), [path], None)]
    missed = False
    for room, files, count in rooms:
        plant = plant_web if room == "web" else plant_python
        missed |= not report(room, plant(files, count, told.seed), WANTED[room])
    sys.exit(missed)


def files_of(room: str) -> list[Path]:
    if room != "web":
        return sorted((PACKAGE / room).rglob("*.py"))
    found = (file for folder in MODELS for file in (WEB / "src" / folder).rglob("*.ts"))
    return sorted(file for file in found if not file.name.endswith(".test.ts") and file.name not in NO_MODELS)


def room_of(path: Path) -> str:
    for room in WANTED:
        if path in files_of(room):
            return room
    sys.exit(f"{path} is no module of {', '.join(WANTED)}.")


def report(room: str, bugs: Sequence[Bug], wanted: int) -> bool:
    """Print what became of the bugs; answers whether enough of them were noticed."""
    equal = {(entry["place"], entry["change"].strip()) for entry in tomllib.loads(EQUAL.read_text()).get("equal", [])}
    counted = [bug for bug in bugs if bug.noticed or (bug.place, bug.change) not in equal]
    noticed = sum(bug.noticed for bug in counted)
    for bug in counted:
        if not bug.noticed:
            print(f"\n{bug.place}\n{bug.change}")
    low, high = interval(noticed, len(counted))
    print(
        f"\n{room}: {noticed} of {len(counted)} planted bugs were noticed, {100 * noticed / len(counted):.1f} % "
        f"({100 * low:.1f} to {100 * high:.1f} %), wanted {wanted} %; {len(bugs) - len(counted)} named as equal",
        flush=True,
    )
    return 100 * noticed >= wanted * len(counted)


def interval(hits: int, n: int, z: float = 1.959964) -> tuple[float, float]:
    """A 95 % interval of a share. Source: E. B. Wilson, J. Am. Stat. Assoc. 22 (1927) 209."""
    share = hits / n
    middle, half = share + z * z / (2 * n), z * math.sqrt(share * (1 - share) / n + z * z / (4 * n * n))
    return (middle - half) / (1 + z * z / n), (middle + half) / (1 + z * z / n)


def chosen(names: Iterable[str], count: int | None, seed: int) -> list[str]:
    ordered = sorted(names)
    return ordered if count is None or count >= len(ordered) else random.Random(seed).sample(ordered, count)


def plant_python(files: Sequence[Path], count: int | None, seed: int) -> list[Bug]:
    folder = WORK / "python"
    lay_out(folder, files)
    # The first call makes the bugs and learns which test meets which function; it plants none.
    mutmut(folder, "run", "none of them", check=False)
    known = {}
    for meta in folder.glob("mutants/src/**/*.meta"):
        known |= dict.fromkeys(json.loads(meta.read_text())["exit_code_by_key"], meta)
    names = chosen(known, count, seed)
    mutmut(folder, "run", "--max-children", "2", *names)
    codes = {name: json.loads(known[name].read_text())["exit_code_by_key"][name] for name in names}
    odd = {name: code for name, code in codes.items() if code not in (*KILLED, *UNSEEN)}
    if odd:
        sys.exit(f"These ended in no way that is known: {odd}")
    return [
        Bug(*(shown(folder, name) if code in UNSEEN else (name, "")), code in KILLED) for name, code in codes.items()
    ]


def lay_out(folder: Path, files: Sequence[Path]) -> None:
    """A copy of server and tests in which bugs may be planted, and beside it what the tests read."""
    shutil.rmtree(folder, ignore_errors=True)
    folder.mkdir(parents=True)
    for name in ("src", "tests"):
        shutil.copytree(ROOT / "server" / name, folder / name, ignore=shutil.ignore_patterns("__pycache__"))
    for name in ("demo", "docs", "server", "web"):
        (folder / name).symlink_to(ROOT / name)
    shutil.copy(ROOT / "server" / "pyproject.toml", folder)
    mutated = [str(file.relative_to(ROOT / "server")) for file in files]
    settings = {
        "source_paths": ["src"],
        "also_copy": ["src", "demo", "docs"],
        "only_mutate": mutated,
        "pytest_add_cli_args": ["-p", "no:cacheprovider", "-m", "not nightly"],
        "pytest_add_cli_args_test_selection": list(TESTS),
        "track_dependencies": ["false"],
    }
    lines = [f"{name}=\n" + "".join(f"    {value}\n" for value in values) for name, values in settings.items()]
    lines[-1] = "track_dependencies=false\n"
    (folder / "setup.cfg").write_text("[mutmut]\n" + "".join(lines))


def mutmut(folder: Path, *arguments: str, check: bool = True) -> str:
    environment = os.environ | {"LYNXBILL_MUTANTS": "1", "PYTHONDONTWRITEBYTECODE": "1"}
    command = [sys.executable, "-m", "mutmut", *arguments]
    made = subprocess.run(command, cwd=folder, env=environment, capture_output=True, text=True, check=False)
    if check and made.returncode != 0:
        sys.exit(f"mutmut failed:\n{made.stdout[-3000:]}\n{made.stderr[-3000:]}")
    return made.stdout


def shown(folder: Path, name: str) -> tuple[str, str]:
    """Where a bug stands, and the lines that it changed."""
    lines = mutmut(folder, "show", name).splitlines()
    change = [line for line in lines if re.match(r"[+-](?![+-])", line)]
    return re.sub(r"__mutmut_\d+$", "", name), "\n".join(re.sub(r"^([+-])\s*", r"\1 ", line) for line in change)


def plant_web(files: Sequence[Path], count: int | None, seed: int) -> list[Bug]:
    names = [str(file.relative_to(WEB)) for file in files]
    made = subprocess.run(["node", "mutation/list.mjs", *names], cwd=WEB, capture_output=True, text=True, check=True)
    known = {_key(bug["fileName"], bug["location"], bug["replacement"], 1): bug for bug in json.loads(made.stdout)}
    picked = chosen(known, count, seed)
    places = {_range(known[key]) for key in picked} if count is not None else set(names)
    WORK.mkdir(parents=True, exist_ok=True)
    answers, settings = WORK / "web.json", WORK / "stryker.json"
    settings.write_text(
        json.dumps(
            {
                "testRunner": "vitest",
                "plugins": ["./mutation/node_modules/@stryker-mutator/vitest-runner/dist/src/index.js"],
                "coverageAnalysis": "perTest",
                "concurrency": 2,
                "mutate": sorted(places),
                "reporters": ["json"],
                "jsonReporter": {"fileName": str(answers)},
                "tempDirName": str(WORK / "web"),
                "ignorePatterns": ["mutation", "dist", "dist-report"],
                "disableTypeChecks": False,
            }
        )
    )
    command = ["node", "mutation/node_modules/@stryker-mutator/core/bin/stryker.js", "run", str(settings)]
    run = subprocess.run(command, cwd=WEB, capture_output=True, text=True, check=False)
    if run.returncode != 0:
        sys.exit(f"Stryker failed:\n{run.stdout[-3000:]}\n{run.stderr[-3000:]}")
    return [bug for key, bug in _answers(json.loads(answers.read_text())) if key in set(picked)]


def _answers(answer: dict[str, dict[str, dict[str, object]]]) -> Iterable[tuple[str, Bug]]:
    for name, file in answer["files"].items():
        lines = str(file["source"]).splitlines()
        for bug in file["mutants"]:  # type: ignore[attr-defined]
            start, end = bug["location"]["start"], bug["location"]["end"]
            where = lines[start["line"] - 1 : end["line"]]
            change = "\n".join(f"- {line.strip()}" for line in where[:6]) + f"\n+ {bug['replacement']}"
            noticed = bug["status"] in ("Killed", "Timeout", "RuntimeError", "CompileError")
            yield _key(name, bug["location"], bug["replacement"], 0), Bug(name, change, noticed)


def _key(name: str, location: dict[str, dict[str, int]], replacement: str, offset: int) -> str:
    """One name for a bug, whether its lines and columns are counted from 0 or from 1."""
    ends = [f"{location[end][part] + offset}" for end in ("start", "end") for part in ("line", "column")]
    return f"{name}:{'.'.join(ends)}:{replacement}"


def _range(bug: dict[str, dict[str, dict[str, int]]]) -> str:
    start, end = bug["location"]["start"], bug["location"]["end"]
    return f"{bug['fileName']}:{start['line'] + 1}:{start['column']}-{end['line'] + 1}:{end['column']}"


if __name__ == "__main__":
    main()

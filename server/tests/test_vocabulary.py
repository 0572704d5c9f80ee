"""One word, one meaning: what was retired names nothing any more, in code, database, API, run file and labels."""

import io
import json
import re
import tokenize
from collections.abc import Iterator
from pathlib import Path

import pytest

from lynxbill.store.shape import SHAPE

ROOT = Path(__file__).parents[2]
SOURCE = ROOT / "server" / "src" / "lynxbill"
WEB = ROOT / "web" / "src"
# Whole words of an identifier, however they are joined.
RETIRED = {
    "said", "world", "worlds", "draws", "foreseen", "foresee", "foresight",
    "standing", "standings", "stand", "stands", "laid",
}  # fmt: skip
# Identifiers that keep one, with the reason.
ALLOWED = {
    "stand_in": "to take the place of something",
    "stands_in": "to take the place of something",
    "_laid_over": "a template's members over those of another one",
    "setLaid": "a template over a plan",
    "laid": "a template over a plan",
    "fitSaid": "a field of drafts that were kept before, read in lib/olderNames.ts",
}
# Migrations are history; what reads files of before names their members.
LEFT_OUT = ("store/migrations/versions/", "exchange/older_names.py")
# Words of screens that mean the thing that is timed.
LABELS = re.compile(
    r"\bjobs? (?:a week|a day|takes?|waited|gained)|\ba workload\b|\b(?:this|the|no) workload\b", re.IGNORECASE
)


def words_of(name: str) -> set[str]:
    """The words of an identifier: `judge_whole`, `judgeWhole` and `JudgeWhole` have the same."""
    return set(re.sub(r"(?<=[a-z0-9])(?=[A-Z])", "_", name).lower().split("_"))


def is_retired(name: str) -> bool:
    return name not in ALLOWED and not words_of(name).isdisjoint(RETIRED)


def names_of_server() -> Iterator[tuple[str, str]]:
    for file in sorted(SOURCE.rglob("*.py")):
        place = file.relative_to(SOURCE).as_posix()
        if not place.startswith(LEFT_OUT):
            for token in tokenize.generate_tokens(io.StringIO(file.read_text(encoding="utf-8")).readline):
                if token.type == tokenize.NAME:
                    yield place, token.string


def names_of_web() -> Iterator[tuple[str, str]]:
    """What is declared, destructured or a member; texts and comments are left out."""
    for file in sorted([*WEB.rglob("*.ts"), *WEB.rglob("*.tsx")]):
        text = re.sub(r"/\*.*?\*/|//[^\n]*", "", file.read_text(encoding="utf-8"), flags=re.DOTALL)
        for pattern in (r"\b(?:const|let|function|type|interface)\s+(\w+)", r"\.(\w+)\b", r"\b(\w+)\??:\s"):
            for name in re.findall(pattern, re.sub(r"\"[^\"\n]*\"|`[^`]*`", '""', text)):
                yield file.relative_to(WEB).as_posix(), name


def names_of_database() -> Iterator[tuple[str, str]]:
    for line in SHAPE.read_text(encoding="utf-8").splitlines():
        yield "database", line.split()[1].split(".")[-1]


def members_of_schemas() -> Iterator[tuple[str, str]]:
    def walk(value: object) -> Iterator[str]:
        if isinstance(value, dict):
            properties = value.get("properties")
            yield from properties if isinstance(properties, dict) else ()
            for inner in value.values():
                yield from walk(inner)
        elif isinstance(value, list):
            for inner in value:
                yield from walk(inner)

    for name in walk(json.loads((ROOT / "docs" / "run-file.schema.json").read_text(encoding="utf-8"))):
        yield "run file", name


@pytest.mark.parametrize("names", [names_of_server, names_of_web, names_of_database, members_of_schemas])
def test_no_identifier_column_or_member_bears_a_retired_word(names: object) -> None:
    assert callable(names)
    found = {f"{place}: {name}" for place, name in names() if is_retired(name)}
    assert found == set()


def test_screens_and_paper_say_task_of_what_is_timed() -> None:
    found = []
    for file in [*sorted((SOURCE / "words").rglob("*.py")), *sorted(WEB.rglob("*.tsx"))]:
        text = re.sub(r'""".*?"""|/\*.*?\*/|//[^\n]*|#[^\n]*', "", file.read_text(encoding="utf-8"), flags=re.DOTALL)
        found += [f"{file.name}: {label}" for label in LABELS.findall(text)]
    assert found == []


@pytest.mark.parametrize("name", ["fit_said", "stillStands", "WorldView", "job_stand"])
def test_a_retired_word_is_found_however_it_is_joined(name: str) -> None:
    assert is_retired(name)

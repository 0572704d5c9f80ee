"""Every module that a document or a docstring names stands where it says."""

import re
from collections.abc import Iterator
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[2]
PACKAGE = "server/src/lynxbill"
BASES = ("", "server", PACKAGE, f"{PACKAGE}/core", "server/benchmarks", "web/src", "web/src/features")
NAMED = re.compile(r"`([\w./-]+\.(?:py|tsx?))`")
# In code a module is named with its room.
NAMED_IN_CODE = re.compile(r"\b(core/[\w/]+\.py)\b")
DOCUMENTS = sorted([*ROOT.glob("*.md"), *(ROOT / "docs").glob("*.md")])
BARE = {path.name for base in ("server", "web/src") for path in (ROOT / base).rglob("*.*")}


def stands(name: str) -> bool:
    if "/" not in name:
        return name in BARE
    return any((ROOT / base / name).is_file() for base in BASES)


def named_in_code() -> Iterator[tuple[Path, str]]:
    for path in (ROOT / PACKAGE).rglob("*.py"):
        yield from ((path, name) for name in NAMED_IN_CODE.findall(path.read_text()))


@pytest.mark.parametrize("document", DOCUMENTS, ids=lambda path: path.name)
def test_a_document_names_modules_that_exist(document: Path) -> None:
    assert [name for name in NAMED.findall(document.read_text()) if not stands(name)] == []


def test_judgement_names_most_modules_of_the_core() -> None:
    text = (ROOT / "docs" / "judgement.md").read_text()
    assert len({name for name in NAMED.findall(text) if "/" in name}) > 30


def test_a_docstring_names_modules_that_exist() -> None:
    assert [(str(path), name) for path, name in named_in_code() if not stands(name)] == []

"""One voice: nothing below or beside the words rounds a figure into a sentence, or words a verdict."""

import ast
import re
from collections.abc import Iterator
from pathlib import Path

import lynxbill

ROOT = Path(lynxbill.__file__).parent
OTHERS = ("core", "exchange", "store", "services", "api")
MAY_FORMAT = {
    "core/result/comparison.py": "the key of a plan, which nobody reads",
    "core/reading/doubts.py": "a number as it would have been typed",
    "core/statistics/samples.py": "the seed of draws",
    "core/terms/measure.py": "a refusal quotes what came",
    "core/reading/reading.py": "a refusal quotes what came, and how fine a number was written",
    "core/result/shares.py": "a refusal quotes what came",
    "core/heat/trace.py": "a refusal quotes what came",
    "exchange/entry.py": "a refusal quotes what came",
    "exchange/fields.py": "a refusal names the limit",
    "exchange/problem.py": "a refusal names the limit",
}
MAY_WORD = {"core/result/shares.py": "a refusal quotes what came"}
FORMATS = re.compile(r"[0-9]*,?(\.[0-9]+)?[eEfFgG%]|.*\.[0-9]+.*")
WORDS = re.compile(r"real gain|real loss|not settled|times as fast|\bhotter\b|\blouder\b|less time", re.IGNORECASE)


def modules() -> Iterator[tuple[str, ast.Module]]:
    for folder in OTHERS:
        for path in sorted((ROOT / folder).rglob("*.py")):
            if "migrations" not in path.parts:
                yield path.relative_to(ROOT).as_posix(), ast.parse(path.read_text(encoding="utf-8"))


def rounds(tree: ast.Module) -> bool:
    specs = (node.format_spec for node in ast.walk(tree) if isinstance(node, ast.FormattedValue))
    parts = (part for spec in specs if isinstance(spec, ast.JoinedStr) for part in spec.values)
    return any(FORMATS.fullmatch(str(part.value)) for part in parts if isinstance(part, ast.Constant))


def words(tree: ast.Module) -> bool:
    docstrings = {
        ast.get_docstring(node, clean=False)
        for node in ast.walk(tree)
        if isinstance(node, (ast.Module, ast.ClassDef, ast.FunctionDef))
    }
    texts = (node.value for node in ast.walk(tree) if isinstance(node, ast.Constant) and isinstance(node.value, str))
    return any(WORDS.search(text) for text in texts if text not in docstrings)


def test_no_figure_is_rounded_into_a_sentence_outside_the_words() -> None:
    rounding = {path for path, tree in modules() if rounds(tree)}
    assert rounding == set(MAY_FORMAT)


def test_no_verdict_is_worded_outside_the_words() -> None:
    assert {path for path, tree in modules() if words(tree)} == set(MAY_WORD)

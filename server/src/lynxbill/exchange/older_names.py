"""Members that were called otherwise before each word had one meaning: what was written then is still read."""

from collections.abc import Mapping

# By the members on the way to it, lists left out: what a member was called, and what it is called.
Names = Mapping[tuple[str, ...], Mapping[str, str]]

RUN_FILE: Names = {
    ("candidates",): {"fit_said": "fit_answer"},
    ("machine",): {"jobs_a_week": "tasks_a_week"},
    ("swaps", "explanations"): {"evidence": "grounds"},
    ("swaps", "shown"): {"evidence": "digest"},
}
# Words that a member had, by the way to it and its name.
_WORDS: Mapping[tuple[str, ...], tuple[str, str, str]] = {("swaps", "costs", "running"): ("by", "jobs", "tasks")}
REPORT: Names = {("heat",): {"said": "worded"}}


def take_older_names(value: object, names: Names, place: tuple[str, ...] = ()) -> None:
    """
    Give members of parsed JSON the names of today, in place.

    One that stands there under both names keeps the older, which its reader then refuses.
    """
    if isinstance(value, list):
        for each in value:
            take_older_names(each, names, place)
    if not isinstance(value, dict):
        return
    for old, new in names.get(place, {}).items():
        if old in value and new not in value:
            value[new] = value.pop(old)
    member, word, word_now = _WORDS.get(place, ("", "", ""))
    if word and value.get(member) == word:
        value[member] = word_now
    for name in {inner[len(place)] for inner in (*names, *_WORDS) if inner[: len(place)] == place != inner}:
        take_older_names(value.get(name), names, (*place, name))

"""Whether a part can go in, in words: what was held against what, and where that stands."""

from lynxbill.core.change.fit import FitCheck, Rule
from lynxbill.core.record.vocabulary import LIMITS

_LIMIT_NAMES = {figure.key: figure.label for figure in LIMITS}


def say_fit(check: FitCheck) -> str:
    """Say what was held against what."""
    match check.about:
        case "no part":
            return "nothing is put in that would have to fit"
        case "answer":
            return "said by the technician"
        case "supply":
            return f"power: the rated parts draw {check.demand:g} W of the supply's {check.limit:g} W"
        case "firmware":
            return f"firmware: the part needs {check.demand}, {_say_firmware(check)}"
        case "limit":
            return _say_limit(check, check.rule) if check.rule is not None else ""


def say_source(check: FitCheck) -> str:
    """Say where that stands which the part was held against."""
    match check.about:
        case "no part":
            return "no part"
        case "answer":
            return check.source or "no source given"
        case "supply":
            return check.source or "the machine's limits, power supply"
        case "firmware":
            return "the build's setting firmware"
        case "limit":
            return f"the machine's limits, {_LIMIT_NAMES[check.rule.limit]}" if check.rule is not None else ""


def _say_limit(check: FitCheck, rule: Rule) -> str:
    unit = f" {rule.unit}" if rule.unit else ""
    takes = "" if rule.relation in ("same", "one of") else "takes "
    held = ", to which it would be held" if check.word == "doubtful" and rule.relation == "held to" else ""
    return f"{rule.name}: the part has {check.demand}{unit}, the machine {takes}{check.limit}{unit}{held}"


def _say_firmware(check: FitCheck) -> str:
    if check.limit is None:
        return "the machine's is not noted"
    return "and the machine has it" if check.word == "fits" else f"the machine has {check.limit}; which is newer?"

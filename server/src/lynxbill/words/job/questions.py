"""Questions of a plan or a swap, and what a baseline lacks, in words."""

from collections.abc import Mapping
from dataclasses import dataclass

from lynxbill.core.plan.gate import Lack, LackCode
from lynxbill.core.plan.planning import found_by_two
from lynxbill.core.plan.progress import Progress
from lynxbill.core.plan.questions import Question, QuestionCode
from lynxbill.words.base.change import amount, in_units
from lynxbill.words.base.conditions import say_not_held
from lynxbill.words.base.figures import DecimalMark, counted, typed
from lynxbill.words.money.account import money

_ASKED: Mapping[QuestionCode, str] = {
    "no_headline": "Which one claim is the swap to be judged by? Name the headline first.",
    "no_control": "Nothing here should stay as it is: a control would tell whether the machine itself moved.",
    "two_mounts": "Two mounts a side tell the part from how it was mounted: lift the cooler and set it again before "
    "one sitting of each side.",
    "paste_untouched": "The cooler came off: was the paste renewed? Tick it, or note why not.",
    "cleaning_with_paste": "Cleaning and paste can't be told apart if both are done now: clean, measure, then paste.",
}
_LACKING: Mapping[LackCode, str] = {
    "no_measures": "No claim is planned: say what the swap is to be judged by.",
    "control": "No control is planned: nothing would show that something else moved as well.",
}
_FOUR_FOR_STEPS = (
    "what works or is felt can’t be settled by fewer than four sittings a side, however clear it is. Plan four."
)
_OF_TWO = f"a gain that three a side find 80 times in 100, two find {100 * found_by_two():.0f} times"
_QUICK_LOOK = (
    "One sitting a side is a quick look: it calls a change real, provisionally, only where it is far larger than "
    "what a restart may move. Once the part is out, this side can't grow; two more sittings now would let smaller "
    "gains be found."
)


@dataclass(frozen=True, slots=True)
class WordedQuestion:
    """`about` is the key of what is asked about, where there is one."""

    code: QuestionCode
    message: str
    about: str | None


@dataclass(frozen=True, slots=True)
class WordedLack:
    """One thing that is missing, and what to do about it; a `hint` keeps nothing from being complete."""

    code: LackCode
    message: str
    hint: bool


def say_question(question: Question, currency: str, mark: DecimalMark) -> WordedQuestion:
    """Ask; amounts are in the machine's currency of account."""
    message = _ASKED.get(question.code) or _ask(question, currency, mark)
    return WordedQuestion(question.code, message, question.about)


def _ask(question: Question, currency: str, mark: DecimalMark) -> str:
    change, name = question.change, question.name
    match question.code:
        case "loads_unknown":
            return f"No task says which parts it loads. Can this plan show a change of the {change}?"
        case "nothing_loads_it":
            return f"No claim comes from a task that loads the {change}: this plan can't show its change."
        case "control_loads_it":
            return f"{name} is a control, but its task loads the {change}: it may well move."
        case "headline_does_not_load_it":
            return f"{name} is the headline, but its task does not load the {change}."
        case "four_for_steps":
            return f"{name}: {_FOUR_FOR_STEPS}"
        case "two_sittings":
            return (
                f"Two sittings a side are few: {_OF_TWO}, and more on one side alone do not make up for two on the "
                "other. Plan three."
            )
        case "proof_costs_more":
            hands, price = (money(paid, currency, mark) for paid in (question.hands, question.price))
            return (
                f"The hands of both sides cost {hands} at this labour rate, the change itself {price}: fewer runs, "
                "or a quick look of one sitting a side, may do."
            )
        case "undeclared_difference" if question.difference is not None:
            known = question.difference
            return (
                f"{known.name.capitalize()}: {known.before or 'nothing'} before, {known.after or 'nothing'} after. "
                "The swap does not declare it: does it belong to it?"
            )
        case "headline_again":
            decides = f"Is it still “{name}” that decides?" if name else "Which measure decides?"
            return f"The plan was made for the {change}, and the {', '.join(question.roles)} changes. {decides}"
        case code:
            raise LookupError(f"no words for the question {code}")


def say_lack(lack: Lack, mark: DecimalMark) -> WordedLack:
    """Say what a baseline lacks."""
    return WordedLack(lack.code, _LACKING.get(lack.code) or _say_lack(lack, mark), lack.hint)


def _say_lack(lack: Lack, mark: DecimalMark) -> str:
    name = lack.measure.name if lack.measure is not None else ""
    match lack.code:
        case "sittings":
            why = " Those in one boot count as one: restart before the next." if lack.one_boot else ""
            two = f" Left at two here: {_OF_TWO}, however many the other side gets." if lack.had == 2 else ""
            return f"{name}: {lack.had} of {counted(lack.wanted, 'sitting')}.{why}{two}"
        case "runs":
            return f"{name}: a sitting has {lack.had} of {counted(lack.wanted, 'run')}."
        case "ambient":
            return f"Heat is claimed, and the room temperature is not noted in {counted(lack.had, 'sitting')}."
        case "conditions" if lack.not_held is not None:
            return f"Sitting {lack.sitting}: {say_not_held(lack.not_held, mark)}."
        case "four_for_steps":
            return f"{name}: {_FOUR_FOR_STEPS}"
        case "goes_by":
            return f"It goes by {' and by '.join(_say_progress(progress) for progress in lack.by)}."
        case "prospects" | "steadiness":
            return _say_strength(lack, mark)
        case code:
            raise LookupError(f"no words for the lack {code}")


def _say_progress(progress: Progress) -> str:
    units, least = progress.rank
    each = f"{least} or more in each" if least > 1 else "a run in each"
    return f"{progress.measure.name} ({counted(units, 'sitting')}, {each})"


def _say_strength(lack: Lack, mark: DecimalMark) -> str:
    measure, strength = lack.measure, lack.strength
    if measure is None or strength is None:
        return _QUICK_LOOK
    if lack.code == "steadiness":
        return (
            f"{measure.name} scatters so much that {strength.sittings_a_side} sittings a side would show "
            f"{amount(strength.detectable, measure, mark)} at best; hoped for are "
            f"{in_units(typed(lack.hoped, mark), measure)}."
        )
    found = (strength.with_three, strength.with_four, strength.with_five)
    three, four, five = (amount(value, measure, mark) for value in found)
    return (
        f"{measure.name}: in 8 of 10 jobs 3 sittings a side would find a gain from {three}, 4 from {four}, 5 from "
        f"{five}. Once the part is out, this side can't grow."
    )

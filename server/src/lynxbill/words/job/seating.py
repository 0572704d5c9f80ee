"""Where parts sit and what workloads are aimed at, in words: the ceiling there, its end, and what is asked."""

from dataclasses import dataclass

from lynxbill.core.change.ceilings import Ceiling
from lynxbill.core.change.seating import Aim, Seating
from lynxbill.words.base.figures import DecimalMark, figure


@dataclass(frozen=True, slots=True)
class WordedSeating:
    """What is known as one sentence, and what is asked; either may be empty."""

    sentence: str = ""
    asks: tuple[str, ...] = ()


def say_seating(seating: Seating, mark: DecimalMark) -> WordedSeating:
    """Say what a part can carry where it sits, and ask about each name that nothing goes by."""
    asks = [f"No part here is called “{stranger.name}”: choose which is meant." for stranger in seating.strangers]
    if seating.seat_missing:
        asks.append("Where does it sit? Until that is said, what it can carry isn’t known.")
    return WordedSeating(f"Can {_carry(seating.ceiling, mark)}." if seating.ceiling else "", tuple(asks))


def say_aim(aim: Aim, mark: DecimalMark) -> WordedSeating:
    """Say what a workload is set against, and ask where that can't be told."""
    if aim.stranger is not None:
        ask = f"No part of this machine is called “{aim.stranger}”, so it is set against no ceiling and no rating."
        return WordedSeating("", (f"{ask} Choose a part, or leave it where it is a slot or cores.",))
    if aim.among:
        names = ", ".join(part.label for part in aim.among)
        return WordedSeating(
            "", (f"It may go to {names}: choose which, or it is set against no ceiling and no rating of them.",)
        )
    if aim.part is None:
        return WordedSeating()
    ceiling = f", which can {_carry(aim.ceiling, mark)}" if aim.ceiling else ""
    return WordedSeating(f"Set against {aim.part.label}{ceiling}.")


def _carry(ceiling: Ceiling, mark: DecimalMark) -> str:
    """What can be carried, after the loss to coding and before it, and which end limits it."""
    by = f"limited by {ceiling.limited_by}" if ceiling.limited_by else "no end limits the other"
    raw = f" ({figure(ceiling.raw, mark)} as bits are sent)" if ceiling.raw > ceiling.usable else ""
    return f"carry {figure(ceiling.usable, mark)} MB/s here{raw}, {by}"

"""Answers that cost much: computed once for each state of a machine, and kept for all server processes."""

from collections.abc import Callable, Mapping
from threading import Lock
from uuid import UUID
from weakref import WeakValueDictionary

from sqlalchemy.exc import IntegrityError

from lynxbill.services.base.transaction import Sessions, reading
from lynxbill.store.answers import Stamp, find_answer, keep_answer, read_stamp
from lynxbill.store.space import space_of


class _Turn:
    """Those who ask the same at the same time wait for the first of them, rather than compute it beside them."""

    def __init__(self) -> None:
        self.lock = Lock()


_turns: WeakValueDictionary[tuple[UUID, str], _Turn] = WeakValueDictionary()
_turns_lock = Lock()


def answer(sessions: Sessions, machine_id: UUID, question: str, compute: Callable[[], Mapping[str, str]]) -> str:
    """
    Hand out what is kept, or compute and keep it.

    `compute` reads the machine itself, at this state or a later one; what it finds is kept for this state, so that
    one that changed meanwhile is computed again. It answers this question by its name, and what else it found.
    """
    with sessions() as session:
        known = find_answer(session, machine_id, question)
    if known is not None:
        return known
    with _turns_lock:
        turn = _turns.setdefault((machine_id, question), _Turn())
    with turn.lock:
        with reading(sessions) as session:
            stamp, known = read_stamp(session, machine_id), find_answer(session, machine_id, question)
        if known is not None:
            return known
        contents = compute()
        if stamp is not None:
            _keep(sessions, machine_id, stamp, contents)
        return contents[question]


def _keep(sessions: Sessions, machine_id: UUID, stamp: Stamp, contents: Mapping[str, str]) -> None:
    try:
        with sessions.begin() as session:
            if space_of(session).is_full:
                return
            for question, content in contents.items():
                keep_answer(session, machine_id, question, stamp, content)
    except IntegrityError:
        # The machine was removed meanwhile: there is nothing left to keep it for.
        return

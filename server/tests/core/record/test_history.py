"""What was changed is told from what to what, whatever came later; what was first written is no change."""

from dataclasses import replace
from datetime import timedelta

from lynxbill.core.record.history import Change, changes_of
from lynxbill.core.record.run import Reading as Figure
from lynxbill.core.record.run import SetAside, Was
from tests.builders import DAY, TIME, make_case, make_run

MEMBER = f"readings.{TIME.id}"
FIRST, THEN, LAST = (DAY + timedelta(minutes=minute) for minute in (1, 2, 3))


def figure(value: float) -> Figure:
    return Figure(value, value)


def test_each_change_keeps_its_own_old_and_new() -> None:
    was = (
        Was(MEMBER, figure(418), FIRST, "A"),
        Was("position", 2, THEN),
        Was(MEMBER, figure(41.8), LAST, "B", "dust"),
    )
    assert changes_of(make_run("B0", 1, 41.7, was=was)) == (
        Change(MEMBER, figure(418), figure(41.8), FIRST, "A"),
        Change("position", 2, 1, THEN),
        Change(MEMBER, figure(41.8), figure(41.7), LAST, "B", "dust"),
    )


def test_what_is_written_where_nothing_stood_is_no_change() -> None:
    was = (Was(MEMBER, None, FIRST), Was("reason", "", THEN), Was("conditions.fan", None, LAST))
    assert changes_of(make_run("B0", 1, 41.7, was=was, conditions={"fan": "auto"})) == ()
    # Taken back and typed anew, it was changed once: from what stood to what was typed then.
    again = (Was(MEMBER, figure(41.9), FIRST), Was(MEMBER, None, THEN), Was(MEMBER, figure(41.8), LAST))
    changes = changes_of(make_run("B0", 1, 41.7, was=again))
    assert [(change.old, change.new) for change in changes] == [
        (figure(41.9), figure(41.8)),
        (figure(41.8), figure(41.7)),
    ]


def test_a_member_within_another_is_told_as_it_stands() -> None:
    (sitting, *_) = make_case([[40.0]], [[30.0]]).sittings
    was = (Was("conditions.fan", "auto", FIRST), Was("set_aside.reason", "dust", THEN), Was("ambient_c", 20.0, LAST))
    changed = replace(sitting, was=was, conditions={"fan": "full"}, set_aside=SetAside("heat", FIRST))
    assert [(change.member, change.new) for change in changes_of(changed)] == [
        ("conditions.fan", "full"),
        ("set_aside.reason", "heat"),
        ("ambient_c", 22.0),
    ]

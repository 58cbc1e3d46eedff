import pytest

from haremile.core.by_hand.marks import LISTS, MARKS, Mark, timed
from haremile.core.by_hand.reaction import UNKNOWN_S, Reaction
from haremile.core.records.metrics import metric
from haremile.errors import BadInputError

DRILL = Reaction(0.2, 0.05, 0.015, 15, 0)


def lane(*pairs):
    return [Mark(kind, at) for kind, at in pairs]


def values(found):
    return {one.metric: pytest.approx(one.value_s) for one in found.readings}


def test_the_delay_is_taken_off_what_was_seen_and_not_off_what_was_done():
    found = timed(lane(("power", 1.0), ("login", 11.2), ("desktop", 21.2)), DRILL)
    assert values(found) == {"boot.login": 10.0, "boot.total": 20.0}
    assert "0.200 s taken off" in found.reaction


def test_it_cancels_where_begin_and_end_are_both_seen():
    marks = lane(("light", 1.0), ("desktop", 21.0))
    with_drill, without = timed(marks, DRILL), timed(marks, None)
    assert values(with_drill) == values(without) == {"boot.total": 20.0}
    assert "cancels" in with_drill.reaction


def test_what_the_machine_waited_for_a_person_lies_in_no_reading():
    marks = lane(
        ("power", 0.0),
        ("loader", 4.0),
        ("menu", 9.0),
        ("login", 20.0),
        ("password", 26.0),
        ("desktop", 31.0),
    )
    found = timed(marks, None)
    assert values(found) == {"boot.firmware": 4.0, "boot.login": 15.0, "boot.total": 20.0}
    assert found.waits_s == {"menu": 5.0, "login": 6.0}
    assert found.waits_text == "taken out"
    assert "taken off 3 times" in timed(marks, DRILL).reaction


def test_parts_begin_where_the_part_before_ended_and_the_total_at_the_first_mark():
    marks = lane(
        ("begin", 0.0),
        ("question", 30.0),
        ("answered", 50.0),
        ("copied", 200.0),
        ("updates", 500.0),
        ("question", 510.0),
        ("answered", 515.0),
        ("configured", 600.0),
        ("done", 620.0),
    )
    found = timed(marks, None)
    assert values(found) == {
        "install.copying": 180.0,
        "install.updates": 300.0,
        "install.configuring": 95.0,
        "install.total": 595.0,
    }
    assert found.waits_s == {"question": 25.0}
    drilled = values(timed(marks, DRILL))
    # the end is seen, and so is the question: it came sooner than it was marked, too
    assert drilled["install.copying"] == 180.0 - 2 * 0.2
    assert drilled["install.updates"] == 300.0


def test_a_mark_of_ones_own_is_a_time_of_its_own():
    marks = [Mark("power", 0.0), Mark("own.wait", 4.0, "sign"), Mark("own.seen", 30.0, "Post open")]
    found = timed(marks, None)
    assert values(found) == {"own.time.Post_open": 26.0}
    assert metric("own.time.Post_open").label == "Post open"
    assert metric("own.time.Post_open").unit == "s"
    with pytest.raises(BadInputError, match="has a name"):
        timed([Mark("power", 0.0), Mark("own.seen", 30.0, "  ")], None)


def test_without_a_drill_nothing_is_taken_off_and_the_step_is_a_fifth_of_a_second():
    found = timed(lane(("power", 0.0), ("desktop", 20.0)), None)
    assert found.readings[0].resolution_s == UNKNOWN_S
    assert "nothing taken off" in found.reaction
    assert found.waits_text == "none"


def test_a_recordings_step_is_that_of_its_frames():
    found = timed(lane(("power", 0.0), ("desktop", 20.0)), None, resolution_s=1 / 25)
    assert found.readings[0].resolution_s == pytest.approx(0.04)


@pytest.mark.parametrize(
    ("marks", "says"),
    [
        (lane(("power", 0.0)), "2 to"),
        (lane(("power", 5.0), ("desktop", 2.0)), "order of time"),
        (lane(("power", 0.0), ("menu", 2.0)), "give no reading"),
        (lane(("power", 0.0), ("sunrise", 2.0)), "unknown mark"),
        (lane(("power", 0.0), ("desktop", 2.0), ("desktop", 3.0)), "stands twice"),
        (lane(("loader", 0.0), ("menu", 9.0), ("desktop", 9.0)), "waits are taken out"),
    ],
)
def test_marks_that_tell_nothing_are_refused(marks, says):
    with pytest.raises(BadInputError, match=says):
        timed(marks, None)


def test_every_list_that_is_offered_gives_a_reading():
    for name, kinds in LISTS.items():
        marks = [Mark(kind, 10.0 * place) for place, kind in enumerate(kinds)]
        assert timed(marks, None).readings, name
    assert set().union(*LISTS.values()) <= set(MARKS)

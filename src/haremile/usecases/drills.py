"""A drill that is done afterwards still counts: the presses are kept, and read anew."""

import json
from datetime import UTC, datetime, timedelta

from haremile.core.by_hand.marks import Mark, timed
from haremile.core.by_hand.reaction import Reaction
from haremile.formats.captures import parse_stored
from haremile.usecases.by_hand import HAND_MARKS, WAITED
from haremile.usecases.ports import Drill, HandTimed, Reactions, Retimed
from haremile_probe.wire import CAPTURE_FORMAT

DRILL_HOLDS = timedelta(hours=12)
"""A person's reaction is not that of another day."""


def take_off_afterwards(reactions: Reactions, drill: Drill) -> int:
    """Take the delay that a drill found off what its person timed since without one.

    Returns
    -------
    int
        How many runs were read anew.
    """
    found = reactions.without_drill(drill.person, datetime.now(UTC) - DRILL_HOLDS)
    taken = 0
    for one in found:
        marks = marks_of(one)
        if marks:
            stated, readings = _anew(one, marks, drill.reaction)
            reactions.retime(one, stated, readings)
            taken += 1
    return taken


def marks_of(one: HandTimed) -> list[Mark]:
    """The presses that a capture keeps; none where it keeps none."""
    capture = parse_stored(CAPTURE_FORMAT, one.body)
    texts = [] if capture is None else [e.text for e in capture.evidence if e.name == HAND_MARKS]
    return [
        Mark(mark["kind"], mark["at_s"], mark.get("name", ""))
        for text in texts
        for mark in json.loads(text)["marks"]
    ]


def _anew(one: HandTimed, marks: list[Mark], reaction: Reaction) -> tuple[str, list[Retimed]]:
    given = timed(marks, reaction)
    values = {read.metric: read.value_s for read in given.readings}
    values[WAITED] = sum(given.waits_s.values())
    step = given.readings[-1].resolution_s
    return given.reaction, [
        Retimed(reading, metric, values[metric], step)
        for metric, reading in one.readings.items()
        if metric in values and values[metric] > 0
    ]

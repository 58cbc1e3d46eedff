"""Marks of one lane in their order, and the readings that follow from them.

A mark that answers something *seen* comes late by the person's delay; one that is pressed together
with an *act* of the person's own (power switched on, Return pressed) does not. The delay is taken
off the seen ones, so that it cancels where start and end are both seen. Time that the machine
waited for the person is taken out of every reading that it lies in, and stated apart.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise

from haremile.core.by_hand.reaction import NO_DRILL, UNKNOWN_S, Reaction
from haremile.core.records.metrics import OWN_TIME, own_time
from haremile.errors import BadInputError

MOST_MARKS = 40
DAY_S = 86400.0


@dataclass(frozen=True)
class MarkKind:
    """A moment that is marked.

    Attributes
    ----------
    key, label : str
    is_seen : bool
        Whether it is answered when it is seen; otherwise it is an act of the person.
    metric : str or None
        The reading that ends here, waits taken out.
    is_part : bool
        Whether that reading begins at the part before; otherwise it begins at the first mark.
    ends_wait : str or None
        What the machine waited for the person with, from the mark before until this one.
    says : str
        When it is pressed.
    """

    key: str
    label: str
    is_seen: bool
    metric: str | None = None
    ends_wait: str | None = None
    says: str = ""
    is_part: bool = False


def _part(key: str, label: str, metric: str, says: str) -> MarkKind:
    return MarkKind(key, label, True, metric, says=says, is_part=True)


MARKS: Mapping[str, MarkKind] = {
    one.key: one
    for one in (
        MarkKind("power", "power on", False, says="as you switch it on, or as it restarts"),
        MarkKind("light", "first light", True, says="as its screen or lamp lights up"),
        MarkKind("loader", "loader", True, "boot.firmware", says="as the boot loader shows"),
        MarkKind("menu", "menu left", False, None, "menu", "as you press Return in its menu"),
        MarkKind("asked", "passphrase asked", True, says="as it asks for the passphrase"),
        MarkKind(
            "passphrase", "passphrase typed", False, None, "passphrase", "as you press Return"
        ),
        MarkKind("login", "login shown", True, "boot.login", says="as the login shows"),
        MarkKind("password", "password typed", False, None, "login", "as you press Return"),
        MarkKind("desktop", "desktop", True, "boot.total", says="as the desktop can be used"),
        MarkKind("page", "first useful page", True, "boot.task", says="as the page is there"),
        MarkKind("order", "shutdown ordered", False, says="as you order it"),
        MarkKind("off", "off", True, "boot.shutdown", says="as lamp and screen go dark"),
        MarkKind("begin", "begun", False, says="as you begin"),
        MarkKind("question", "question shown", True, says="as it asks you something"),
        MarkKind("answered", "answered", False, None, "question", "as you answer"),
        _part("copied", "copied", "install.copying", "as copying is done"),
        _part("updates", "updated", "install.updates", "as the updates are in"),
        _part("configured", "configured", "install.configuring", "as configuring is done"),
        MarkKind("done", "done", True, "install.total", says="as it says that it is done"),
        MarkKind("added", "desktop added", True, "install.desktop", says="as it is there"),
        MarkKind("upgraded", "upgraded", True, "install.upgrade", says="as the new release is up"),
        MarkKind("own.seen", "own mark, seen", True, OWN_TIME, says="as you see it"),
        MarkKind("own.act", "own mark, an act", False, OWN_TIME, says="as you do it"),
        MarkKind("own.wait", "own mark, ends a wait", False, None, "own", says="as you answer"),
    )
}

LISTS: Mapping[str, tuple[str, ...]] = {
    "To the desktop": ("power", "desktop"),
    "To the desktop, with its parts": ("power", "loader", "menu", "login", "password", "desktop"),
    "With a passphrase": (
        "power",
        "loader",
        "menu",
        "asked",
        "passphrase",
        "login",
        "password",
        "desktop",
    ),
    "To a first useful page": ("power", "desktop", "page"),
    "Shutdown": ("order", "off"),
    "Installing": ("begin", "question", "answered", "done"),
    "Installing, with its parts": (
        "begin",
        "question",
        "answered",
        "copied",
        "updates",
        "configured",
        "done",
    ),
    "Adding a desktop": ("begin", "question", "answered", "added"),
    "Upgrading": ("begin", "question", "answered", "upgraded"),
}
"""Lists of marks that are offered; a tester makes others."""


@dataclass(frozen=True)
class Mark:
    """One press: which mark, and seconds on a clock that only goes forward; `name` is that of a
    mark of the tester's own."""

    kind: str
    at_s: float
    name: str = ""

    @property
    def label(self) -> str:
        """What it is called."""
        return self.name or MARKS[self.kind].label

    @property
    def metric(self) -> str | None:
        """The reading that ends with it."""
        given = MARKS[self.kind].metric
        return own_time(self.name) if given == OWN_TIME else given


@dataclass(frozen=True)
class MarkReading:
    """A reading that follows from marks, in seconds; `resolution_s` is the step it is good to."""

    metric: str
    value_s: float
    resolution_s: float


@dataclass(frozen=True)
class Timed:
    """What the marks of a lane give: readings, what was waited for (seconds each), and the
    condition that states the person's reaction."""

    readings: tuple[MarkReading, ...]
    waits_s: Mapping[str, float]
    reaction: str

    @property
    def waits_text(self) -> str:
        """As a condition states it: nothing of it lies in any reading."""
        return "taken out" if self.waits_s else "none"


def timed(
    marks: Sequence[Mark], drill: Reaction | None, resolution_s: float | None = None
) -> Timed:
    """The readings of a lane.

    Parameters
    ----------
    marks : sequence of Mark
        In order; the first begins.
    drill : Reaction or None
        Of who pressed; None where there was no drill, or none is needed.
    resolution_s : float, optional
        To which a mark is good where no person's reaction lies in it: half of it on each side of a
        reading. A recording's frames have one.

    Raises
    ------
    BadInputError
        If marks are not in order, unknown, or give no reading.
    """
    _check(marks)
    delay = drill.delay_s if drill is not None else 0.0
    at = [one.at_s - (delay if MARKS[one.kind].is_seen else 0.0) for one in marks]
    waits: dict[str, float] = {}
    found = []
    waited = 0.0
    taken_off = [MARKS[one.kind].is_seen for one in marks]
    waits_seen = 0
    times = 0
    part = (0, 0.0, 0)
    for place, mark in enumerate(marks[1:], start=1):
        kind = MARKS[mark.kind]
        if kind.ends_wait is not None:
            wait = max(at[place] - at[place - 1], 0.0)
            waits[kind.ends_wait] = waits.get(kind.ends_wait, 0.0) + wait
            waited += wait
            waits_seen += taken_off[place - 1] - taken_off[place]
        elif mark.metric is not None:
            begin, out, seen_out = part if kind.is_part else (0, 0.0, 0)
            value = at[place] - at[begin] - (waited - out)
            if kind.is_part:
                part = (place, waited, waits_seen)
            if value <= 0:
                raise BadInputError(
                    f"{mark.label} comes out as {value:.3f} s once the waits are taken out; "
                    "look at its marks again"
                )
            times = max(times, abs(taken_off[place] - taken_off[begin] + waits_seen - seen_out))
            found.append(MarkReading(mark.metric, value, _step(drill, resolution_s)))
    if not found:
        known = ", ".join(kind.label for kind in MARKS.values() if kind.metric)
        raise BadInputError(f"these marks give no reading; one of these has to be there: {known}")
    said = NO_DRILL if drill is None else drill.stated(times)
    return Timed(tuple(found), waits, said)


def _step(drill: Reaction | None, resolution_s: float | None) -> float:
    if resolution_s is not None:
        return resolution_s
    return UNKNOWN_S if drill is None else CLOCK_S


CLOCK_S = 0.001
"""Presses are stamped to a thousandth of a second."""


def _check(marks: Sequence[Mark]) -> None:
    if not 2 <= len(marks) <= MOST_MARKS:
        raise BadInputError(f"{len(marks)} marks; a lane has 2 to {MOST_MARKS}")
    for one in marks:
        if one.kind not in MARKS:
            raise BadInputError(f"unknown mark: {one.kind}; expected one of {', '.join(MARKS)}")
    for before, after in pairwise(marks):
        if not before.at_s <= after.at_s <= before.at_s + DAY_S:
            raise BadInputError(
                f"{after.label} comes before {before.label}: marks stand in the order of time"
            )
    measured = [key for key in (one.metric for one in marks[1:]) if key]
    if len(set(measured)) < len(measured):
        raise BadInputError("a mark that gives a reading stands twice")

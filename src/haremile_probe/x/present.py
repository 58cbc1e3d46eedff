"""X Present: what became of every picture that a window handed to the server to show.

The X client in use lacks this extension: its two requests and one event stand here. Source: the
Present extension, version 1.2, sections 4 to 6.
"""

import select
import time
from typing import Any, Callable, Dict, List, NamedTuple, Set

from Xlib import error
from Xlib.protocol import rq

from haremile_probe.runtime import MissingHere
from haremile_probe.x.display import open_display

EXTENSION = "Present"
COMPLETE_NOTIFY, COMPLETE_MASK = 1, 2
OF_A_PICTURE = 0
SKIPPED = 2
LOOK_EVERY_S = 0.02
NEW_CHILDREN_S = 0.5
DEEPEST = 12
MOST_WINDOWS = 2000


class QueryVersion(rq.ReplyRequest):  # type: ignore[misc]
    """Agree on the extension's version, as it asks for before anything else."""

    _request = rq.Struct(
        rq.Card8("opcode"), rq.Opcode(0), rq.RequestLength(), rq.Card32("major"), rq.Card32("minor")
    )
    _reply = rq.Struct(
        rq.ReplyCode(),
        rq.Pad(1),
        rq.Card16("sequence_number"),
        rq.ReplyLength(),
        rq.Card32("major"),
        rq.Card32("minor"),
        rq.Pad(16),
    )


class SelectInput(rq.Request):  # type: ignore[misc]
    """Ask to be told of what one window presents, under an identifier of the asker's own."""

    _request = rq.Struct(
        rq.Card8("opcode"),
        rq.Opcode(3),
        rq.RequestLength(),
        rq.Card32("event_id"),
        rq.Card32("window"),
        rq.Card32("mask"),
    )


COMPLETED = rq.Struct(
    rq.Card8("kind"),
    rq.Card8("mode"),
    rq.Card32("event_id"),
    rq.Card32("window"),
    rq.Card32("serial"),
    rq.Card32("ust_low"),
    rq.Card32("ust_high"),
    rq.Card32("msc_low"),
    rq.Card32("msc_high"),
)
"""A completion event after its first ten bytes."""


class Completion(NamedTuple):
    """One picture: when, in microseconds; at which refresh; and whether it was shown at all."""

    at_us: int
    refresh: int
    is_shown: bool


def agreed(opened: Any) -> int:
    """Agree with the server on the extension; the number by which it is asked.

    Raises MissingHere.
    """
    known = opened.query_extension(EXTENSION)
    if not known:
        raise MissingHere("this X server has no Present extension; no picture is told of")
    QueryVersion(display=opened.display, opcode=known.major_opcode, major=1, minor=2)
    opened.ge_add_event_data(known.major_opcode, COMPLETE_NOTIFY, COMPLETED)
    return int(known.major_opcode)


class Presented:
    """Listens to one window and all windows within it, over a connection of its own."""

    def __init__(self, window_id: int):
        self._display = open_display()
        self._wire = self._display.display
        self._major = agreed(self._display)
        self._window_id = window_id
        self._asked: Set[int] = set()
        self._found: Dict[int, List[Completion]] = {}

    def close(self) -> None:
        """End the connection."""
        self._display.close()

    def listen(self, seconds: float, meanwhile: Callable[[], object]) -> List[Completion]:
        """What the window that presents most completed in so many seconds from now on; `meanwhile`
        is called all the time."""
        self._found.clear()
        end, looked = time.monotonic() + seconds, 0.0
        while time.monotonic() < end:
            if time.monotonic() - looked > NEW_CHILDREN_S:
                looked = time.monotonic()
                self._ask(self._window_id, DEEPEST)
                self._display.flush()
            select.select([self._display.fileno()], [], [], LOOK_EVERY_S)
            for _ in range(self._display.pending_events()):
                self._take(self._display.next_event())
            meanwhile()
        return max(self._found.values(), key=len, default=[])

    def _ask(self, window_id: int, deep: int) -> None:
        if window_id not in self._asked and len(self._asked) < MOST_WINDOWS:
            self._asked.add(window_id)
            SelectInput(
                display=self._wire,
                opcode=self._major,
                event_id=self._wire.allocate_resource_id(),
                window=window_id,
                mask=COMPLETE_MASK,
            )
        if not deep:
            return
        try:
            found = self._display.create_resource_object("window", window_id).query_tree()
        except error.XError:
            return  # it is gone
        for child in found.children:
            self._ask(child.id, deep - 1)

    def _take(self, event: Any) -> None:
        is_of_ours = getattr(event, "extension", None) == self._major
        if not is_of_ours or event.evtype != COMPLETE_NOTIFY or event.data["kind"] != OF_A_PICTURE:
            return
        told = event.data
        one = Completion(
            told["ust_low"] | told["ust_high"] << 32,
            told["msc_low"] | told["msc_high"] << 32,
            told["mode"] != SKIPPED,
        )
        self._found.setdefault(told["window"], []).append(one)

"""Ways in which the windows of a launch are seen; each is a method of its own."""

import os
from contextlib import suppress
from typing import Callable, NamedTuple, Optional, Sequence

from haremile_probe.launching.held import launch as held
from haremile_probe.launching.start import DisplayGone, Launch, LaunchPlan
from haremile_probe.session_user import session_user

CHECKED = {
    "x": "haremile_probe.check_application",
    "wayland": "haremile_probe.wayland.check_application",
    "accessibility": "haremile_probe.accessibility.check_application",
}
"""The application with known times that each way is checked by."""


class Sight(NamedTuple):
    """A way that is ready: launches and watches one command; ends the watching."""

    launch: Callable[[Sequence[str], LaunchPlan], Launch]
    close: Callable[[], None]


def usual_way() -> str:
    """How this session's windows are seen unless it is said otherwise."""
    return "wayland" if os.environ.get("WAYLAND_DISPLAY") else "x"


def open_sight(way: str, user: Optional[str]) -> Sight:
    """Begin to watch, as root for the user that is named or whose session it is.

    Raises MissingHere where this session cannot be seen so, Refused where the user is not known.
    """
    if way == "outside":
        return Sight(held, lambda: None)
    if way == "wayland":
        from haremile_probe.wayland.launch import launch as launch_there
        from haremile_probe.wayland.proxy import WaylandWatch

        there = WaylandWatch(session_user(user))
        return Sight(lambda command, plan: launch_there(there, command, plan), there.close)
    if way == "accessibility":
        from haremile_probe.accessibility.launch import launch as launch_told
        from haremile_probe.accessibility.watch import AccessibilityWatch

        told = AccessibilityWatch(session_user(user))
        return Sight(lambda command, plan: launch_told(told, command, plan), told.close)
    from haremile_probe.x.display import while_displayed
    from haremile_probe.x.launch import launch
    from haremile_probe.x.watch import WindowWatch

    watch = WindowWatch()

    def launched(command: Sequence[str], plan: LaunchPlan) -> Launch:
        with while_displayed():
            return launch(watch, command, plan)

    def close() -> None:
        with suppress(DisplayGone), while_displayed():
            watch.close()

    return Sight(launched, close)

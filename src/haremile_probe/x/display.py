"""The connection to the X server."""

import os
from contextlib import contextmanager
from typing import Any, Iterator, List, Optional

from haremile_probe.launching.start import DisplayGone
from haremile_probe.runtime import MissingHere
from haremile_probe.wire import Fault


@contextmanager
def while_displayed() -> Iterator[None]:
    """Raises DisplayGone where the server goes meanwhile."""
    from Xlib import error

    try:
        yield
    except error.ConnectionClosedError as met:
        raise DisplayGone("the X server went away: %s" % met) from None


def open_display() -> Any:
    """Connect to ``$DISPLAY``; MissingHere says what lacks."""
    name = os.environ.get("DISPLAY")
    if not name:
        raise MissingHere(
            "no X display: DISPLAY is not set; start an X session, or name its display: DISPLAY=:0"
        )
    try:
        from Xlib import display, error
    except ImportError:
        raise MissingHere(
            "the X client is not here; use haremile-probe.pyz, which holds it"
        ) from None
    try:
        opened = display.Display(name)
    except (error.DisplayError, OSError) as met:
        raise MissingHere("the X display %s does not answer: %s" % (name, met)) from None
    opened.set_error_handler(lambda _error, _request: None)  # windows vanish while they are asked
    if not opened.query_extension("DAMAGE"):
        raise MissingHere("the X server %s has no DAMAGE extension; paints cannot be seen" % name)
    opened.damage_query_version()
    return opened


def window_manager_window(opened: Any) -> Any:
    """The window that the window manager identifies itself by (EWMH), None if there is none.

    The root window keeps the word of a manager that was killed: only a window that says the same of
    itself is there.
    """
    from Xlib import error

    atom = opened.intern_atom("_NET_SUPPORTING_WM_CHECK")
    stated = opened.screen().root.get_full_property(atom, 0)
    if stated is None or not len(stated.value):
        return None
    window = opened.create_resource_object("window", int(stated.value[0]))
    try:
        own = window.get_full_property(atom, 0)
    except error.BadWindow:
        return None
    return window if own is not None and list(own.value) == list(stated.value) else None


def window_manager_name(faults: List[Fault]) -> Optional[str]:
    """The window manager's name, None (and a fault) where none is told."""
    try:
        opened = open_display()
    except MissingHere as error:
        faults.append(Fault("absent", "window-manager: %s" % error))
        return None
    try:
        window = window_manager_window(opened)
        if window is None:
            faults.append(Fault("absent", "window-manager: none states itself"))
            return None
        stated = window.get_full_property(opened.intern_atom("_NET_WM_NAME"), 0)
        if stated is None:
            return None
        value = stated.value
        return value if isinstance(value, str) else bytes(value).decode("utf-8", "replace")
    finally:
        opened.close()


def owner_pid(opened: Any, window_id: int) -> Optional[int]:
    """The process that the server says owns a window (X-Resource), None where it does not know."""
    from Xlib import error
    from Xlib.ext import res

    if not opened.query_extension("X-Resource"):
        return None
    try:
        answer = opened.res_query_client_ids(
            [{"client": window_id, "mask": res.LocalClientPIDMask}]
        )
    except error.XError:
        return None
    for item in answer.ids:
        if item.value:
            return int(item.value[0])
    return None

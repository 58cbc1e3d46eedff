"""Windows and paints as they come, in seconds on the monotonic clock.

A window counts as mapped at the first of: its own MapNotify, its frame's (linked by the root's
ReparentNotify), its first paint, or an attribute poll. Selecting events of each window alone loses
those that are mapped before the selection gets through. Paints carry the server's own clock, in
milliseconds; events come in the order in which things happened, so that a window heard of late was
mapped no later than the first paint or property that came after it.
"""

import time
from typing import Any, Dict, List, NamedTuple, Optional, Tuple

from haremile_probe.x.display import open_display, owner_pid, window_manager_window

LEAST_WINDOW_AREA = 64 * 48
POLL_EVERY_S = 0.1
DEFER_S = 0.15
IS_VIEWABLE = 2
CLOCK_S = 0.001
"""The server's clock counts whole milliseconds."""


class Paint(NamedTuple):
    """A damaged rectangle: when by the server's clock, and where on the screen."""

    at: float
    x: int
    y: int
    width: int
    height: int


class WindowFacts(NamedTuple):
    """What a window states of itself."""

    kind: str
    area: int
    owner: Optional[int]
    stated_pid: Optional[int]
    startup_id: Optional[str]
    position: Tuple[int, int, int, int]


class Window:
    """A top-level window since it was created; times on the monotonic clock.

    It was created no earlier than `created`; of its mapping, and before that of its being there,
    was heard at `heard`.
    """

    def __init__(self, window_id: int, created: float, area: int):
        self.id, self.created, self.area = window_id, created, area
        self.mapped: Optional[float] = None
        self.via = ""
        self.unmapped: Optional[float] = None
        self.facts: Optional[WindowFacts] = None
        self.paints: List[Paint] = []
        self.background: Optional[float] = None
        self.heard = 0.0


class WindowWatch:
    """Watches all top-level windows of one display. Made before anything is started."""

    def __init__(self) -> None:
        from Xlib import X
        from Xlib.ext import damage

        self._x, self._raw = X, damage.DamageReportRawRectangles
        self.display = open_display()
        self.root = self.display.screen().root
        names = (
            "_NET_WM_PID",
            "_NET_STARTUP_ID",
            "_NET_WM_WINDOW_TYPE",
            "_NET_WM_WINDOW_TYPE_SPLASH",
            "_NET_WM_WINDOW_TYPE_NORMAL",
            "_NET_WM_WINDOW_TYPE_DIALOG",
            "_NET_WM_WINDOW_TYPE_UTILITY",
            "_NET_ACTIVE_WINDOW",
            "WM_CLIENT_LEADER",
        )
        self._atoms = {name: self.display.intern_atom(name) for name in names}
        checked = window_manager_window(self.display)
        self.manager_pid = None if checked is None else owner_pid(self.display, checked.id)
        self.root.change_attributes(event_mask=X.SubstructureNotifyMask | X.PropertyChangeMask)
        self._root_damage = self.root.damage_create(self._raw)
        self.display.sync()
        self.clear()

    def clear(self) -> None:
        """Forget everything seen so far; the pointer goes to a corner, where nothing lights up."""
        screen = self.display.screen()
        self.root.warp_pointer(screen.width_in_pixels - 1, screen.height_in_pixels - 1)
        self.display.sync()
        while self.display.pending_events():
            self.display.next_event()
        self.windows: Dict[int, Window] = {}
        self.root_paints: List[Paint] = []
        self._damages: Dict[int, int] = {}
        self._frames: Dict[int, int] = {}
        self._unknown: List[Window] = []
        self._just_mapped: Optional[Window] = None
        self._polled = self._last_map = self.activated = 0.0
        self._heard = self._heard_before = time.monotonic()

    def close(self) -> None:
        """End the connection."""
        self.display.close()

    def fileno(self) -> int:
        """The connection's descriptor, for polling."""
        return int(self.display.fileno())

    def take(self) -> bool:
        """Take what has come; whether anything did."""
        self._heard_before, self._heard = self._heard, time.monotonic()
        count = self.display.pending_events()
        now = time.monotonic()  # once the socket is read: nothing is stamped before it came
        for _ in range(count):
            self._event(self.display.next_event(), now)
        if now - self._polled > POLL_EVERY_S:
            self._polled = now
            self._poll(now)
        self.display.flush()
        return bool(count)

    def newly_known(self, is_quiet: bool) -> List[Window]:
        """Windows that were mapped and are now asked what they are.

        Asking needs round trips, so it waits until the queue is quiet, or 150 ms have passed.
        """
        if not self._unknown or not (is_quiet or time.monotonic() - self._last_map > DEFER_S):
            return []
        asked, self._unknown = self._unknown, []
        for window in asked:
            window.facts = self._ask(window.id)
        return [window for window in asked if window.facts is not None]

    def _event(self, event: Any, now: float) -> None:
        kind = event.type
        just_mapped, self._just_mapped = self._just_mapped, None
        if kind == self._x.CreateNotify and event.parent == self.root:
            self._created(event, now)
        elif kind == self._x.MapNotify:
            own = self.windows.get(event.window.id)
            self._just_mapped = own
            framed = self.windows.get(self._frames.get(event.window.id, 0))
            self._mapped(own, "window", now)
            self._mapped(framed, "frame", now)
        elif kind == self._x.ReparentNotify and event.window.id in self.windows:
            self._frames[event.parent.id] = event.window.id
        elif kind == self._x.PropertyNotify and event.atom == self._atoms["_NET_ACTIVE_WINDOW"]:
            self.activated = server_time(event.time, now)
            self._not_later(self.activated)
        elif kind == self._x.PropertyNotify:
            self._not_later(server_time(event.time, now))
        elif kind == self._x.UnmapNotify and event.window.id in self.windows:
            self.windows[event.window.id].unmapped = now
        elif kind == self.display.extension_event.DamageNotify:
            self._painted(event, now, just_mapped)

    def _created(self, event: Any, now: float) -> None:
        window = event.window
        area = event.width * event.height
        self.windows[window.id] = made = Window(window.id, self._heard_before, area)
        made.heard = now
        window.change_attributes(
            event_mask=self._x.StructureNotifyMask | self._x.PropertyChangeMask
        )
        self._damages[window.damage_create(self._raw)] = window.id

    def _mapped(self, window: Optional[Window], via: str, now: float) -> None:
        if window is None:
            return
        window.unmapped = None
        if window.mapped is None:
            window.mapped, window.via, window.heard = now, via, now
            self._unknown.append(window)
            self._last_map = now

    def _painted(self, event: Any, now: float, just_mapped: Optional[Window]) -> None:
        area = event.area
        paint = Paint(server_time(event.timestamp, now), area.x, area.y, area.width, area.height)
        self._not_later(paint.at)
        if event.damage == self._root_damage:
            self.root_paints.append(paint)
            if just_mapped is not None and area.width * area.height >= just_mapped.area:
                just_mapped.background = paint.at
            self._just_mapped = just_mapped  # told of the screen beside the window itself
        elif event.damage in self._damages:
            window = self.windows[self._damages[event.damage]]
            window.paints.append(paint)
            if window.mapped is None:  # framed twice over, it says nothing of its mapping itself
                self._mapped(window, "paint", now)
                self._not_later(paint.at)
            if window is just_mapped:  # told in one breath with its mapping: the server painted it
                window.background = paint.at

    def _not_later(self, at: float) -> None:
        """What was heard of before this was mapped by then, as the server's own clock tells."""
        for window in self.windows.values():
            if window.mapped is not None and at < window.mapped:
                window.mapped = max(at, window.created)

    def _poll(self, now: float) -> None:
        from Xlib import error

        for window in list(self.windows.values()):
            if window.mapped is None and now - window.heard > POLL_EVERY_S / 2:
                try:
                    state = self._window(window.id).get_attributes().map_state
                except error.XError:
                    continue  # it is gone
                if state == IS_VIEWABLE:
                    self._mapped(window, "poll", now)

    def _window(self, window_id: int) -> Any:
        return self.display.create_resource_object("window", window_id)

    def _ask(self, window_id: int) -> Optional[WindowFacts]:
        from Xlib import error

        window = self._window(window_id)
        try:
            attributes, size = window.get_attributes(), window.get_geometry()
            at = self.root.translate_coords(window, 0, 0)
            stated = self._property(window, "_NET_WM_PID")
            kinds = [int(kind) for kind in self._property(window, "_NET_WM_WINDOW_TYPE") or ()]
            startup = self._startup_id(window)
        except error.XError:
            return None  # it is gone
        return WindowFacts(
            kind=self._kind(kinds, bool(attributes.override_redirect)),
            area=size.width * size.height,
            owner=owner_pid(self.display, window_id),
            stated_pid=int(stated[0]) if stated is not None and len(stated) else None,
            startup_id=startup,
            position=(at.x, at.y, size.width, size.height),
        )

    def _startup_id(self, window: Any) -> Optional[str]:
        """Of the window, or of its client leader, where some toolkits keep it."""
        leader = self._property(window, "WM_CLIENT_LEADER")
        places = [window, *([self._window(int(leader[0]))] if leader is not None else [])]
        for place in places:
            value = self._property(place, "_NET_STARTUP_ID")
            if value is not None:
                return value if isinstance(value, str) else bytes(value).decode("latin-1")
        return None

    def _property(self, window: Any, name: str) -> Any:
        found = window.get_full_property(self._atoms[name], self._x.AnyPropertyType)
        return None if found is None else found.value

    def _kind(self, kinds: List[int], is_override: bool) -> str:
        if self._atoms["_NET_WM_WINDOW_TYPE_SPLASH"] in kinds:
            return "splash"
        if self._atoms["_NET_WM_WINDOW_TYPE_DIALOG"] in kinds:
            return "dialog"
        if self._atoms["_NET_WM_WINDOW_TYPE_NORMAL"] in kinds:
            return "normal"
        if self._atoms["_NET_WM_WINDOW_TYPE_UTILITY"] in kinds:
            return "utility"
        if kinds:
            return "other"
        return "override" if is_override else "normal"


def first_paint(watch: WindowWatch, window: Window, small_area: int) -> Optional[float]:
    """When the application first painted its window, None where it was not seen to.

    Mapping paints the background, which is the server's doing and no paint of the application: it
    is told in one breath with the mapping, or covers the whole window by the time that the mapping
    was heard of, and more is painted later.
    """
    assert window.mapped is not None and window.facts is not None
    found = [
        (at, area)
        for at, area in _painted_within(watch, window)
        if area > small_area and at != window.background and at >= window.mapped - CLOCK_S
    ]
    whole = window.facts.area
    while len({at for at, _ in found}) > 1:
        at, area = found[0]
        if area < whole or at > window.heard + CLOCK_S:
            break
        found = [paint for paint in found if paint[0] != at]
    return max(found[0][0], window.mapped) if found else None


def server_time(stamp_ms: int, now: float) -> float:
    """A server's time stamp on the monotonic clock: its low 32 bits in milliseconds.

    The server's clock is that clock on every local server. `now` is a moment close by; the middle
    of the millisecond is returned.
    """
    off = (stamp_ms - int(now * 1000)) & 0xFFFFFFFF
    if off >= 2**31:
        off -= 2**32
    return (int(now * 1000) + off + 0.5) / 1000.0


def paints_within(watch: WindowWatch, window: Window, small_area: int) -> List[float]:
    """Times at which more than `small_area` of a window was painted, in order.

    What is told of the window itself counts; of the screen only where nothing is, for a window
    manager paints its frame over the window too.
    """
    own = [(paint.at, paint.width * paint.height) for paint in window.paints]
    return [at for at, area in own or _painted_within(watch, window) if area > small_area]


def _painted_within(watch: WindowWatch, window: Window) -> List[Tuple[float, int]]:
    """When how much of a window was painted, square pixels, in order.

    From the window's own damage, and from the root's where it falls inside the window: with a
    window manager's frame or a composited screen only one of the two may come.
    """
    assert window.facts is not None
    left, top, width, height = window.facts.position
    found = [(p.at, p.width * p.height) for p in window.paints]
    for paint in watch.root_paints:
        across = min(left + width, paint.x + paint.width) - max(left, paint.x)
        down = min(top + height, paint.y + paint.height) - max(top, paint.y)
        if across > 0 and down > 0:
            found.append((paint.at, across * down))
    return sorted(found)

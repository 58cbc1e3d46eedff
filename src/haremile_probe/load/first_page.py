"""The first useful page of a boot: a browser that is started once the desktop is there, and our own
page, which says when it was painted."""

import time
from typing import Optional, Sequence

from haremile_probe.collect.sources import Sources
from haremile_probe.launching.start import (
    Launch,
    LaunchPlan,
    Outcome,
    Started,
    ending_of,
    start_and_watch,
)
from haremile_probe.load.signs import PageServer
from haremile_probe.session_user import SessionUser
from haremile_probe.wire import Fault

PAGE, KIND = 1, "reading"
LOOK_EVERY_S = 0.02


def read_first_page(
    sources: Sources, command: Sequence[str], user: Optional[SessionUser], limit_s: float
) -> None:
    """Keep the uptime at which the page was painted as ``first-page``, and end the browser; a fault
    where it never was."""
    server = PageServer()
    try:
        words = [*command, server.address(PAGE, KIND)]
        plan = LaunchPlan(limit_s=limit_s, user=user)
        found = start_and_watch(words, plan, {}, lambda started: _watched(server, started, plan))
        sign = server.said(PAGE, "painted")
    finally:
        server.close()
    if sign is not None:
        asleep = sources.clock() - time.monotonic()
        sources.add("first-page", "%.3f\n" % (sign.at + asleep))
        return
    kind = "timed-out" if found.outcome is Outcome.TIMED_OUT else "unreadable"
    why = ", ".join(part for part in (found.outcome.value, found.detail) if part)
    sources.faults.append(Fault(kind, "first-page: %s: %s" % (command[0], why)))


def _watched(server: PageServer, started: Started, plan: LaunchPlan) -> Launch:
    while server.said(PAGE, "painted") is None:
        code = started.child.poll()
        if code and not started.tree():
            detail = ending_of(Outcome.NO_WINDOW, code)
            return Launch(Outcome.NO_WINDOW, detail, started.spawned)
        if time.monotonic() - started.spawned > plan.limit_s:
            return Launch(Outcome.TIMED_OUT, "", started.spawned)
        time.sleep(LOOK_EVERY_S)
    return Launch(Outcome.WINDOW, "", started.spawned)

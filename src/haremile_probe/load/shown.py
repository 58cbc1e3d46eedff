"""A browser with one of our pages, kept until that page has told what is wanted."""

import time
from typing import Callable, Optional, Sequence

from haremile_probe.launching.start import (
    Launch,
    LaunchPlan,
    Outcome,
    Started,
    ending_of,
    start_and_watch,
)
from haremile_probe.session_user import SessionUser
from haremile_probe.wire import Fault

LOOK_EVERY_S = 0.02


def fault_of_showing(
    what: str,
    words: Sequence[str],
    user: Optional[SessionUser],
    limit_s: float,
    has_told: Callable[[], bool],
) -> Fault:
    """Show it until it has told, or the limit is over, or it ended; the browser is gone afterwards.

    The fault that it is where it never told; who asks knows whether it did.
    """

    def watched(started: Started) -> Launch:
        while not has_told():
            code = started.child.poll()
            if code and not started.tree():
                detail = ending_of(Outcome.NO_WINDOW, code)
                return Launch(Outcome.NO_WINDOW, detail, started.spawned)
            if time.monotonic() - started.spawned > limit_s:
                return Launch(Outcome.TIMED_OUT, "", started.spawned)
            time.sleep(LOOK_EVERY_S)
        return Launch(Outcome.WINDOW, "", started.spawned)

    found = start_and_watch(words, LaunchPlan(limit_s=limit_s, user=user), {}, watched)
    kind = "timed-out" if found.outcome is Outcome.TIMED_OUT else "unreadable"
    why = ", ".join(part for part in (found.outcome.value, found.detail) if part)
    return Fault(kind, "%s: %s: %s" % (what, words[0], why))

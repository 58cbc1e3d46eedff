"""The first useful page of a boot: a browser that is started once the desktop is there, and our own
page, which says when it was painted."""

import time
from typing import Optional, Sequence

from haremile_probe.collect.sources import Sources
from haremile_probe.load.shown import fault_of_showing
from haremile_probe.load.signs import PageServer
from haremile_probe.session_user import SessionUser

PAGE, KIND = 1, "reading"


def read_first_page(
    sources: Sources, command: Sequence[str], user: Optional[SessionUser], limit_s: float
) -> None:
    """Keep the uptime at which the page was painted as ``first-page``, and end the browser; a fault
    where it never was."""
    server = PageServer()
    try:
        words = [*command, server.address(PAGE, KIND)]
        fault = fault_of_showing(
            "first-page", words, user, limit_s, lambda: server.said(PAGE, "painted") is not None
        )
        sign = server.said(PAGE, "painted")
    finally:
        server.close()
    if sign is None:
        sources.faults.append(fault)
        return
    asleep = sources.clock() - time.monotonic()
    sources.add("first-page", "%.3f\n" % (sign.at + asleep))

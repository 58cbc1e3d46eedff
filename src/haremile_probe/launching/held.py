"""A launch that is looked at from outside: started, held until its processes rest, and ended.

What shows the windows is not asked. Whoever films the screen (the host of a virtual machine) tells
from the instants of start and end, by this machine's uptime, when it changed and came to rest.
"""

import time
from typing import Sequence

from haremile_probe.launching.memory import cpu_seconds
from haremile_probe.launching.start import (
    NO_WINDOW_GRACE_S,
    Launch,
    LaunchPlan,
    Outcome,
    Started,
    ending_of,
    start_and_watch,
)

LOOK_EVERY_S = 0.25
REST_SHARE = 0.1
RESTS_S = 3.0
"""For so long its processes have to use next to no processor: what is drawn after that is none of
the launch, and a screen has long been filmed."""


def launch(command: Sequence[str], plan: LaunchPlan) -> Launch:
    """Start a command, wait until it rests or the limit is over, and end it again."""
    return start_and_watch(command, plan, {}, lambda started: _held(started, plan))


def _held(started: Started, plan: LaunchPlan) -> Launch:
    spawned, rested, used = started.spawned, started.spawned, 0.0
    while time.monotonic() - spawned < plan.limit_s:
        time.sleep(LOOK_EVERY_S)
        now, tree = time.monotonic(), started.tree()
        code = started.child.poll()
        if code is not None and not tree and now - rested > NO_WINDOW_GRACE_S:
            return Launch(Outcome.NO_WINDOW, ending_of(Outcome.NO_WINDOW, code), spawned)
        newest = cpu_seconds(tree)
        if newest - used > REST_SHARE * LOOK_EVERY_S:
            rested = now
        used = newest
        if now - rested >= RESTS_S:
            break
    return Launch(Outcome.HELD, "", spawned, held_s=time.monotonic() - spawned)

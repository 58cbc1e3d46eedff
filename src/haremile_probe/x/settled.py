"""When nothing changes on the whole screen any more: a settled desktop."""

import select
import time
from collections import Counter
from typing import Tuple

from haremile_probe.collect.sources import Sources
from haremile_probe.launching.start import SMALL_AREA
from haremile_probe.wire import Fault
from haremile_probe.x.rest import Rest
from haremile_probe.x.watch import WindowWatch


def read_settled_desktop(sources: Sources, quiet_s: float, limit_s: float) -> None:
    """Keep the uptime of the last change before a quiet window as ``desktop-settled``.

    A clock that is painted anew is none, as with a window (`Rest`). A fault of kind timed-out where
    the screen does not come to rest within the limit; one of kind absent, beside the time, where
    nothing changed after it was first looked at: it may have been at rest before.
    """
    watch = WindowWatch()
    rest = Rest(watch.display, watch.root.id, SMALL_AREA)
    places: "Counter[Tuple[int, ...]]" = Counter()
    try:
        begun = newest = time.monotonic()
        while True:
            select.select([watch.fileno()], [], [], 0.05)
            watch.take()
            for paint in watch.root_paints:
                if paint.width * paint.height > SMALL_AREA:
                    newest = max(newest, paint.at)
                    places[(paint.width, paint.height, paint.x, paint.y)] += 1
            watch.root_paints.clear()
            now = time.monotonic()
            if rest.judge(newest, now) and now - rest.changed_at >= quiet_s:
                break
            if now - begun > limit_s:
                sources.faults.append(Fault("timed-out", _restless(limit_s, places)))
                return
        if rest.changed_at <= begun:
            what = "desktop-settled: nothing changed after it was first looked at"
            sources.faults.append(Fault("absent", what))
        asleep = sources.clock() - time.monotonic()
        sources.add("desktop-settled", "%.3f\n" % (rest.changed_at + asleep))
    finally:
        watch.close()


def _restless(limit_s: float, places: "Counter[Tuple[int, ...]]") -> str:
    where = "".join(
        ", most often %d × %d pixels at %d, %d" % place for place, _ in places.most_common(1)
    )
    return "desktop-settled: the screen still changed after %g s%s" % (limit_s, where)

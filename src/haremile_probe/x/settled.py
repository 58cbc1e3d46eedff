"""When nothing changes on the whole screen any more: a settled desktop."""

import select
import time

from haremile_probe.collect.sources import Sources
from haremile_probe.launching.start import SMALL_AREA
from haremile_probe.wire import Fault
from haremile_probe.x.watch import WindowWatch


def read_settled_desktop(sources: Sources, quiet_s: float, limit_s: float) -> None:
    """Keep the uptime of the last paint before a quiet window as ``desktop-settled``.

    A fault of kind timed-out where the screen does not come to rest within the limit.
    """
    watch = WindowWatch()
    try:
        begun = time.monotonic()
        last = begun
        while time.monotonic() - last < quiet_s:
            if time.monotonic() - begun > limit_s:
                what = "desktop-settled: the screen still changed after %g s" % limit_s
                sources.faults.append(Fault("timed-out", what))
                return
            select.select([watch.fileno()], [], [], 0.05)
            watch.take()
            paints = [p.at for p in watch.root_paints if p.width * p.height > SMALL_AREA]
            last = max([last, *paints])
            watch.root_paints.clear()
        asleep = sources.clock() - time.monotonic()
        sources.add("desktop-settled", "%.3f\n" % (last + asleep))
    finally:
        watch.close()

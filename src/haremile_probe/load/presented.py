"""Pictures that an application's own window hands to the X server, as the server tells of them."""

from typing import Callable, List, Sequence

from haremile_probe.collect.sources import Sources
from haremile_probe.launching.start import Launch, LaunchPlan
from haremile_probe.load.frames import START_S
from haremile_probe.wire import Fault
from haremile_probe.x.display import while_displayed
from haremile_probe.x.launch import launch
from haremile_probe.x.present import Completion, Presented
from haremile_probe.x.watch import Window, WindowWatch

NAME = "presented"


def read_presented(
    sources: Sources,
    command: Sequence[str],
    plan: LaunchPlan,
    lasts_s: float,
    progress: Callable[[str], None],
) -> None:
    """Start it, keep a line for each picture of its window as ``presented`` once its first seconds
    are over, and end it; a fault where there was no window or no picture."""
    watch, found = WindowWatch(), _Found()

    def listen(window: Window) -> None:
        presented = Presented(window.id)
        try:
            progress("what its window presents, for %.0f s" % (START_S + lasts_s))
            presented.listen(START_S, watch.take)
            found.pictures = presented.listen(lasts_s, watch.take)
        finally:
            presented.close()

    try:
        with while_displayed():
            found.launch = launch(watch, command, plan, listen)
    finally:
        watch.close()
    if found.pictures:
        lines = ["%d %d %d" % one for one in found.pictures]
        sources.add(NAME, "\n".join(lines) + "\n")
    else:
        sources.faults.append(found.fault(command[0]))


class _Found:
    launch: Launch

    def __init__(self) -> None:
        self.pictures: List[Completion] = []

    def fault(self, program: str) -> Fault:
        if self.launch.outcome.gives_readings:
            return Fault(
                "absent", "presented: %s presents no picture: it draws otherwise" % program
            )
        why = ", ".join(part for part in (self.launch.outcome.value, self.launch.detail) if part)
        return Fault("unreadable", "presented: %s: %s" % (program, why))

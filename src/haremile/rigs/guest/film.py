"""Launches and the settled desktop in a guest as its screen shows them: filmed from outside while
the probe inside starts and holds them, or waits for rest itself."""

import json
import threading
import time
from collections.abc import Sequence
from dataclasses import dataclass, field

from haremile.errors import RunFailedError
from haremile.rigs.guest.machine import GuestMachine
from haremile.rigs.guest.screen import LEAST_CHANGED, Frame, changed_share, parse_ppm, sampled
from haremile_probe.wire import Capture, CaptureReading, Fault

EVERY_S = 0.1
METHOD = "screen"


@dataclass(frozen=True)
class Changed:
    """The screen changed: between which two looks, seconds of the host's clock."""

    after: float
    at: float


@dataclass
class Film:
    """Films a guest's screen in the block, and keeps when it changed."""

    guest: GuestMachine
    changes: list[Changed] = field(default_factory=list)
    fault: str | None = None

    def told(self, offset: float) -> str:
        """When it changed, a line each in seconds of the guest's own clock."""
        return "".join(f"{change.at - offset:.3f}\n" for change in self.changes)

    def __post_init__(self) -> None:
        self._is_over = threading.Event()
        self._thread = threading.Thread(target=self._run, daemon=True)

    def __enter__(self) -> "Film":
        self._thread.start()
        return self

    def __exit__(self, *_error: object) -> None:
        self._is_over.set()
        self._thread.join()

    def _run(self) -> None:
        last: Frame | None = None
        looked = time.monotonic()
        while not self._is_over.wait(EVERY_S):
            at = time.monotonic()
            try:
                seen = sampled(parse_ppm(self.guest.frame()))
            except (RunFailedError, OSError, ValueError) as error:
                self.fault = f"the screen could not be filmed: {error}"
                return
            if last is not None and changed_share(last, seen) > LEAST_CHANGED:
                self.changes.append(Changed(looked, at))
                last = seen
            last, looked = (seen if last is None else last), at


@dataclass(frozen=True)
class Held:
    """When a launch was started and ended, seconds of the host's clock."""

    began: float
    ended: float


def held_in(capture: Capture, offset: float) -> list[Held | None]:
    """The launches of a capture that were held, in order; None for one that was not. `offset` is
    the host's clock less the guest's uptime."""
    told = json.loads(capture.text_of("launches") or '{"launches": []}')
    return [
        None
        if one.get("held_s") is None
        else Held(one["began_uptime"] + offset, one["began_uptime"] + one["held_s"] + offset)
        for one in told["launches"]
    ]


def readings_of(
    held: Sequence[Held | None], changes: Sequence[Changed]
) -> tuple[list[CaptureReading], list[Fault]]:
    """When the screen first changed after each start, and when it last did before the end; between
    two looks the middle is taken. A launch that changed nothing gives a fault."""
    readings: list[CaptureReading] = []
    faults: list[Fault] = []
    for step, one in enumerate(held):
        if one is None:
            continue
        here = [change for change in changes if one.began < change.at <= one.ended]
        if not here:
            what = f"launch {step + 1}: nothing changed on the screen until it was ended"
            faults.append(Fault("absent", what))
            continue
        for metric, change in (("launch.window", here[0]), ("launch.settled", here[-1])):
            middle = (max(change.after, one.began) + change.at) / 2.0
            fine = change.at - change.after
            value = middle - one.began
            readings.append(CaptureReading(metric, value, "s", METHOD, fine, step))
    return readings, faults


def settled_in(changes: Sequence[Changed], began: float, quiet_s: float) -> Changed:
    """The last change before the screen first kept still for so long; the beginning itself where it
    did from then on."""
    settled = Changed(began, began)
    for change in changes:
        if change.after - settled.at >= quiet_s:
            break
        settled = change
    return settled

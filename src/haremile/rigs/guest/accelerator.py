"""KVM only where a trial boot proves it."""

import json
import logging
import os
import time
from dataclasses import asdict, dataclass
from pathlib import Path

from haremile.errors import MissingHereError, RunFailedError
from haremile.rigs.guest.build import GuestImages
from haremile.rigs.guest.machine import GuestMachine
from haremile.rigs.guest.spec import GuestSpec

log = logging.getLogger(__name__)

DEVICE = Path("/dev/kvm")
BOOT_ID = Path("/proc/sys/kernel/random/boot_id")
TRIAL_S = 6.0
LONGEST_TRIAL_S = 60.0
AGAIN_S = 6 * 3600.0
"""A host on which it did not work is tried again after so long: it may just have been busy."""


@dataclass(frozen=True)
class Answer:
    """What a trial said, at which time (seconds since the epoch), in which boot of the host."""

    host_boot: str
    accelerator: str
    at: float

    def is_worn(self, now: float) -> bool:
        """Whether it is to be asked anew."""
        return self.accelerator != "kvm" and not 0.0 <= now - self.at < AGAIN_S


def trial_s() -> float:
    """How long a trial may take here now: longer where more waits for a processor than there is."""
    crowding = os.getloadavg()[0] / (os.cpu_count() or 1)
    return min(TRIAL_S * max(crowding, 1.0), LONGEST_TRIAL_S)


class AcceleratorProof:
    """Answers which accelerator works on this host. That KVM works holds until the host restarts;
    that it does not, only for `AGAIN_S`."""

    def __init__(self, images: GuestImages, remembered: Path):
        self._images = images
        self._remembered = remembered

    def __call__(self) -> str:
        """``kvm`` or ``tcg``."""
        if not os.access(DEVICE, os.R_OK | os.W_OK):
            return "tcg"
        host = BOOT_ID.read_text().strip()
        known = self._recall()
        if known is None or known.host_boot != host or known.is_worn(time.time()):
            known = Answer(host, "kvm" if self._trial() else "tcg", time.time())
            self._remembered.write_text(json.dumps(asdict(known)))
        return known.accelerator

    def _recall(self) -> "Answer | None":
        try:
            return Answer(**json.loads(self._remembered.read_text()))
        except (OSError, ValueError, TypeError):
            return None  # nothing known yet, or cut short: the trial tells anew

    def _trial(self) -> bool:
        if not self._images.are_built:
            raise MissingHereError("KVM is tried with a tiny guest; run: ./haremile guest build")
        patience_s = trial_s()
        log.info("trying whether KVM boots a guest here (at most %.0f s)", patience_s)
        spec = GuestSpec(self._images.kernel, self._images.initrd("osterfell-base"), "kvm")
        try:
            with GuestMachine(spec) as guest:
                guest.power_on()
                deadline = time.monotonic() + patience_s
                return any("HM-MARK ready" in line.text for line in guest.serial.follow(deadline))
        except MissingHereError:
            raise
        except RunFailedError as error:
            log.info("KVM does not boot a guest here (%s): emulating instead", error)
            return False

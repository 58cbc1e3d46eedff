"""KVM only where a trial boot proves it."""

import json
import logging
import os
import time
from pathlib import Path

from haremile.errors import MissingHereError, RunFailedError
from haremile.rigs.guest.build import GuestImages
from haremile.rigs.guest.machine import GuestMachine
from haremile.rigs.guest.spec import GuestSpec

log = logging.getLogger(__name__)

DEVICE = Path("/dev/kvm")
BOOT_ID = Path("/proc/sys/kernel/random/boot_id")
TRIAL_S = 6.0


class AcceleratorProof:
    """Answers which accelerator works on this host; the answer holds until the host restarts."""

    def __init__(self, images: GuestImages, remembered: Path):
        self._images = images
        self._remembered = remembered

    def __call__(self) -> str:
        """``kvm`` or ``tcg``."""
        if not os.access(DEVICE, os.R_OK | os.W_OK):
            return "tcg"
        host = BOOT_ID.read_text().strip()
        known = self._recall()
        if known.get("host_boot") != host:
            known = {"host_boot": host, "accelerator": "kvm" if self._trial() else "tcg"}
            self._remembered.write_text(json.dumps(known))
        return known["accelerator"]

    def _recall(self) -> dict[str, str]:
        try:
            known: dict[str, str] = json.loads(self._remembered.read_text())
            return known
        except (OSError, ValueError):
            return {}  # nothing known yet, or cut short: the trial tells anew

    def _trial(self) -> bool:
        if not self._images.are_built:
            raise MissingHereError("KVM is tried with a tiny guest; run: ./haremile guest build")
        log.info("trying once whether KVM boots a guest here (at most %.0f s)", TRIAL_S)
        spec = GuestSpec(self._images.kernel, self._images.initrd("osterfell-base"), "kvm")
        try:
            with GuestMachine(spec) as guest:
                guest.power_on()
                deadline = time.monotonic() + TRIAL_S
                return any("HM-MARK ready" in line.text for line in guest.serial.follow(deadline))
        except MissingHereError:
            raise
        except RunFailedError as error:
            log.info("KVM does not boot a guest here (%s): emulating instead", error)
            return False

from dataclasses import replace

import pytest

from haremile.errors import RunFailedError
from haremile.rigs.guest.channel import StampedLine
from haremile.rigs.guest.image_boot import ImageBoot, ImageBootPlan, kernel_begin_s
from haremile.rigs.guest.ready import ByProbe, Ready
from haremile_probe.wire import Fault
from helpers import install, order


@pytest.mark.parametrize(
    "first",
    [
        "[    0.000000] Linux version 6.1.0",
        "EFI stub: Loaded initrd from command line option",
        "Linux version 6.12 (builder@osterfell)",
    ],
)
def test_the_kernels_first_word_ends_the_loaders_part(first):
    lines = [StampedLine(100.2, "Booting from Hard Disk..."), StampedLine(101.5, first)]
    assert kernel_begin_s(lines, 100.0) == pytest.approx(1.5)


def test_a_quiet_kernel_has_no_first_word():
    lines = [StampedLine(100.2, "Booting from Hard Disk..."), StampedLine(104.0, "HM-MARK ready")]
    assert kernel_begin_s(lines, 100.0) is None


def test_a_probe_that_gave_nothing_is_a_failed_run_and_no_empty_one():
    asked = replace(order(install("A")), procedure="idle")
    boot = ImageBoot(None, asked, lambda name, at: None, ImageBootPlan(ByProbe(), "installed"))
    boot.faults.append(Fault("unreadable", "idle: no Python here"))
    with pytest.raises(RunFailedError, match="gave nothing: idle: no Python here"):
        boot._capture(Ready(1.0, "host-marker"), None)

import pytest

from haremile.rigs.guest.channel import StampedLine
from haremile.rigs.guest.image_boot import kernel_begin_s


@pytest.mark.parametrize(
    "first",
    ["[    0.000000] Linux version 6.1.0", "EFI stub: Loaded initrd from command line option",
     "Linux version 6.12 (builder@osterfell)"],
)  # fmt: skip
def test_the_kernels_first_word_ends_the_loaders_part(first):
    lines = [StampedLine(100.2, "Booting from Hard Disk..."), StampedLine(101.5, first)]
    assert kernel_begin_s(lines, 100.0) == pytest.approx(1.5)


def test_a_quiet_kernel_has_no_first_word():
    lines = [StampedLine(100.2, "Booting from Hard Disk..."), StampedLine(104.0, "HM-MARK ready")]
    assert kernel_begin_s(lines, 100.0) is None

"""A disk is told of before it is full, whatever its size."""

import pytest

from haremile.core.records.units import MIB
from haremile.core.wording.disk import disk_word


@pytest.mark.parametrize(
    ("free", "total", "word"),
    [
        (200, 8_000, "is full"),
        (400, 8_000, "nearly full"),
        (450, 20_000, "nearly full"),
        (600, 8_000, None),
        (1_500, 1_000_000, "nearly full"),
        (3_000, 1_000_000, None),
    ],
)
def test_what_is_said_of_a_disk(free, total, word):
    found = disk_word(free * MIB, total * MIB)
    assert found is None if word is None else word in found and f"{free:,} MiB" in found

"""Bands of a measure."""

import pytest

from haremile.core.standing.bands import Bands
from haremile.errors import BadInputError


def test_a_limit_belongs_to_the_band_above_it() -> None:
    bands = Bands(("light", "middle", "heavy"), (400.0, 600.0))
    assert [bands.of(value) for value in (399.0, 400.0, 599.0, 900.0)] == [
        "light",
        "middle",
        "middle",
        "heavy",
    ]


@pytest.mark.parametrize(
    ("names", "limits"),
    [
        (("one",), ()),
        (("a", "b"), ()),
        (("a", "b", "c"), (5.0, 5.0)),
        (("a", "b"), (-1.0,)),
        (("a", "A"), (1.0,)),
        (("a", "b"), (float("inf"),)),
    ],
)
def test_bands_that_are_none_are_refused(names: tuple[str, ...], limits: tuple[float, ...]) -> None:
    with pytest.raises(BadInputError):
        Bands(names, limits)

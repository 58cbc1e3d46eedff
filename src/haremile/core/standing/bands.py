"""Bands of a metric: where light ends and heavy begins."""

import math
from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass

from haremile.errors import BadInputError

MOST_BANDS = 7


@dataclass(frozen=True)
class Bands:
    """Names of the bands from the smallest figures to the largest, and the limits between them, in
    the canonical unit.

    Raises
    ------
    BadInputError
        If a limit is missing or too many, not positive, or not greater than the one before it; or
        if two names are alike.
    """

    names: Sequence[str]
    limits: Sequence[float]

    def __post_init__(self) -> None:
        if not 2 <= len(self.names) <= MOST_BANDS or len(self.limits) != len(self.names) - 1:
            raise BadInputError(
                f"{len(self.names)} bands and {len(self.limits)} limits; expected 2 to {MOST_BANDS}"
                " bands, and a limit between each two"
            )
        if len({name.strip().lower() for name in self.names}) < len(self.names):
            raise BadInputError(f"two bands have one name: {', '.join(self.names)}")
        last = 0.0
        for limit in self.limits:
            if not last < limit < math.inf:
                raise BadInputError(f"a limit of {limit:g} after {last:g}; each has to be greater")
            last = limit

    def of(self, value: float) -> str:
        """The band in which a figure lies; a limit belongs to the band above it."""
        return self.names[bisect_right(self.limits, value)]

"""The margin that matters, stated before the runs."""

from dataclasses import dataclass

from haremile.errors import BadInputError


@dataclass(frozen=True)
class Margin:
    """How large a difference must be to matter.

    Attributes
    ----------
    share : float or None
        A share m means a ratio between 1/(1+m) and 1+m does not matter.
    amount : float or None
        An amount d (canonical unit) means a shift between −d and +d does not matter.

    Where both are given the wider holds. With neither, no verdict can be read.
    """

    share: float | None = None
    amount: float | None = None

    def __post_init__(self) -> None:
        for name, value in (("share", self.share), ("amount", self.amount)):
            if value is not None and not 0 < value < float("inf"):
                raise BadInputError(f"margin {name} must be a positive number, not {value}")

    def width(self, typical: float) -> float:
        """The wider of both as an amount around a typical value; 0 where none is stated."""
        return max(self.amount or 0.0, (self.share or 0.0) * abs(typical))

    @property
    def is_stated(self) -> bool:
        """Whether any margin is stated."""
        return self.share is not None or self.amount is not None

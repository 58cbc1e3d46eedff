"""Measures that testers define: what they are called, how they are told, and what matters."""

from dataclasses import dataclass, field

from haremile.core.records.bounds import checked_resolution
from haremile.core.records.margin import Margin
from haremile.core.records.metrics import GoodEnd, Metric, metric, own_measure
from haremile.core.records.procedures import COMMAND
from haremile.errors import BadInputError


@dataclass(frozen=True)
class OwnMeasure:
    """A measure that a tester defined.

    Attributes
    ----------
    name : str
        As it is shown.
    unit : str
        A canonical one, or a word such as ``W``.
    good_end : GoodEnd
    resolution : float or None
        In which steps it tells, in its unit.
    margin : Margin
        What matters, where a plan states nothing else.
    says : str
        What it is, for who has not seen it.
    """

    name: str
    unit: str
    good_end: GoodEnd
    resolution: float | None = None
    margin: Margin = field(default_factory=Margin)
    says: str = ""

    @property
    def key(self) -> str:
        """Of its readings; it states unit, good end and name. Raises BadInputError."""
        return own_measure(self.name, self.unit, self.good_end)

    @property
    def metric(self) -> Metric:
        """As the rest of the catalogue. Raises BadInputError."""
        return metric(self.key)

    @property
    def asked(self) -> str:
        """How a plan asks for it. Raises BadInputError."""
        step = "" if self.resolution is None else f":{self.resolution:.12f}".rstrip("0").rstrip(".")
        return f"{COMMAND}:{self.key}{step}"


def checked_measure(made: OwnMeasure) -> OwnMeasure:
    """The measure, if it can be kept.

    Raises
    ------
    BadInputError
        That names what cannot be: its name, unit, resolution or margin.
    """
    checked_resolution(made.resolution)
    if made.resolution is not None and not 1e-12 <= made.resolution <= 1e12:
        raise BadInputError("a resolution lies between 1e-12 and 1e12")
    own_measure(made.name, made.unit, made.good_end)
    return made

"""Measures of the tester's own as they are defined and listed."""

from typing import Annotated

from pydantic import BaseModel, Field, StringConstraints

from haremile.api.schemas.base import TEXT_PATTERN, Number, Out, Text
from haremile.core.records.margin import Margin
from haremile.core.records.metrics import GoodEnd, own_name
from haremile.core.records.own_measure import OwnMeasure, checked_measure

Says = Annotated[
    str, StringConstraints(strip_whitespace=True, max_length=500, pattern=TEXT_PATTERN)
]


class OwnMeasureIn(BaseModel):
    """A measure as a tester defines it; one of the same name, unit and good end is replaced."""

    name: Text
    unit: Text
    good_end: GoodEnd
    resolution: Number | None = Field(default=None, gt=0)
    share: Number | None = Field(default=None, gt=0, le=1)
    amount: Number | None = Field(default=None, gt=0)
    says: Says = ""

    def measure(self) -> OwnMeasure:
        """The same as a record. Raises BadInputError for what cannot be."""
        margin = Margin(self.share, self.amount)
        return checked_measure(
            OwnMeasure(self.name, self.unit, self.good_end, self.resolution, margin, self.says)
        )


class OwnMeasureOut(Out):
    """A defined measure; `asked` is how a plan asks for it, `command` how its command is called in
    recipes and on machines."""

    key: str
    name: str
    unit: str
    good_end: GoodEnd
    resolution: float | None
    margin: Margin
    says: str
    asked: str
    command: str

    @classmethod
    def of(cls, made: OwnMeasure) -> "OwnMeasureOut":
        """As it is listed."""
        return cls(
            key=made.key,
            name=made.name,
            unit=made.unit,
            good_end=made.good_end,
            resolution=made.resolution,
            margin=made.margin,
            says=made.says,
            asked=made.asked,
            command=own_name(made.key),
        )

"""What the standings take in."""

from uuid import UUID

from pydantic import BaseModel, Field

from haremile.api.schemas.base import Number, Out, Text
from haremile.core.records.metrics import Metric
from haremile.core.records.units import parse_amount
from haremile.core.standing.bands import MOST_BANDS, Bands
from haremile.errors import UnitError
from haremile.usecases.totals import MOST_PARTS


class WeightSetIn(BaseModel):
    """Weights under a name; the reference is stored as it is now."""

    name: Text
    use: Text | None = None
    weights: dict[Text, Number] = Field(min_length=1, max_length=MOST_PARTS)
    reference: Text | None = None
    study: UUID | None = None
    machine: Text | None = None
    ends: tuple[Number, Number] | None = None


class MadeSetOut(Out):
    id: UUID


class PutAwayIn(BaseModel):
    is_put_away: bool


class BandsIn(BaseModel):
    """Names from the smallest figures to the largest, and the limits between them, as amounts with
    their unit: ``400 MiB``."""

    names: list[Text] = Field(min_length=2, max_length=MOST_BANDS)
    limits: list[Text] = Field(min_length=1, max_length=MOST_BANDS - 1)

    def bands(self, known: Metric) -> Bands:
        """The bands of a metric. Raises UnitError where a limit is in another unit."""
        limits = []
        for text in self.limits:
            value, unit = parse_amount(text)
            if unit != known.unit:
                raise UnitError(f"{known.label} is measured in {known.unit}, not as {text}")
            limits.append(value)
        return Bands(tuple(self.names), tuple(limits))

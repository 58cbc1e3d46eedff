"""What schemas share."""

from math import isfinite
from typing import Annotated, Any

from pydantic import BaseModel, BeforeValidator, ConfigDict, StringConstraints

from haremile.core.records.bounds import HIDDEN

TEXT_PATTERN = rf"^[^{HIDDEN.partition(chr(0xD800))[0]}]*$"


Text = Annotated[
    str,
    StringConstraints(strip_whitespace=True, min_length=1, max_length=200, pattern=TEXT_PATTERN),
]


def _no_switch(value: Any) -> Any:
    if isinstance(value, bool):
        raise ValueError("a number is wanted, not true or false")
    return value


Whole = Annotated[int, BeforeValidator(_no_switch)]


Number = Annotated[float, BeforeValidator(_no_switch)]


def _finite(value: Any) -> Any:
    return None if isinstance(value, float) and not isfinite(value) else value


Figure = Annotated[float | None, BeforeValidator(_finite)]
"""A number, or None where runs that timed out put it beyond every limit."""


class Out(BaseModel):
    """Base of responses, readable from the core's records."""

    model_config = ConfigDict(from_attributes=True)


class Reason(BaseModel):
    reason: Text


class ReasonOrNone(BaseModel):
    """Why; null takes it back."""

    reason: Text | None


class Problem(BaseModel):
    """Problem details (RFC 9457)."""

    type: str = "about:blank"
    title: str
    status: int
    detail: str

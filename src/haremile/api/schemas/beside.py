"""Figures quoted from elsewhere, and photographs beside a run."""

from datetime import datetime
from typing import Annotated
from uuid import UUID

from pydantic import BaseModel, Field

from haremile.api.schemas.base import Out, Text, Whole
from haremile.core.by_hand.amounts import LONGEST
from haremile.formats.photographs import MOST_IMAGE


class QuoteIn(BaseModel):
    """A figure as it is quoted, or both ends of a range; `unit` is taken where it names none. `id`
    is made where it was written: sent again, it is kept once."""

    id: UUID
    lane_no: Whole = Field(ge=1)
    row_key: Annotated[str, Field(max_length=1000)]
    text: Annotated[str, Field(min_length=1, max_length=LONGEST)]
    text_to: Annotated[str, Field(max_length=LONGEST)] = ""
    unit: Annotated[str, Field(max_length=10)] | None = None
    source: Text
    dated: Annotated[str, Field(max_length=10)]


class QuotedOut(Out):
    """A quoted figure, in the canonical unit; `low` and `high` are alike where it is one."""

    id: UUID
    lane_no: int
    row_key: str
    metric: str
    low: float
    high: float
    unit: str
    source: str
    dated: str
    at: datetime


class BesideChange(BaseModel):
    """Take it out, or bring it back."""

    is_withdrawn: bool


class PhotographBesideIn(BaseModel):
    """A photograph with what it shows; `id` as of a quoted figure."""

    id: UUID
    name: Text
    image: Annotated[str, Field(max_length=MOST_IMAGE)]


class PhotographOut(Out):
    """A photograph, its `image` a ``data:`` address."""

    id: UUID
    run_id: UUID
    name: str
    image: str
    at: datetime

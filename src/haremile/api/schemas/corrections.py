"""What a person changes of what is kept."""

from typing import Annotated

from pydantic import BaseModel, Field

from haremile.api.schemas.base import Number, Text
from haremile.core.records.bounds import MOST_TEXT, MOST_VALUE

Tag = Annotated[str, Field(min_length=1, max_length=40, pattern=r"^\S(.*\S)?$")]


class StudyChange(BaseModel):
    """What is null stays as it is."""

    title: Text | None = None
    is_put_away: bool | None = None
    note: Annotated[str, Field(max_length=MOST_TEXT)] | None = None
    tags: Annotated[list[Tag], Field(max_length=20)] | None = None


class TitleIn(BaseModel):
    """The title as it stands, typed again."""

    title: Text


class DeletedOut(BaseModel):
    """How many readings went."""

    readings: int


class CorrectionIn(BaseModel):
    """A value in its unit as written, and why it stands in another's place."""

    value: Number = Field(ge=-MOST_VALUE, le=MOST_VALUE)
    unit: Text
    reason: Text


class FileChange(BaseModel):
    is_put_away: bool

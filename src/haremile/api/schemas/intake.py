"""Files that are brought in."""

from typing import Annotated

from pydantic import BaseModel, Field

from haremile.api.schemas.base import Text

Column = Annotated[str, Field(max_length=2000)]
MOST_COLUMNS = 200


class MeasureIn(BaseModel):
    metric: Text
    unit: Text


class ColumnMapIn(BaseModel):
    """What the columns of a table mean: a column as one of ours; a column as the values of a
    measure; one of our columns as the same text in every row; a unit as one of ours."""

    columns: dict[Column, Text] = Field(default_factory=dict, max_length=MOST_COLUMNS)
    measures: dict[Column, MeasureIn] = Field(default_factory=dict, max_length=MOST_COLUMNS)
    fixed: dict[Text, Text] = Field(default_factory=dict, max_length=MOST_COLUMNS)
    units: dict[Text, Text] = Field(default_factory=dict, max_length=MOST_COLUMNS)


class MeasureChoice(BaseModel):
    metric: str
    label: str
    units: list[str]


class ColumnChoices(BaseModel):
    columns: list[str]
    required: list[str]
    measures: list[MeasureChoice]


class IntakeOut(BaseModel):
    """What became of the files."""

    taken: int
    known: int
    notes: list[str]


class IntakeStage(BaseModel):
    """How far reading or keeping a file is."""

    what: str
    done: int
    of: int

"""What persons hand in: marks, figures, drills."""

from datetime import datetime
from typing import Annotated, Literal
from uuid import UUID

from pydantic import BaseModel, Field

from haremile.api.schemas.base import TEXT_PATTERN, Number, Out, Text, Whole
from haremile.core.by_hand.amounts import LONGEST
from haremile.core.by_hand.marks import DAY_S, MOST_MARKS
from haremile.formats.pasted import MOST_CHARACTERS
from haremile.formats.photographs import MOST_IMAGE, MOST_PHOTOGRAPHS
from haremile.usecases.by_hand import MOST_READINGS

MOST_RESULTS = 400
Note = Annotated[str, Field(max_length=2000)]


class MarkKindOut(Out):
    key: str
    label: str
    is_seen: bool
    metric: str | None
    ends_wait: str | None
    says: str


class MarkList(BaseModel):
    """Marks that are offered together, in their order."""

    name: str
    kinds: list[str]


class MarksOut(BaseModel):
    kinds: list[MarkKindOut]
    lists: list[MarkList]


class MarkIn(BaseModel):
    """A press: seconds on a clock that only goes forward; `name` is that of a mark of one's own."""

    kind: Annotated[str, Field(max_length=40)]
    at_s: Number = Field(ge=0, le=DAY_S)
    name: Annotated[str, Field(max_length=60, pattern=TEXT_PATTERN)] = ""


class WrittenIn(BaseModel):
    """A figure as it was written; `unit` is taken where it names none."""

    metric: Annotated[str, Field(max_length=80)]
    text: Annotated[str, Field(max_length=LONGEST)]
    unit: Annotated[str, Field(max_length=10)] | None = None


class FigureIn(BaseModel):
    """A figure that was recognised and agreed to, in its canonical unit."""

    metric: Annotated[str, Field(max_length=80)]
    value: Number
    resolution: Number | None = Field(default=None, gt=0)
    definition: Annotated[str, Field(max_length=200)]


class PhotographIn(BaseModel):
    """A photograph or a still, with what it shows."""

    name: Text
    image: Annotated[str, Field(max_length=MOST_IMAGE)]


class HandIn(BaseModel):
    """What a person took of one run. `id` is made where it was taken: sent again, it is kept once.
    With `run` and `attempt` it answers what the person's sheet asked for."""

    id: UUID
    run: UUID | None = None
    attempt: Whole | None = Field(default=None, ge=1)
    system: Text
    machine: Text
    procedure: Text = "boot"
    at: datetime
    person: Text
    method: Literal["hand", "recording", "typed"]
    marks: list[MarkIn] = Field(default=[], max_length=MOST_MARKS)
    frame_s: Number | None = Field(default=None, gt=0, le=10)
    written: list[WrittenIn] = Field(default=[], max_length=MOST_READINGS)
    figures: list[FigureIn] = Field(default=[], max_length=MOST_READINGS)
    pasted: Annotated[str, Field(max_length=MOST_CHARACTERS, pattern=TEXT_PATTERN)] = ""
    photographs: list[PhotographIn] = Field(default=[], max_length=MOST_PHOTOGRAPHS)
    outcome: Literal["done", "failed", "skipped"] = "done"
    reason: Annotated[str, Field(max_length=200)] = ""
    note: Note = ""
    conditions: dict[str, Annotated[str, Field(max_length=200)]] = Field(default={}, max_length=20)
    drill: UUID | None = None


class ResultsIn(BaseModel):
    """Results for their runs; others go into `study`, or make one of that `title`."""

    study: UUID | None = None
    title: Annotated[str, Field(max_length=200)] = ""
    results: list[HandIn] = Field(min_length=1, max_length=MOST_RESULTS)


class HandedIn(BaseModel):
    """How many were kept, how many had been before; the study that they are in."""

    study: UUID
    taken: int
    known: int


class WaitingOut(BaseModel):
    """What the person's sheet asks for, and what to have `ready`; `finished` of `of` runs of its
    study are over."""

    run: UUID
    attempt: int
    study: UUID
    title: str
    lane_no: int
    entrant_no: int
    label: str
    system: str
    machine: str
    procedure: str
    ready: str
    conditions: dict[str, str]
    block: int
    blocks: int
    finished: int
    of: int


class AmountOut(BaseModel):
    """What a figure is understood as; an error where it is none, or may mean two things."""

    value: float | None = None
    shown: str | None = None
    resolution: float | None = None
    error: str | None = None


class AmountsIn(BaseModel):
    figures: list[WrittenIn] = Field(max_length=2000)


class TextIn(BaseModel):
    """A terminal's output as it was pasted."""

    text: Annotated[str, Field(min_length=1, max_length=MOST_CHARACTERS)]


class PieceOut(Out):
    """A reading that a text gives; places count its characters."""

    start: int
    end: int
    tool: str
    metric: str
    label: str
    value: float
    shown: str
    resolution: float | None
    definition: str


class StatedOut(Out):
    start: int
    end: int
    key: str
    value: str


class QuestionOut(BaseModel):
    start: int
    end: int
    says: str
    choices: list[PieceOut]


class SpanOut(BaseModel):
    start: int
    end: int


class PastedOut(BaseModel):
    """What a text holds: `text` is it without colours, `unread` are lines nobody understood."""

    text: str
    pieces: list[PieceOut]
    stated: list[StatedOut]
    questions: list[QuestionOut]
    unread: list[SpanOut]
    system: str | None


class DrillIn(BaseModel):
    """Seconds from each signal to the press; negative where it came before."""

    id: UUID
    person: Text
    answers_s: list[Annotated[Number, Field(ge=-60, le=60)]] = Field(min_length=1, max_length=100)


class ReactionOut(Out):
    delay_s: float
    scatter_s: float
    error_s: float
    signals: int
    left_out: int


class DrillOut(Out):
    id: UUID
    person: str
    at: datetime
    reaction: ReactionOut


class DrillKept(BaseModel):
    """A drill, and how many runs that were timed without one are read anew by it."""

    drill: DrillOut
    retimed: int

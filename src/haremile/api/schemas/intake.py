"""Files that are brought in."""

from pydantic import BaseModel


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

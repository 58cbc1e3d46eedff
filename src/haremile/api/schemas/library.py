"""Systems and machines in the library."""

from datetime import date
from typing import Annotated, Literal
from uuid import UUID

from pydantic import BaseModel, Field, StringConstraints

from haremile.api.schemas.base import TEXT_PATTERN, Number, Out, Text
from haremile.api.schemas.studies import InstallOut
from haremile.core.comparison.claims import Kept
from haremile.core.records.bounds import MOST_VALUE
from haremile.core.records.install_history import StateChange
from haremile.core.records.library import Claim, ClaimKey, FactKey
from haremile.core.records.units import Scale
from haremile.usecases.library import FactLine, PlacedStudy

LongText = Annotated[
    str,
    StringConstraints(strip_whitespace=True, min_length=1, max_length=2000, pattern=TEXT_PATTERN),
]


class ThingOut(Out):
    """A line of the library; `stated` is what holds now, by key, `found` what its runs stated."""

    id: UUID
    name: str
    identity: dict[str, str | None]
    is_put_away: bool
    aliases: list[str]
    installs: int
    studies: int
    stated: dict[str, str]
    found: dict[str, str]
    makes_guests: bool


class MeasuredOut(BaseModel):
    """The median of what one machine gave, in the canonical unit."""

    machine: str
    method: str
    medium: str
    n: int
    median: float
    low: float | None
    high: float | None
    kept: Kept


class ClaimOut(BaseModel):
    claim: Claim
    label: str
    beside: str
    scale: Scale
    metric: str | None
    measured: list[MeasuredOut]


class InstallHistoryOut(Out):
    """An install, how it came to be what it is, and in how many runs it was seen."""

    install: InstallOut
    changes: list[StateChange]
    runs: int
    is_put_away: bool
    added: str


class InstallChange(BaseModel):
    """What is null stays."""

    is_put_away: bool | None = None
    is_reference: bool | None = None
    added: Annotated[str, StringConstraints(strip_whitespace=True, max_length=200)] | None = None


class LibraryPageOut(BaseModel):
    thing: ThingOut
    lines: list[FactLine]
    claims: list[ClaimOut]
    studies: list[PlacedStudy]


class LibraryWords(BaseModel):
    """What can be stated and claimed; `units` of a claim's canonical unit."""

    system: list[FactKey]
    machine: list[FactKey]
    claims: list[ClaimKey]
    units: dict[str, list[str]]


class SystemIdentity(BaseModel):
    distribution: Text | None = None
    release: Text | None = None
    edition: Text | None = None
    architecture: Text | None = None


class MachineIdentity(BaseModel):
    kind: Literal["physical", "virtual", "simulated"] | None = None


class SystemIn(SystemIdentity):
    name: Text


class MachineIn(MachineIdentity):
    name: Text


class SystemChange(SystemIdentity):
    """What is left out stays; null says that it is not stated."""

    name: Text | None = None
    is_put_away: bool | None = None


class MachineChange(MachineIdentity):
    """What is left out stays."""

    name: Text | None = None
    is_put_away: bool | None = None


class FactIn(BaseModel):
    """Stated with where it comes from; null takes it out."""

    value: LongText | None
    source: Text
    source_on: date | None = None


class ClaimIn(BaseModel):
    """An amount in its unit as written."""

    key: Text
    value: Number = Field(gt=0, le=MOST_VALUE)
    unit: Text
    is_own_guess: bool = False
    source: Text
    source_on: date | None = None


class ClaimChange(BaseModel):
    is_put_away: bool


class FilledOut(BaseModel):
    """What was stated anew, by its label."""

    stated: list[str]


class MadeOut(BaseModel):
    id: UUID

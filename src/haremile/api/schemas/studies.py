"""Studies and their plans."""

from datetime import datetime
from typing import Annotated
from uuid import UUID

from pydantic import BaseModel, Field

from haremile.api.schemas.base import Number, Out, Text, Whole
from haremile.core.records.bounds import MOST_TEXT, MOST_VALUE
from haremile.core.records.draft import Draft, Order
from haremile.core.records.interim_looks import InterimLooks
from haremile.core.records.margin import Margin
from haremile.core.records.precision import PrecisionPlan
from haremile.core.records.study import Machine, StudyState, System
from haremile.usecases.plan import FIRST_MILE_REPEATS


class MarginIn(BaseModel):
    share: Number | None = Field(default=None, gt=0, lt=10)
    amount: Number | None = Field(default=None, gt=0, le=MOST_VALUE)


MOST_CONTENDERS = 30
Margins = dict[Text, MarginIn]
Looks = list[Annotated[Whole, Field(ge=1)]]
Title = Annotated[str, Field(max_length=MOST_TEXT)]


def margins_of(stated: Margins) -> dict[str, Margin]:
    """The margins that were typed, without those that are empty."""
    found = {key: Margin(one.share, one.amount) for key, one in stated.items()}
    return {key: margin for key, margin in found.items() if margin.is_stated}


class InstallOut(Out):
    id: UUID
    system: System
    machine: Machine
    name: str
    rig: str | None
    recipe: dict[str, str]
    is_reference: bool


class ContenderOut(Out):
    """`entrant` is who takes part whatever the machine; its number gives colour and mark."""

    id: UUID
    lane_no: int
    label: str
    entrant_no: int
    entrant: str
    install: InstallOut


class StudyOut(Out):
    id: UUID
    title: str
    state: StudyState
    seed: int
    blocks: int
    created_at: datetime
    contenders: list[ContenderOut]
    margins: dict[str, Margin]
    interim_looks: InterimLooks | None
    procedures: list[str]
    stopping: PrecisionPlan | None
    overrides: dict[str, str]
    can_run: bool
    is_running: bool
    is_pausing: bool
    is_put_away: bool
    order: Order
    draft: Draft | None
    note: str
    tags: list[str]
    published: int | None
    origin: str | None


class StudyMadeOut(BaseModel):
    """A study made of files, and what a person should look at."""

    study: StudyOut
    notes: list[str]


class PrecisionPlanIn(BaseModel):
    metric: Text
    width: Number = Field(gt=0, le=MOST_VALUE)


class StudyCreate(BaseModel):
    title: Text
    installs: list[UUID] = Field(min_length=1, max_length=MOST_CONTENDERS)
    blocks: Whole = Field(ge=1, le=500)
    seed: Whole | None = Field(default=None, ge=0, lt=2**53)
    margins: Margins = Field(default_factory=dict)
    interim_looks: Looks = Field(default_factory=list, max_length=500)
    procedures: list[Text] = Field(default=["boot"], min_length=1, max_length=12)
    stopping: PrecisionPlanIn | None = None


class OutlookIn(BaseModel):
    """A plan as far as it is typed."""

    installs: list[UUID] = Field(min_length=1, max_length=MOST_CONTENDERS)
    blocks: Whole = Field(ge=1, le=500)
    margins: Margins = Field(default_factory=dict)
    looks: Whole = Field(default=1, ge=1, le=500)
    procedures: list[Text] = Field(default=["boot"], min_length=1, max_length=12)
    order: Order | None = None


class DraftNew(BaseModel):
    """A study to be planned; its title may still be open."""

    title: Title = ""


class DraftIn(BaseModel):
    """Everything that is typed of a plan; the next of it replaces the last."""

    title: Title
    systems: list[UUID] = Field(default_factory=list, max_length=100)
    machines: list[UUID] = Field(default_factory=list, max_length=100)
    installs: list[UUID] = Field(default_factory=list, max_length=MOST_CONTENDERS)
    procedures: list[Text] = Field(default_factory=list, max_length=12)
    blocks: Whole = Field(ge=1, le=500)
    margins: Margins = Field(default_factory=dict)
    interim_looks: Looks = Field(default_factory=list, max_length=500)
    stopping: PrecisionPlanIn | None = None
    seed: Whole | None = Field(default=None, ge=0, lt=2**53)
    order: Order | None = None
    seen_to: list[Text] = Field(default_factory=list, max_length=20)

    def draft(self) -> Draft:
        """What was typed, without its title."""
        wanted = self.stopping
        return Draft(
            systems=tuple(self.systems),
            machines=tuple(self.machines),
            installs=tuple(dict.fromkeys(self.installs)),
            procedures=tuple(self.procedures),
            blocks=self.blocks,
            margins=margins_of(self.margins),
            interim_looks=tuple(self.interim_looks),
            stopping=PrecisionPlan(wanted.metric, wanted.width) if wanted else None,
            seed=self.seed,
            order=self.order,
            seen_to=tuple(self.seen_to),
        )


class StudyExtend(BaseModel):
    blocks: Whole = Field(ge=1, le=500)


class FirstMileCreate(BaseModel):
    blocks: Whole = Field(default=FIRST_MILE_REPEATS, ge=1, le=500)
    seed: Whole | None = Field(default=None, ge=0, lt=2**53)


class OverrideIn(BaseModel):
    """Why a condition's difference is accepted; null takes it back."""

    reason: Text | None

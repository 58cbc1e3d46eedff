"""What a package brought, or would bring."""

from uuid import UUID

from pydantic import BaseModel

from haremile.api.schemas.base import Out


class TakenStudyOut(Out):
    id: UUID
    title: str
    what: str


class TakenNameOut(Out):
    id: UUID
    noun: str
    name: str


class DifferingOut(Out):
    table: str
    name: str
    columns: list[str]


class OfferedOut(Out):
    install: UUID
    name: str
    commands: dict[str, str]


class PackageTakenOut(Out):
    origin: UUID
    origin_name: str
    is_own: bool
    studies: list[TakenStudyOut]
    rows: int
    names: list[TakenNameOut]
    differing: list[DifferingOut]
    commands: list[OfferedOut]


class ApproveIn(BaseModel):
    is_approved: bool

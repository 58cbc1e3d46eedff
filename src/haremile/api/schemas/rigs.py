"""What machines that work by themselves say and are told."""

from uuid import UUID

from pydantic import BaseModel

from haremile.api.schemas.base import Out, Text


class KeyOut(Out):
    """A key, shown this once; `line` is what is pasted on the machine, None where it could not be
    reached from there."""

    machine: str
    key: str
    line: str | None


class SwitchingIn(BaseModel):
    """How an enrolled machine comes into an install; `entry` names what its firmware or boot loader
    calls it."""

    way: Text
    entry: Text | None = None


class EnrolAsked(BaseModel):
    identity: UUID
    system: Text


class Enrolled(Out):
    machine: str
    system: str


class SignIn(BaseModel):
    identity: UUID
    boot_id: Text
    probe: Text
    busy: UUID | None = None
    is_leaving: bool = False


class JobOut(Out):
    """What a machine is asked for: a procedure, options of closed sets, names; never a command."""

    procedure: str
    options: dict[str, str]
    app: str | None
    start: str | None


class InstructionOut(Out):
    do: str
    job: JobOut | None
    entry: str | None
    says: str | None
    seconds: float
    run: UUID | None
    attempt: int | None
    procedure: str | None


class Taken(Out):
    became: str

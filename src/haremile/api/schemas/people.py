"""People, sessions and what they did."""

from datetime import datetime
from uuid import UUID

from pydantic import BaseModel

from haremile.api.schemas.base import Out, Text
from haremile.usecases.access import Role, Way


class WhoOut(BaseModel):
    """Who asks; `is_overheard` where the network in between can be listened to."""

    name: str
    role: Role
    way: Way
    is_overheard: bool


class PersonCreate(BaseModel):
    name: Text
    role: Role


class PersonKeyOut(BaseModel):
    name: str
    role: Role
    key: str


class SessionOut(Out):
    """A browser that is signed in; `is_this` the one that asks."""

    id: UUID
    person: str
    role: Role
    way: Way
    agent: str
    made_at: datetime
    seen_at: datetime
    expires_at: datetime
    is_this: bool


class CodeOut(BaseModel):
    """What a device shows once, within so many minutes; `address` at which it reaches this server,
    null where that answers on this computer only. `pin` is the certificate's sha256."""

    code: str
    minutes: int
    address: str | None
    pin: str | None

"""Who may do what: people with roles, their keys and sessions, and the trail of what they did."""

import hashlib
import secrets
from collections.abc import Mapping, Sequence
from contextvars import ContextVar
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from enum import StrEnum
from typing import Protocol
from uuid import UUID

KEY_BYTES = 24
OWNER = "owner"
"""Who sits at the computer that the server runs on."""

ENTRY_LIFE = timedelta(hours=12)
"""How long an address with a token waits to be opened."""

PAIRING_LIFE = timedelta(minutes=10)
SESSION_LIFE = timedelta(days=30)
IDLE_LIFE = timedelta(days=7)
"""A session ends so long after its beginning, and so long after its last request."""


class Role(StrEnum):
    """What a person may do; each may also do what those before it may."""

    LOOK = "look"
    WORK = "work"
    OWN = "own"

    def may(self, needed: "Role") -> bool:
        """Whether this role is enough where that one is needed."""
        order = list(Role)
        return order.index(self) >= order.index(needed)


class Way(StrEnum):
    """How somebody was recognised."""

    SESSION = "session"
    PAIRED = "paired device"
    KEY = "key"
    COMMAND_LINE = "command line"


@dataclass(frozen=True)
class Principal:
    """Somebody who was recognised; `session_id` is None where there is no session."""

    name: str
    role: Role
    way: Way
    session_id: UUID | None = None


@dataclass(frozen=True)
class Person:
    """Somebody who may come in; `keys` counts those that still open."""

    name: str
    role: Role
    made_at: datetime
    keys: int


@dataclass(frozen=True)
class Session:
    """A browser that came in."""

    id: UUID
    person: str
    role: Role
    way: Way
    agent: str
    made_at: datetime
    seen_at: datetime
    expires_at: datetime


@dataclass(frozen=True)
class Entered:
    """The two secrets of a new session: one in a cookie, one held by the page itself.

    Every port of a host gets the same cookies; the other secret is seen by one origin only.
    """

    cookie: str
    page: str
    life: timedelta = SESSION_LIFE


@dataclass(frozen=True)
class Act:
    """Something that somebody did."""

    id: int
    at: datetime
    who: str
    way: str
    what: str
    study_id: UUID | None
    facts: Mapping[str, object] = field(default_factory=dict)


acting: ContextVar[Principal | None] = ContextVar("acting", default=None)
"""Who the present request or command is carried out for; None for what goes on by itself."""


def fresh_secret() -> str:
    """A secret that nobody guesses; none begins with a dash, as an option does."""
    return secrets.token_hex(KEY_BYTES)


def digest_of(secret: str) -> str:
    """What is kept of a secret: they are long and random, so that a plain hash keeps them safe."""
    return hashlib.sha256(secret.encode(errors="replace")).hexdigest()


class AccessRepository(Protocol):
    """People, keys, sessions and the audit trail."""

    def ensure_person(self, name: str, role: Role) -> None:
        """Note a person who is not known; one who is keeps the role."""

    def add_person(self, name: str, role: Role) -> str:
        """A key of a person, who is noted or given this role; it is shown this once."""

    def revoke_person(self, name: str) -> None:
        """Make a person's keys and sessions worthless. Raises NotFoundError."""

    def people(self) -> Sequence[Person]:
        """All who may come in."""

    def sessions(self) -> Sequence[Session]:
        """All open sessions, the newest first."""

    def revoke_session(self, session_id: UUID) -> None:
        """End a session. Raises NotFoundError."""

    def new_entry(self, person: str, life: timedelta = ENTRY_LIFE, code: str | None = None) -> str:
        """A token that becomes one session; with `code` that of a paired device."""

    def enter(self, token: str, agent: str) -> Entered | None:
        """A session for a token, used up by it, or for a person's key; None for anything else."""

    def void_codes(self) -> None:
        """Make every code of a device worthless that nobody has typed yet."""

    def of_session(self, cookie: str, page: str | None) -> Principal | None:
        """Whose session it is; `page` None where only a page itself is asked for."""

    def of_key(self, key: str) -> Principal | None:
        """Whose key it is."""

    def is_open(self, principal: Principal) -> bool:
        """Whether what a principal came in by still holds."""

    def note(self, what: str, study_id: UUID | None = None, **facts: object) -> None:
        """Write down what the one who acts does."""

    def acts(
        self,
        before: int | None = None,
        most: int = 200,
        *,
        study_id: UUID | None = None,
        reading_id: UUID | None = None,
    ) -> Sequence[Act]:
        """What was done, the newest first; before the act of this id, to this study or reading."""

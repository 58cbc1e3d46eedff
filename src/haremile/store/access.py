"""People, their keys and sessions, and what they did."""

import hmac
from collections.abc import Callable
from datetime import datetime, timedelta
from uuid import UUID

from peewee import JOIN, fn

from haremile.errors import BadInputError, NotFoundError
from haremile.store.database import connected
from haremile.store.events import note_act
from haremile.store.rows import (
    AuditRow,
    EntryRow,
    PersonKeyRow,
    PersonRow,
    SessionRow,
    database,
    now,
)
from haremile.usecases.access import (
    ENTRY_LIFE,
    IDLE_LIFE,
    SESSION_LIFE,
    Act,
    Entered,
    Person,
    Principal,
    Role,
    Session,
    Way,
    digest_of,
    fresh_secret,
)
from haremile.usecases.ports import EVENT_CHANNEL

SEEN_EVERY = timedelta(minutes=1)
"""When a session was last seen is written down no more often."""


class PostgresAccess:
    """Keeps who may come in.

    Parameters
    ----------
    clock : callable
        The present instant.
    """

    def __init__(self, clock: Callable[[], datetime] = now):
        self._now = clock

    @connected
    def ensure_person(self, name: str, role: Role) -> None:
        """Note a person who is not known; one who is keeps the role."""
        PersonRow.kept(name=name, defaults={"role": role})

    @connected
    def add_person(self, name: str, role: Role) -> str:
        """A key of a person, who is noted or given this role; it is shown this once."""
        key = fresh_secret()
        with database.atomic():
            row = PersonRow.kept(name=name, defaults={"role": role})
            PersonRow.update(role=role).where(PersonRow.id == row.id).execute()
            PersonKeyRow.create(person=row, digest=digest_of(key))
            self.note("key made", person=name, role=str(role))
        return key

    @connected
    def revoke_person(self, name: str) -> None:
        """Make a person's keys, tokens and sessions worthless."""
        with database.atomic():
            row = PersonRow.get_or_none(PersonRow.name == name)
            if row is None:
                raise NotFoundError("person", name)
            at = self._now()
            for table in (PersonKeyRow, SessionRow):
                table.update(revoked_at=at).where(
                    table.person == row, table.revoked_at.is_null()
                ).execute()
            EntryRow.update(used_at=at).where(
                EntryRow.person == row, EntryRow.used_at.is_null()
            ).execute()
            self.note("keys revoked", person=name)
            _ring()

    @connected
    def people(self) -> list[Person]:
        """All who may come in."""
        keys = fn.COUNT(PersonKeyRow.id).alias("keys")
        query = (
            PersonRow.select(PersonRow, keys)
            .join(
                PersonKeyRow,
                JOIN.LEFT_OUTER,
                on=(PersonKeyRow.person == PersonRow.id) & PersonKeyRow.revoked_at.is_null(),
            )
            .group_by(PersonRow.id)
            .order_by(PersonRow.name)
        )
        return [Person(row.name, Role(row.role), row.made_at, row.keys) for row in query]

    @connected
    def sessions(self) -> list[Session]:
        """All open sessions, the newest first."""
        query = (
            SessionRow.select(SessionRow, PersonRow)
            .join(PersonRow)
            .where(*self._is_live())
            .order_by(SessionRow.made_at.desc())
        )
        return [
            Session(
                row.id,
                row.person.name,
                Role(row.person.role),
                _way(row),
                row.agent,
                row.made_at,
                row.seen_at,
                row.expires_at,
            )
            for row in query
        ]

    def _is_live(self) -> list[object]:
        at = self._now()
        return [
            SessionRow.revoked_at.is_null(),
            SessionRow.expires_at > at,
            SessionRow.seen_at > at - IDLE_LIFE,
        ]

    @connected
    def revoke_session(self, session_id: UUID) -> None:
        """End a session."""
        with database.atomic():
            row = SessionRow.get_or_none(SessionRow.id == session_id)
            if row is None:
                raise NotFoundError("session", session_id)
            SessionRow.update(revoked_at=self._now()).where(SessionRow.id == session_id).execute()
            self.note("session ended", person=row.person.name, agent=row.agent)
            _ring()

    @connected
    def new_entry(self, person: str, life: timedelta = ENTRY_LIFE, code: str | None = None) -> str:
        """A token that becomes one session; with `code` that of a paired device."""
        row = PersonRow.get_or_none(PersonRow.name == person)
        if row is None:
            raise NotFoundError("person", person)
        if code is not None:
            self._forget_code(code)
            self.note("device paired", person=person)
        token = code or fresh_secret()
        EntryRow.create(
            person=row,
            digest=digest_of(token),
            is_pairing=code is not None,
            expires_at=self._now() + life,
        )
        return token

    def _forget_code(self, code: str) -> None:
        """Codes are short and may come again; a used one gives way, a waiting one does not."""
        known = EntryRow.get_or_none(EntryRow.digest == digest_of(code))
        if known is not None and known.used_at is None and known.expires_at > self._now():
            raise BadInputError("this code waits for another device; make a new one")
        if known is not None:
            known.delete_instance()

    @connected
    def enter(self, token: str, agent: str) -> Entered | None:
        """A session for a token, used up by it, or for a person's key; None for anything else."""
        with database.atomic():
            digest, at = digest_of(token), self._now()
            used = (
                EntryRow.update(used_at=at)
                .where(
                    EntryRow.digest == digest, EntryRow.used_at.is_null(), EntryRow.expires_at > at
                )
                .returning(EntryRow)
                .execute()
            )
            entry = next(iter(used), None)
            key = (
                None
                if entry
                else PersonKeyRow.get_or_none(
                    PersonKeyRow.digest == digest, PersonKeyRow.revoked_at.is_null()
                )
            )
            person = entry.person_id if entry else key.person_id if key else None
            if person is None:
                return None
            made = Entered(fresh_secret(), fresh_secret())
            SessionRow.create(
                person=person,
                digest=digest_of(made.cookie),
                page_digest=digest_of(made.page),
                is_paired=bool(entry and entry.is_pairing),
                agent=agent,
                made_at=at,
                seen_at=at,
                expires_at=at + SESSION_LIFE,
            )
            return made

    @connected
    def void_codes(self) -> None:
        """Make every code of a device worthless that nobody has typed yet."""
        EntryRow.update(used_at=self._now()).where(
            EntryRow.is_pairing, EntryRow.used_at.is_null()
        ).execute()

    @connected
    def of_session(self, cookie: str, page: str | None) -> Principal | None:
        """Whose session it is; `page` None where only a page itself is asked for."""
        row = (
            SessionRow.select(SessionRow, PersonRow)
            .join(PersonRow)
            .where(SessionRow.digest == digest_of(cookie), *self._is_live())
            .first()
        )
        if row is None:
            return None
        if page is not None and not hmac.compare_digest(digest_of(page), row.page_digest):
            return None
        at = self._now()
        if at - row.seen_at > SEEN_EVERY:
            SessionRow.update(seen_at=at).where(SessionRow.id == row.id).execute()
        return Principal(row.person.name, Role(row.person.role), _way(row), row.id)

    @connected
    def of_key(self, key: str) -> Principal | None:
        """Whose key it is."""
        row = (
            PersonKeyRow.select(PersonKeyRow, PersonRow)
            .join(PersonRow)
            .where(PersonKeyRow.digest == digest_of(key), PersonKeyRow.revoked_at.is_null())
            .first()
        )
        return None if row is None else Principal(row.person.name, Role(row.person.role), Way.KEY)

    @connected
    def is_open(self, principal: Principal) -> bool:
        """Whether what a principal came in by still holds."""
        if principal.session_id is not None:
            of_session = SessionRow.select().where(
                SessionRow.id == principal.session_id, *self._is_live()
            )
            return bool(of_session.exists())
        query = (
            PersonKeyRow.select()
            .join(PersonRow)
            .where(PersonRow.name == principal.name, PersonKeyRow.revoked_at.is_null())
        )
        return bool(query.exists())

    @connected
    def note(self, what: str, study_id: UUID | None = None, **facts: object) -> None:
        """Write down what the one who acts does."""
        note_act(what, study_id, facts)

    @connected
    def acts(
        self,
        before: int | None = None,
        most: int = 200,
        *,
        study_id: UUID | None = None,
        reading_id: UUID | None = None,
    ) -> list[Act]:
        """What was done, the newest first; before the act of this id, to this study or reading."""
        query = AuditRow.select().order_by(AuditRow.id.desc()).limit(most)
        if before is not None:
            query = query.where(AuditRow.id < before)
        if study_id is not None:
            query = query.where(AuditRow.study == study_id)
        if reading_id is not None:
            query = query.where(AuditRow.facts.contains({"reading": str(reading_id)}))
        return [
            Act(row.id, row.at, row.who, row.way, row.what, row.study, row.facts) for row in query
        ]


def _ring() -> None:
    """Wake every open event stream, so that one which holds no more ends."""
    database.execute_sql("select pg_notify(%s, '')", (EVENT_CHANNEL,))


def _way(row: SessionRow) -> Way:
    return Way.PAIRED if row.is_paired else Way.SESSION

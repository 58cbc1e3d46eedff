"""People and their keys, open sessions, devices to pair, and what everybody did."""

import secrets
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Path, Query

from haremile.api.dependencies import Bench, Owner, Who, heard_at
from haremile.api.schemas.people import CodeOut, PersonCreate, PersonKeyOut, SessionOut
from haremile.core.records.bounds import MOST_NUMBER
from haremile.usecases.access import PAIRING_LIFE, Act, Person

router = APIRouter(tags=["people"])

CODE_LETTERS = "23456789abcdefghjkmnpqrstuvwxyz"
CODE_LENGTH = 10
"""49 bits, typed in ten minutes, on the brake, and worthless after a few wrong tries."""

PersonName = Annotated[str, Path(min_length=1, max_length=200)]


@router.get("/people")
def list_people(bench: Bench, _: Owner) -> list[Person]:
    """All who may come in."""
    return list(bench.access.people())


@router.post("/people", status_code=201)
def add_person(asked: PersonCreate, bench: Bench, _: Owner) -> PersonKeyOut:
    """A key of a person with a role; it is shown this once."""
    key = bench.access.add_person(asked.name, asked.role)
    return PersonKeyOut(name=asked.name, role=asked.role, key=key)


@router.delete("/people/{name}/keys", status_code=204)
def revoke_person(name: PersonName, bench: Bench, _: Owner) -> None:
    """Make a person's keys and sessions worthless; open pages of theirs end."""
    bench.access.revoke_person(name)


@router.get("/people/sessions")
def list_sessions(bench: Bench, who: Owner) -> list[SessionOut]:
    """Browsers that are signed in."""
    return [
        SessionOut(**vars(one), is_this=one.id == who.session_id) for one in bench.access.sessions()
    ]


@router.delete("/people/sessions/{session_id}", status_code=204)
def revoke_session(session_id: UUID, bench: Bench, _: Owner) -> None:
    """Sign a browser out."""
    bench.access.revoke_session(session_id)


@router.post("/people/devices", status_code=201)
def pair_device(bench: Bench, who: Owner) -> CodeOut:
    """A code that signs one device in, for what belongs to a run at the bench."""
    code = "".join(secrets.choice(CODE_LETTERS) for _ in range(CODE_LENGTH))
    made = bench.access.new_entry(who.name, PAIRING_LIFE, code)
    address, pin = heard_at(bench) or (None, None)
    return CodeOut(
        code=made,
        minutes=int(PAIRING_LIFE.total_seconds() // 60),
        address=None if address is None else f"{address.rstrip('/')}/enter?code={made}",
        pin=pin,
    )


@router.get("/audit")
def list_acts(
    bench: Bench, _: Who, before: Annotated[int | None, Query(ge=1, le=MOST_NUMBER)] = None
) -> list[Act]:
    """What was done and by whom, the newest first."""
    return list(bench.access.acts(before))

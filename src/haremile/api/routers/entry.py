"""Coming in and going out: tokens and keys become sessions; and a sign of life."""

from typing import Annotated

from anyio.to_thread import run_sync
from fastapi import APIRouter, Depends, Form, Query, Request, Response
from starlette.responses import RedirectResponse

from haremile.api.brake import Brake
from haremile.api.dependencies import Bench, Who
from haremile.api.entry_page import entry_page
from haremile.api.head import IS_HEAD
from haremile.api.headers import fresh_nonce
from haremile.api.ports import BenchParts
from haremile.api.recognition import cookie_name
from haremile.api.schemas.people import WhoOut

router = APIRouter(tags=["entry"], include_in_schema=False)
own = APIRouter(tags=["entry"])

MOST_CODE = 12
"""What is no longer than this may be a code of a device to pair, which can be guessed."""

Token = Annotated[str, Query(min_length=1, max_length=200)]
Code = Annotated[str, Query(min_length=1, max_length=MOST_CODE)]
Key = Annotated[str, Form(min_length=1, max_length=200)]


def brake_of(request: Request) -> Brake:
    """The brake that the guard counts wrong keys with."""
    found: Brake = request.state.brake
    return found


TheBrake = Annotated[Brake, Depends(brake_of)]


@router.get("/enter")
async def enter_by_token(
    request: Request,
    bench: Bench,
    brake: TheBrake,
    token: Token | None = None,
    code: Code | None = None,
) -> Response:
    """Make a session of a token, which is then used up; a device's code is only filled in, for the
    person to send."""
    is_look = getattr(request.state, IS_HEAD, False) or "sec-purpose" in request.headers
    if token is None or is_look:  # fetched beforehand, or only looked at: the token stays
        return entry_page(fresh_nonce(request.scope), 200, code=code or "")
    return await _enter(request, bench, brake, token)


@router.post("/enter")
async def enter_by_key(request: Request, bench: Bench, brake: TheBrake, key: Key) -> Response:
    """Make a session of a person's key, or of a device's code."""
    return await _enter(request, bench, brake, key.strip())


async def _enter(request: Request, bench: BenchParts, brake: Brake, shown: str) -> Response:
    address = request.client.host if request.client else ""
    nonce = fresh_nonce(request.scope)
    wait_s = brake.wait_s(address)
    is_code = len(shown) <= MOST_CODE
    if is_code and wait_s > 0:  # long keys cannot be guessed: the right one is never kept waiting
        return entry_page(nonce, 429, f"Too many tries. Wait {wait_s:.0f} s, then try again.")
    agent = request.headers.get("user-agent", "")[:300]
    made = await run_sync(bench.access.enter, shown, agent)
    if made is None:
        brake.wrong(address)
        if is_code and brake.wait_s(address) > 0:  # a typing error costs nothing, a search does
            await run_sync(bench.access.void_codes)
        said = "That opens nothing here: it was used already, has expired, or was never made."
        return entry_page(nonce, 401, said)
    # the page takes its own secret from behind the #, which is sent to no server, and removes it
    place = "/timing" if is_code else "/"  # a device beside the bench begins with its sheet
    answer = RedirectResponse(f"{place}#page={made.page}", 303)
    answer.set_cookie(
        cookie_name(request.scope),
        made.cookie,
        int(made.life.total_seconds()),
        httponly=True,
        samesite="strict",
        secure=request.url.scheme == "https",
    )
    return answer


@own.get("/session")
def get_session(who: Who, request: Request) -> WhoOut:
    """Who this is, and what they may do from where they are."""
    overheard = bool(request.state.is_overheard)
    return WhoOut(name=who.name, role=who.role, way=who.way, is_overheard=overheard)


@own.delete("/session", status_code=204)
def leave(who: Who, bench: Bench, request: Request, response: Response) -> None:
    """Sign this browser out."""
    if who.session_id is not None:
        bench.access.revoke_session(who.session_id)
    response.delete_cookie(cookie_name(request.scope), httponly=True, samesite="strict")

"""What is read of a request, and how: so much, in so long, and no JSON that says two things."""

import asyncio
import json
import re
from collections.abc import Mapping, Sequence
from typing import Any

from starlette.datastructures import Headers
from starlette.exceptions import HTTPException
from starlette.requests import ClientDisconnect
from starlette.types import Message, Receive

from haremile.core.records.bounds import checked_text
from haremile.errors import BadInputError
from haremile.formats.pasted import MOST_CHARACTERS
from haremile.formats.photographs import MOST_IMAGE

KIB, MIB, GIB = 2**10, 2**20, 2**30
ORDINARY = 64 * KIB
LIMITS = (
    (re.compile(r"/api/studies/(import|[^/]+/intake(/preview)?)"), 64 * MIB),
    (re.compile(r"/api/rigs/captures"), 32 * MIB),
    (re.compile(r"/api/packages(/preview)?"), 512 * MIB),
    (re.compile(r"/api/images/upload"), 64 * GIB),
    (re.compile(r"/api/(systems|machines)/[^/]+/about"), 4 * MIB),
    (re.compile(r"/api/by-hand/results"), 32 * MIB),
    (re.compile(r"/api/by-hand/paste"), 2 * MIB),
    (re.compile(r"/api/runs/[^/]+/photographs"), 3 * MIB),
    (re.compile(r"/enter"), 4 * KIB),
)
"""Bytes that a request to these paths may hold; to all others `ORDINARY`."""

LONG_TEXTS: Sequence[tuple[re.Pattern[str], Mapping[str, int]]] = (
    (re.compile(r"/api/by-hand/paste"), {"text": MOST_CHARACTERS}),
    (re.compile(r"/api/by-hand/results"), {"pasted": MOST_CHARACTERS, "image": MOST_IMAGE}),
    (re.compile(r"/api/runs/[^/]+/photographs"), {"image": MOST_IMAGE}),
)

FIRST_S = 15.0
BYTES_A_SECOND = 256 * KIB
"""A body has to be there after so long, and as much longer as its size takes at this pace."""

MOST_DEPTH = 20


class TooSlowError(HTTPException):
    """The body of a request did not arrive in time, whoever reads it."""

    def __init__(self) -> None:
        super().__init__(408, "the request did not arrive in time", {"Connection": "close"})


def limit_of(path: str) -> int:
    """How many bytes a request to this path may hold."""
    return next((most for form, most in LIMITS if form.fullmatch(path)), ORDINARY)


def length_of(headers: Headers) -> int | None:
    """The stated length of a body, 0 where there is none; None where it is not stated."""
    if "transfer-encoding" in headers:
        return None
    length = headers.get("content-length", "0")
    return int(length) if re.fullmatch(r"[0-9]{1,15}", length) else None


def timed(receive: Receive, length: int) -> Receive:
    """`receive`, which raises TooSlowError where the body does not arrive in time."""
    deadline = asyncio.get_running_loop().time() + FIRST_S + length / BYTES_A_SECOND
    is_whole = length == 0

    async def inner() -> Message:
        nonlocal is_whole
        if is_whole:
            return await receive()
        try:
            async with asyncio.timeout_at(deadline):
                message = await receive()
        except TimeoutError:
            raise TooSlowError from None
        is_whole = message["type"] != "http.request" or not message.get("more_body", False)
        return message

    return inner


async def whole_body(receive: Receive) -> bytes:
    """All of a body, which was found to be small enough. Raises TooSlowError, ClientDisconnect."""
    parts = []
    while True:
        message = await receive()
        if message["type"] != "http.request":
            raise ClientDisconnect
        parts.append(message.get("body", b""))
        if not message.get("more_body", False):
            return b"".join(parts)


def again(body: bytes, receive: Receive) -> Receive:
    """A `receive` that gives this body once more, then what comes."""
    is_given = False

    async def inner() -> Message:
        nonlocal is_given
        if is_given:
            return await receive()
        is_given = True
        return {"type": "http.request", "body": body, "more_body": False}

    return inner


def long_texts(path: str) -> Mapping[str, int]:
    """Fields of a request to this path that may be longer than a text, in characters; what reads
    them looks at what is in them."""
    return next((fields for form, fields in LONG_TEXTS if form.fullmatch(path)), {})


def check_json(body: bytes, longer: Mapping[str, int] | None = None) -> None:
    """Refuse JSON that nests deeper than anything asked for here, names something twice, or holds
    characters that cannot be seen.

    Parameters
    ----------
    body : bytes
    longer : mapping, optional
        Fields whose texts may be so long, with whatever in them.

    Raises
    ------
    BadInputError
    """
    _check_depth(body)
    try:
        found = json.loads(body, object_pairs_hook=_object, parse_constant=_constant)
    except (ValueError, RecursionError) as error:
        raise BadInputError(f"this is no JSON: {error}") from None
    _check_texts(found, longer or {})


def _check_depth(body: bytes) -> None:
    depth = 0
    for mark in re.finditer(rb'"(?:[^"\\]|\\.)*"|[\[\]{}]', body, re.DOTALL):
        if mark[0] in (b"[", b"{"):
            depth += 1
            if depth > MOST_DEPTH:
                raise BadInputError(f"this JSON nests more than {MOST_DEPTH} deep")
        elif mark[0] in (b"]", b"}"):
            depth -= 1


def _object(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    found = dict(pairs)
    if len(found) < len(pairs):
        raise BadInputError("a name stands twice in one object")
    return found


def _constant(name: str) -> None:
    raise BadInputError(f"{name} is no number in JSON")


def _check_texts(found: object, longer: Mapping[str, int]) -> None:
    if isinstance(found, str):
        checked_text(found)
    elif isinstance(found, list):
        for item in found:
            _check_texts(item, longer)
    elif isinstance(found, dict):
        for key, item in found.items():
            checked_text(key)
            if key not in longer or not isinstance(item, str):
                _check_texts(item, longer)
            elif len(item) > longer[key]:
                raise BadInputError(f"{key}: longer than {longer[key]} characters")

"""Host, Origin, size and key are checked on every request: only pages of our own may speak with us.

On loopback nobody needs a key. Off loopback the server has one, which a person brings once in the
address of a page (``/?key=…``) and keeps as a cookie, and a program in every request. Enrolled
machines have keys of their own, which their endpoints check.
"""

import hmac
import ipaddress
from dataclasses import dataclass
from urllib.parse import parse_qsl, urlencode, urlsplit

from starlette.datastructures import Headers
from starlette.requests import cookie_parser
from starlette.responses import RedirectResponse, Response
from starlette.types import ASGIApp, Receive, Scope, Send

from haremile.api.problems import problem

MOST_BODY_BYTES = 256 * 2**20
"""No request is larger: several files of the largest size that is taken in."""

LOOPBACK = frozenset({"127.0.0.1", "localhost", "[::1]"})
FOR_MACHINES = ("/api/rigs/enrol", "/api/rigs/step", "/api/rigs/captures", "/haremile-")
"""What needs no key of a person: machines show their own, and the probe is no secret."""

COOKIE = "haremile_key"
A_YEAR_S = 365 * 86400


@dataclass(frozen=True)
class Access:
    """Who may speak with the server.

    Attributes
    ----------
    names : frozenset of str
        Host names that it answers for, beside those of loopback.
    any_address : bool
        Whether it also answers for every numeric address: it listens on all of them.
    key : str or None
        Needed in every request; None on loopback.
    """

    names: frozenset[str] = frozenset()
    any_address: bool = False
    key: str | None = None

    def answers_for(self, host: str) -> bool:
        """Whether a request for this host is meant for us."""
        name = _name_of(host)
        return name in LOOPBACK | self.names or (self.any_address and _is_address(name))


def _name_of(host: str) -> str:
    if host.startswith("["):
        return host.partition("]")[0] + "]"
    return host.partition(":")[0]


def _is_address(name: str) -> bool:
    try:
        ipaddress.ip_address(name.strip("[]"))
    except ValueError:
        return False
    return True


def _is_small(headers: Headers) -> bool:
    if "transfer-encoding" in headers:
        return False
    length = headers.get("content-length", "0")
    return length.isdecimal() and int(length) <= MOST_BODY_BYTES


class Guard:
    """Refuses requests for another host name, those that another site's page sends, and those
    without the key where one is needed."""

    def __init__(self, app: ASGIApp, access: Access | None = None):
        self._app, self._access = app, access or Access()

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass on or refuse."""
        if scope["type"] == "http":
            headers = Headers(scope=scope)
            refusal = self._refusal(headers) or self._without_key(scope, headers)
            if refusal is not None:
                return await refusal(scope, receive, send)
        return await self._app(scope, receive, send)

    def _refusal(self, headers: Headers) -> Response | None:
        host, origin = headers.get("host", ""), headers.get("origin")
        if not self._access.answers_for(host):
            return problem(421, "Not for this host", f"this server does not answer for {host}")
        if origin is not None and urlsplit(origin).netloc != host:
            return problem(403, "Foreign page", f"pages of {origin} may not ask here")
        if not _is_small(headers):
            most = MOST_BODY_BYTES // 2**20
            detail = f"requests of at most {most} MiB that state their length are taken"
            return problem(413, "Too large", detail)
        return None

    def _without_key(self, scope: Scope, headers: Headers) -> Response | None:
        key, path = self._access.key, scope["path"]
        if key is None or path.startswith(FOR_MACHINES):
            return None
        if _is(key, cookie_parser(headers.get("cookie", "")).get(COOKIE)):
            return None
        if _is(key, headers.get("authorization", "").partition(" ")[2]):
            return None
        asked = dict(parse_qsl(scope.get("query_string", b"").decode("latin-1")))
        if scope["method"] == "GET" and _is(key, asked.pop("key", None)):
            again = path + ("?" + urlencode(asked) if asked else "")
            answer = RedirectResponse(again, 303)
            answer.set_cookie(COOKIE, key, A_YEAR_S, httponly=True, samesite="strict")
            return answer
        detail = "this server is not on loopback: open its address with ?key=… once"
        return problem(401, "Not without a key", detail)


def _is(key: str, shown: str | None) -> bool:
    return shown is not None and hmac.compare_digest(key.encode(), shown.encode())

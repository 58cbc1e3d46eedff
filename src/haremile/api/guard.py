"""Every request passes here first: is it meant for us, from a page of ours, from somebody who may,
and no more than we take? Only then is anything of it read.

Nothing is open to everyone but a sign of life, the exchange of a token, and the probe's files.
"""

import ipaddress
import logging
import re
import time
from dataclasses import dataclass
from urllib.parse import unquote, urlsplit

from anyio.to_thread import run_sync
from starlette.datastructures import Headers, MutableHeaders
from starlette.requests import ClientDisconnect
from starlette.responses import Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from haremile.api.bodies import (
    KIB,
    MIB,
    TooSlowError,
    again,
    check_json,
    length_of,
    limit_of,
    long_texts,
    timed,
    whole_body,
)
from haremile.api.brake import Brake
from haremile.api.entry_page import entry_page
from haremile.api.headers import fresh_nonce, guarded, watched
from haremile.api.problems import problem, problem_of
from haremile.api.recognition import (
    Lately,
    MachineMessages,
    Shown,
    capped,
    is_local,
    machine_named,
    recognise,
)
from haremile.core.records.bounds import checked_text
from haremile.errors import HareMileError
from haremile.usecases.access import AccessRepository, Principal, Role, Way, acting
from haremile_probe.signing import DIGEST, MAC, NEXT, digest_of, is_same

log = logging.getLogger(__name__)

LOOPBACK = frozenset({"127.0.0.1", "localhost", "[::1]"})
OPEN = re.compile(r"/healthz|/enter|/haremile-(probe\.pyz|gather\.sh)")
"""What everyone may ask for."""

OF_MACHINES = re.compile(r"/api/rigs/(enrol|step|captures)")
"""What machines ask for, by their signature."""

AT_THE_BENCH = re.compile(
    r"/api/studies/[^/]+/(disturbances|stop|plan-failed-again)"
    r"|/api/runs/[^/]+/(skip|plan-again|photographs)"
    r"|/api/by-hand/(results|amounts|paste|drills)"
)
"""What a paired device may do beside looking."""

SAFE = frozenset({"GET", "HEAD"})
MOST_PATH = 4 * KIB
OWN_SITES = frozenset({"same-origin", "none"})


@dataclass(frozen=True)
class Access:
    """Which names the server answers for.

    Attributes
    ----------
    names : frozenset of str
        Host names beside those of loopback.
    any_address : bool
        Whether it also answers for every numeric address: it listens on all of them.
    """

    names: frozenset[str] = frozenset()
    any_address: bool = False

    def answers_for(self, host: str) -> bool:
        """Whether a request for this host is meant for us."""
        name = _name_of(host.lower())
        names = {one.lower() for one in self.names}
        return name in LOOPBACK | names or (self.any_address and _is_address(name))


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


class Guard:
    """Refuses what is not meant for us, and tells the application who asks.

    Parameters
    ----------
    app : the application
    book : AccessRepository
    machines : MachineMessages
    access : Access, optional
        Loopback only where none is stated.
    """

    def __init__(
        self,
        app: ASGIApp,
        book: AccessRepository,
        machines: MachineMessages,
        access: Access | None = None,
    ):
        self._app, self._book, self._machines = app, book, machines
        self._access = access or Access()
        self._brake = Brake(time.monotonic)
        self._lately = Lately(time.monotonic)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass on or refuse."""
        if scope["type"] != "http":
            return await self._app(scope, receive, send)
        send, is_begun = watched(guarded(scope, send))
        headers = Headers(scope=scope)
        try:
            refusal = self._refusal(scope, headers)
            if refusal is None:
                receive = timed(receive, length_of(headers) or 0)
                if OF_MACHINES.fullmatch(scope["path"]):
                    return await self._machine(scope, receive, send, headers)
                return await self._person(scope, receive, send, headers)
        except TooSlowError:
            refusal = problem(408, "Too slow", "the request did not arrive in time")
            refusal.headers["Connection"] = "close"
        except ClientDisconnect:
            return None  # nobody waits for an answer any more
        except HareMileError as error:
            refusal = problem_of(error)
        except Exception:
            if is_begun():
                raise  # half an answer is on its way: the connection has to be closed
            log.exception("%s %s failed", scope["method"], scope["path"])
            refusal = problem(500, "It failed", "a fault of the server's own; its log tells more")
        return await refusal(scope, receive, send)

    def _refusal(self, scope: Scope, headers: Headers) -> Response | None:
        """What can be told from the head alone."""
        host, origin = headers.get("host", ""), headers.get("origin")
        if not self._access.answers_for(host):
            return problem(421, "Not for this host", "this server does not answer for that name")
        if origin is not None and urlsplit(origin).netloc.lower() != host.lower():
            return problem(403, "Foreign page", "pages of other sites may not ask here")
        if headers.get("sec-fetch-site", "none") not in OWN_SITES:
            return problem(403, "Foreign page", "other sites and ports may not ask here")
        asked = scope.get("query_string", b"")
        if len(scope["path"]) + len(asked) > MOST_PATH:
            return problem(414, "Too long", f"addresses of at most {MOST_PATH} bytes are taken")
        for text in (scope["path"], unquote(asked.decode("latin-1").replace("+", " "))):
            checked_text(text, MOST_PATH)
        return self._too_large(scope["path"], headers)

    @staticmethod
    def _too_large(path: str, headers: Headers) -> Response | None:
        length, most = length_of(headers), limit_of(path)
        shown = f"{most // MIB} MiB" if most >= MIB else f"{most // KIB} KiB"
        if length is None:
            return problem(411, "Length unknown", "a request with a body states its length")
        if length > most:
            refused = problem(413, "Too large", f"at most {shown} are taken here")
            refused.headers["Connection"] = "close"
            return refused
        return None

    async def _person(self, scope: Scope, receive: Receive, send: Send, headers: Headers) -> None:
        """A request of a person, or one that is open to everyone."""
        path, state = scope["path"], scope.setdefault("state", {})
        state["brake"] = self._brake
        if not OPEN.fullmatch(path):
            shown = Shown.of(scope, headers)
            found = await self._recognised(scope, shown)
            if found is None:
                refused = self._unknown(scope, headers, shown)
                return await refused(scope, receive, send)
            principal = capped(found, scope)
            state["principal"] = principal
            state["is_overheard"] = not is_local(scope) and scope.get("scheme") != "https"
            if scope["method"] not in SAFE and not _may_change(principal, path):
                return await _beyond(principal, scope)(scope, receive, send)
            acting.set(principal)
        if re.search(r"[/+]json\s*(;|$)", headers.get("content-type", ""), re.IGNORECASE):
            body = await whole_body(receive)
            if body:
                check_json(body, long_texts(path))
            receive = again(body, receive)
        await self._app(scope, receive, send)

    async def _recognised(self, scope: Scope, shown: Shown) -> Principal | None:
        """Who asks; dozens of files of one page ask the book once."""
        is_page = scope["method"] in SAFE and not scope["path"].startswith("/api/")
        if is_page and scope["path"].startswith("/assets/"):
            seen = self._lately.seen(shown)
            if seen is not None:
                return seen
        found = await run_sync(lambda: recognise(self._book, shown, page_only=is_page))
        if is_page and found is not None:
            self._lately.note(shown, found)
        return found

    def _unknown(self, scope: Scope, headers: Headers, shown: Shown) -> Response:
        """Somebody who is not recognised: a page is told how to come in, a program in words."""
        address = (scope.get("client") or ("", 0))[0]
        if shown.is_anything:
            self._brake.wrong(address)
            wait_s = self._brake.wait_s(address)
            if wait_s > 0:
                detail = f"too many keys that are none; try again in {wait_s:.0f} s"
                refused = problem(429, "Not so fast", detail)
                refused.headers["Retry-After"] = f"{wait_s:.0f}"
                return refused
        if "text/html" in headers.get("accept", "") and not scope["path"].startswith("/api/"):
            return entry_page(fresh_nonce(scope), 401)
        detail = "show a key of yours, or open the address that ./haremile key link prints"
        refused = problem(401, "Not signed in", detail)
        refused.headers["WWW-Authenticate"] = "Bearer"
        return refused

    async def _machine(self, scope: Scope, receive: Receive, send: Send, headers: Headers) -> None:
        """A request of a machine: its signature before its body is looked at, and ours on the
        answer."""
        name = machine_named(headers)
        known = None if name is None else await run_sync(self._machines.secret_of, name)
        if known is None or scope["method"] != "POST":
            refused = problem(401, "Not a machine of this bench", "its key is not known here")
            if scope["method"] != "POST":
                refused = problem(405, "Method Not Allowed", "machines send POST here")
                refused.headers["Allow"] = "POST"
            return await refused(scope, receive, send)
        secret, machine, is_revoked = known
        is_signed = self._machines.takes(secret, scope["path"], headers)
        signed = self._signed(secret, headers, send) if is_signed else self._challenge(send)
        if not is_signed:
            detail = "this request is not signed over a nonce that holds; sign it anew"
            return await problem(401, "Not signed", detail)(scope, receive, signed)
        if is_revoked:
            detail = "this key is not known here, or was revoked"
            return await problem(403, "Not with this key", detail)(scope, receive, signed)
        body = await whole_body(receive)
        if not is_same(digest_of(body), headers.get(DIGEST, "")):
            detail = "this body is not the one that was signed"
            return await problem(401, "Not signed", detail)(scope, receive, send)
        if not scope["path"].endswith("/captures"):
            check_json(body)
        scope.setdefault("state", {})["machine"] = machine
        await self._app(scope, again(body, receive), signed)

    def _challenge(self, send: Send) -> Send:
        """Give a nonce along; nothing can be signed for somebody who proved nothing."""

        async def inner(message: Message) -> None:
            if message["type"] == "http.response.start":
                MutableHeaders(scope=message)[NEXT] = self._machines.fresh_nonce()
            await send(message)

        return inner

    def _signed(self, secret: str, headers: Headers, send: Send) -> Send:
        """Sign the answer, and give the next nonce along."""
        start: Message = {}
        parts: list[bytes] = []

        async def inner(message: Message) -> None:
            if message["type"] == "http.response.start":
                start.update(message)
                return
            parts.append(message.get("body", b""))
            if message.get("more_body", False):
                return
            body, follows = b"".join(parts), self._machines.fresh_nonce()
            told = MutableHeaders(scope=start)
            told[NEXT] = follows
            told[MAC] = self._machines.signature(secret, start["status"], headers, follows, body)
            await send(start)
            await send({"type": "http.response.body", "body": body})

        return inner


def _may_change(principal: Principal, path: str) -> bool:
    if principal.way is Way.PAIRED and path != "/api/session":
        return principal.role.may(Role.WORK) and AT_THE_BENCH.fullmatch(path) is not None
    return path == "/api/session" or principal.role.may(Role.WORK)


def _beyond(principal: Principal, scope: Scope) -> Response:
    if principal.way is Way.PAIRED:
        detail = "a paired device only does what belongs to a run at the bench"
    elif scope["state"]["is_overheard"]:
        detail = "over a network without encryption a browser only looks; use https"
    else:
        detail = f"{principal.name} may only look"
    return problem(403, "Not yours to change", detail)

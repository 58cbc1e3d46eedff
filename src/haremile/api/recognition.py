"""Who asks: a person by a session or a key, or a machine by its signature."""

import hashlib
import hmac
import ipaddress
import secrets
import time
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, replace

from starlette.datastructures import Headers
from starlette.requests import cookie_parser
from starlette.types import Scope

from haremile.usecases.access import AccessRepository, Principal, Role, Way
from haremile_probe.signing import (
    DIGEST,
    MAC,
    MACHINE,
    NONCE,
    OWN,
    answer_mac,
    is_same,
    request_mac,
)

PAGE_HEADER = "Haremile-Page"
"""The secret that a page holds and no other port of this host is sent."""

NONCE_LIFE_S = 600
MOST_USED = 20_000
LATELY_S = 5.0
MOST_LATELY = 1000


def cookie_name(scope: Scope) -> str:
    """The session's cookie: cookies do not tell ports apart, so that its name has to."""
    server = scope.get("server") or ("", 0)
    return f"haremile-{server[1]}"


def is_local(scope: Scope) -> bool:
    """Whether the request comes from this very host."""
    client = scope.get("client")
    try:
        return client is None or ipaddress.ip_address(client[0]).is_loopback
    except ValueError:
        return client is not None and client[0] == "testclient"


@dataclass(frozen=True)
class Shown:
    """What a request shows of who asks."""

    cookie: str | None
    page: str | None
    key: str | None

    @classmethod
    def of(cls, scope: Scope, headers: Headers) -> "Shown":
        """From its headers."""
        kind, _, key = headers.get("authorization", "").partition(" ")
        cookie = cookie_parser(headers.get("cookie", "")).get(cookie_name(scope))
        is_key = kind.lower() == "bearer" and bool(key.strip())
        return cls(cookie, headers.get(PAGE_HEADER), key.strip() if is_key else None)

    @property
    def is_anything(self) -> bool:
        """Whether there is anything that could be wrong."""
        return self.key is not None or (self.cookie is not None and self.page is not None)


def recognise(book: AccessRepository, shown: Shown, *, page_only: bool) -> Principal | None:
    """Who it is; with `page_only` the cookie is enough: the page itself tells nothing.

    Blocks: the book is asked.
    """
    if shown.key is not None:
        return book.of_key(shown.key)
    if shown.cookie is None or (shown.page is None and not page_only):
        return None
    return book.of_session(shown.cookie, None if page_only else shown.page)


class Lately:
    """Whose cookie was recognised within the last seconds. It is enough for the files of the pages,
    which are the same for everybody and tell nothing of the bench."""

    def __init__(self, clock: Callable[[], float]):
        self._clock = clock
        self._seen: OrderedDict[str, tuple[float, Principal]] = OrderedDict()

    def note(self, shown: Shown, principal: Principal) -> None:
        """The book recognised it just now."""
        if shown.cookie is not None and shown.key is None:
            self._seen[shown.cookie] = (self._clock(), principal)
            self._seen.move_to_end(shown.cookie)
            while len(self._seen) > MOST_LATELY:
                self._seen.popitem(last=False)

    def seen(self, shown: Shown) -> Principal | None:
        """Who it was, None where that is longer ago."""
        if shown.cookie is None or shown.key is not None:
            return None
        at, principal = self._seen.get(shown.cookie, (0.0, None))
        return principal if self._clock() - at < LATELY_S else None


def capped(principal: Principal, scope: Scope) -> Principal:
    """What it may do from where it is: over a network without encryption everything can be
    overheard, so that nobody but a paired device does more there than look."""
    if is_local(scope) or scope.get("scheme") == "https":
        allowed = principal.role
    else:
        allowed = principal.role if principal.way is Way.PAIRED else Role.LOOK
    if principal.way is Way.PAIRED and allowed is Role.OWN:
        allowed = Role.WORK
    return replace(principal, role=allowed)


class MachineMessages:
    """Nonces for machines, and the signatures of what they send and are told.

    Nonces are not kept: each carries a sum by which it is known again. Those that were used are
    kept until they hold no more.

    Parameters
    ----------
    secret_of : callable
        The secret and the machine of a key's name; None where it is not known. Blocks.
    clock : callable
        Monotonic seconds.
    """

    def __init__(
        self,
        secret_of: Callable[[str], tuple[str, str, bool] | None],
        clock: Callable[[], float] = time.monotonic,
    ):
        self.secret_of, self._clock = secret_of, clock
        self._own = secrets.token_bytes(32)
        self._used: OrderedDict[str, float] = OrderedDict()

    def fresh_nonce(self) -> str:
        """A nonce for one request."""
        body = f"{int(self._clock())}.{secrets.token_hex(12)}"
        return f"{body}.{self._sum(body)}"

    def holds(self, nonce: str) -> bool:
        """Whether it is one of ours, young enough and not used yet."""
        body, _, shown = nonce.rpartition(".")
        if not is_same(self._sum(body), shown) or nonce in self._used:
            return False
        return self._clock() - int(body.partition(".")[0]) < NONCE_LIFE_S

    def takes(self, secret: str, path: str, headers: Headers) -> bool:
        """Whether a request is signed as it should be, told from its head alone; its nonce is then
        used up. Its body has still to have the sum that was signed."""
        nonce = headers.get(NONCE, "")
        if not self.holds(nonce):
            return False
        expected = request_mac(secret, path, nonce, headers.get(OWN, ""), headers.get(DIGEST, ""))
        if not is_same(expected, headers.get(MAC, "")):
            return False
        self._use(nonce)
        return True

    def signature(
        self, secret: str, status: int, headers: Headers, follows: str, body: bytes
    ) -> str:
        """The signature of the answer to a request with these headers."""
        nonce, own = headers.get(NONCE, ""), headers.get(OWN, "")
        return answer_mac(secret, status, nonce, own, follows, body)

    def _use(self, nonce: str) -> None:
        now = self._clock()
        self._used[nonce] = now
        while self._used and (
            len(self._used) > MOST_USED or now - next(iter(self._used.values())) > NONCE_LIFE_S
        ):
            self._used.popitem(last=False)

    def _sum(self, body: str) -> str:
        return hmac.new(self._own, body.encode(), hashlib.sha256).hexdigest()[:32]


def machine_named(headers: Headers) -> str | None:
    """The name of the key that a machine speaks with; None where nobody speaks so."""
    return headers.get(MACHINE)

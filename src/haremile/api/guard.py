"""Host, Origin and size are checked on every request: only pages of our own may speak with us."""

from urllib.parse import urlsplit

from starlette.types import ASGIApp, Receive, Scope, Send

from haremile.api.problems import problem

MOST_BODY_BYTES = 256 * 2**20
"""No request is larger: several files of the largest size that is taken in."""

LOOPBACK = frozenset({"127.0.0.1", "localhost", "[::1]"})


def _name_of(host: str) -> str:
    if host.startswith("["):
        return host.partition("]")[0] + "]"
    return host.partition(":")[0]


def _is_small(headers: dict[str, str]) -> bool:
    if "transfer-encoding" in headers:
        return False
    length = headers.get("content-length", "0")
    return length.isdecimal() and int(length) <= MOST_BODY_BYTES


class LoopbackGuard:
    """Refuses requests for another host name, and those that another site's page sends."""

    def __init__(self, app: ASGIApp):
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass on or refuse."""
        if scope["type"] == "http":
            headers = {key.decode().lower(): value.decode() for key, value in scope["headers"]}
            host, origin = headers.get("host", ""), headers.get("origin")
            if _name_of(host) not in LOOPBACK:
                refusal = problem(
                    421, "Not for this host", f"this server does not answer for {host}"
                )
                return await refusal(scope, receive, send)
            if origin is not None and urlsplit(origin).netloc != host:
                refusal = problem(403, "Foreign page", f"pages of {origin} may not ask here")
                return await refusal(scope, receive, send)
            if not _is_small(headers):
                most = MOST_BODY_BYTES // 2**20
                detail = f"requests of at most {most} MiB that state their length are taken"
                refusal = problem(413, "Too large", detail)
                return await refusal(scope, receive, send)
        return await self._app(scope, receive, send)

"""What every answer tells the browser that it may do with it."""

import secrets
from collections.abc import Callable

from starlette.datastructures import MutableHeaders
from starlette.types import Message, Scope, Send

from haremile.api.recognition import is_local

PERMISSIONS = ", ".join(
    f"{name}=()"
    for name in (
        "accelerometer",
        "camera",
        "display-capture",
        "geolocation",
        "gyroscope",
        "magnetometer",
        "microphone",
        "midi",
        "payment",
        "publickey-credentials-get",
        "serial",
        "usb",
    )
)
ALWAYS = {
    "X-Content-Type-Options": "nosniff",
    "X-Frame-Options": "DENY",
    "Referrer-Policy": "same-origin",  # with none at all a form's origin would be null
    "Permissions-Policy": PERMISSIONS,
    "Cross-Origin-Resource-Policy": "same-origin",
}
NONCE = "nonce"


def fresh_nonce(scope: Scope) -> str:
    """The nonce of the styles of this answer; made once for each."""
    state = scope.setdefault("state", {})
    made: str = state.setdefault(NONCE, secrets.token_urlsafe(16))
    return made


def policy(nonce: str | None) -> str:
    """The content security policy: our own scripts only, and styles that carry the nonce."""
    styles = "'self'" if nonce is None else f"'self' 'nonce-{nonce}'"
    return (
        f"default-src 'none'; script-src 'self'; style-src {styles}; img-src 'self' data: blob:; "
        "media-src blob:; "
        "font-src 'self' data:; connect-src 'self'; form-action 'self'; base-uri 'none'; "
        "frame-ancestors 'none'"
    )


def guarded(scope: Scope, send: Send) -> Send:
    """`send`, which adds these headers to the answer."""

    async def inner(message: Message) -> None:
        if message["type"] == "http.response.start":
            headers = MutableHeaders(scope=message)
            for name, value in ALWAYS.items():
                headers.setdefault(name, value)
            if is_local(scope) or scope.get("scheme") == "https":
                headers["Cross-Origin-Opener-Policy"] = "same-origin"  # elsewhere it holds not
            headers["Content-Security-Policy"] = policy(scope.get("state", {}).get(NONCE))
            if scope["path"].startswith("/api/") or "set-cookie" in headers:
                headers.setdefault("Cache-Control", "no-store")
        await send(message)

    return inner


def watched(send: Send) -> tuple[Send, Callable[[], bool]]:
    """`send`, and whether an answer has begun by it."""
    is_begun = False

    async def inner(message: Message) -> None:
        nonlocal is_begun
        is_begun = True
        await send(message)

    return inner, lambda: is_begun

"""Speaking with the server: one request, one answer; away and refused are told apart."""

import hashlib
import http.client
import json
import ssl
from typing import Any, Dict, Optional
from urllib.parse import urlsplit

from haremile_probe.signing import (
    DIGEST,
    MAC,
    MACHINE,
    NEXT,
    NONCE,
    OWN,
    answer_mac,
    digest_of,
    is_same,
    name_of,
    own_number,
    request_mac,
)

TIMEOUT_S = 20.0
MOST_ANSWER = 2**20
NO_NONCE = "none yet"


class ServerAway(Exception):
    """The server did not answer, could not just now, or somebody else answered in its place; asking
    again later may help."""


class ServerRefused(Exception):
    """The server answered that this is not to be; asking again does not help."""

    def __init__(self, status: int, says: str):
        super().__init__(says)
        self.status = status


class Server:
    """The server that this machine works for.

    Parameters
    ----------
    address : str
    secret : str
        Made of this machine's key; signs what is sent and proves what is told.
    pin : str, optional
        The sha256 of the server's certificate, hex; another one is not spoken with.

    Attributes
    ----------
    seen_pin : str or None
        That of the certificate that was shown last, which was trusted.
    """

    def __init__(self, address: str, secret: str, pin: Optional[str] = None):
        self.address = address.rstrip("/")
        self._secret, self.pin = secret, pin
        self.seen_pin: Optional[str] = None
        self._nonce = NO_NONCE

    def post(self, path: str, body: bytes, timeout_s: float = TIMEOUT_S) -> Dict[str, Any]:
        """Send a document; return the answer.

        Raises
        ------
        ServerAway, ServerRefused
        """
        for _ in range(2):  # a nonce holds for one request, and not over a restart of the server
            try:
                answer = self._exchange(path, body, timeout_s)
            except (OSError, http.client.HTTPException, ValueError) as error:
                raise ServerAway(str(error)) from None
            if answer is not None:
                return answer
        raise ServerAway("it gives no nonce that holds")

    def ask(self, path: str, timeout_s: float = TIMEOUT_S, **facts: Any) -> Dict[str, Any]:
        """Send facts; return the answer."""
        return self.post(path, json.dumps(facts).encode(), timeout_s)

    def _exchange(self, path: str, body: bytes, timeout_s: float) -> Optional[Dict[str, Any]]:
        """One request; None where it has to be signed anew, over the nonce that was given."""
        nonce, own = self._nonce, own_number()
        link = self._link(timeout_s)
        try:
            digest = digest_of(body)
            headers = {
                "Content-Type": "application/json",
                MACHINE: name_of(self._secret),
                NONCE: nonce,
                OWN: own,
                DIGEST: digest,
                MAC: request_mac(self._secret, path, nonce, own, digest),
            }
            link.request("POST", path, body, headers)
            answer = link.getresponse()
            text = answer.read(MOST_ANSWER)
        finally:
            link.close()
        follows = answer.headers.get(NEXT, "")
        expected = answer_mac(self._secret, answer.status, nonce, own, follows, text)
        if not is_same(expected, answer.headers.get(MAC, "")):
            if answer.status == 401 and follows and follows != nonce:
                self._nonce = follows
                return None
            raise ServerAway(
                "its answer is not signed, so nothing is made of it: %s"
                % _detail(text, answer.status)
            )
        self._nonce = follows
        return _found(answer.status, text)

    def _link(self, timeout_s: float) -> http.client.HTTPConnection:
        """A connection to the server, and to no other: never through a proxy, by its own
        certificate where it has one."""
        parts = urlsplit(self.address)
        host, port = parts.hostname or "", parts.port
        if parts.scheme != "https":
            return http.client.HTTPConnection(host, port, timeout=timeout_s)
        context = ssl.create_default_context()
        if self.pin is not None:  # known by its sum, whoever signed it
            context.check_hostname = False
            context.verify_mode = ssl.CERT_NONE
        link = http.client.HTTPSConnection(host, port, timeout=timeout_s, context=context)
        link.connect()
        shown = hashlib.sha256(link.sock.getpeercert(True) or b"").hexdigest()
        if self.pin is not None and not is_same(self.pin, shown):
            link.close()
            raise ServerAway("another server answers there: its certificate is %s" % shown)
        self.seen_pin = shown
        return link


def _found(status: int, text: bytes) -> Dict[str, Any]:
    if status >= 500 or status in (408, 429):
        raise ServerAway(_detail(text, status))
    if status >= 400:
        raise ServerRefused(status, _detail(text, status))
    found = json.loads(text or b"{}")
    if not isinstance(found, dict):
        raise ServerAway("the answer is no object")
    return found


def _detail(text: bytes, status: int) -> str:
    said: Optional[str] = None
    try:
        said = json.loads(text).get("detail")
    except (ValueError, AttributeError):
        pass  # not one of our server's answers: its number tells
    return str(said) if said else "it answered %d" % status

"""Speaking with the server: one request, one answer; away and refused are told apart."""

import http.client
import json
import urllib.error
import urllib.request
from typing import Any, Dict, Optional

TIMEOUT_S = 20.0


class ServerAway(Exception):
    """The server did not answer, or could not just now; asking again later may help."""


class ServerRefused(Exception):
    """The server answered that this is not to be; asking again does not help."""

    def __init__(self, status: int, says: str):
        super().__init__(says)
        self.status = status


class Server:
    """The server that this machine works for."""

    def __init__(self, address: str, key: str):
        self.address = address.rstrip("/")
        self._key = key
        # never through a proxy: the server is on the bench
        self._open = urllib.request.build_opener(urllib.request.ProxyHandler({})).open

    def post(self, path: str, body: bytes, timeout_s: float = TIMEOUT_S) -> Dict[str, Any]:
        """Send a document; return the answer.

        Raises
        ------
        ServerAway, ServerRefused
        """
        request = urllib.request.Request(
            self.address + path, data=body, method="POST",
            headers={"Authorization": "Bearer " + self._key, "Content-Type": "application/json"},
        )  # fmt: skip
        try:
            with self._open(request, timeout=timeout_s) as answer:
                found = json.loads(answer.read() or b"{}")
        except urllib.error.HTTPError as error:
            says = _detail(error)
            if error.code >= 500 or error.code in (408, 429):
                raise ServerAway(says) from None
            raise ServerRefused(error.code, says) from None
        except (OSError, http.client.HTTPException, ValueError) as error:
            raise ServerAway(str(error)) from None
        if not isinstance(found, dict):
            raise ServerAway("the answer is no object")
        return found

    def ask(self, path: str, timeout_s: float = TIMEOUT_S, **facts: Any) -> Dict[str, Any]:
        """Send facts; return the answer."""
        return self.post(path, json.dumps(facts).encode(), timeout_s)


def _detail(error: urllib.error.HTTPError) -> str:
    text: Optional[str] = None
    try:
        text = json.loads(error.read()).get("detail")
    except (OSError, ValueError, AttributeError):
        pass  # not one of our server's answers: its number tells
    return text or "%d %s" % (error.code, error.reason)

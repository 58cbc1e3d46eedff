"""How a machine and its server prove to one another who speaks.

Both know the secret that is made of the machine's key; neither the key nor the secret is ever sent.
A request is signed over a nonce of the server's, which holds for one request only, and over a
number of the machine's own; the answer is signed over both. So a message can neither be altered nor
used again, by whom it may be overheard (RFC 2104 for the sums).
"""

import hashlib
import hmac
import os

MACHINE, NONCE, OWN = "Haremile-Machine", "Haremile-Nonce", "Haremile-Own"
DIGEST, MAC = "Haremile-Digest", "Haremile-Mac"
"""Headers: the name of the key, the server's nonce, the machine's own number; the sum of the body,
and the signature, so that a request is known by its head, before anything of its body is read."""

NEXT = "Haremile-Next"
"""Header of an answer: the nonce for the next request."""


def secret_of(key: str) -> str:
    """What a key becomes; the key itself is not kept."""
    return hashlib.sha256(key.encode()).hexdigest()


def name_of(secret: str) -> str:
    """The name of a key, which everyone may know."""
    return hashlib.sha256(("haremile machine " + secret).encode()).hexdigest()[:16]


def own_number() -> str:
    """A number that was never used before."""
    return os.urandom(16).hex()


def digest_of(body: bytes) -> str:
    """The sum of a body."""
    return hashlib.sha256(body).hexdigest()


def request_mac(secret: str, path: str, nonce: str, own: str, digest: str) -> str:
    """The signature of a request (POST) to `path`, whose body has this sum."""
    return _mac(secret, "request", path, nonce, own, digest)


def answer_mac(secret: str, status: int, nonce: str, own: str, follows: str, body: bytes) -> str:
    """The signature of the answer to the request with this nonce and number; `follows` is the nonce
    that the answer brings."""
    return _mac(secret, "answer", str(status), nonce, own, follows, digest_of(body))


def is_same(expected: str, shown: str) -> bool:
    """Whether two signatures are the same, told in a time that tells nothing."""
    return hmac.compare_digest(expected.encode(), shown.encode("utf-8", "replace"))


def _mac(secret: str, *parts: str) -> str:
    return hmac.new(secret.encode(), "\n".join(parts).encode(), hashlib.sha256).hexdigest()

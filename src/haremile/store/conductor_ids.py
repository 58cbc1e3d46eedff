"""Numbers of conductors that say where each one runs, so that a dead one is known at once.

From high to low: 24 bits for this boot of this machine (and the namespace of its process ids), 22
bits for the process, 17 bits that tell conductors of one process apart.
"""

import hashlib
import itertools
import os
import secrets
from functools import lru_cache
from pathlib import Path

PLACE_BITS, PID_BITS, OWN_BITS = 24, 22, 17
_own = itertools.count(secrets.randbits(OWN_BITS))


@lru_cache(maxsize=1)
def place() -> int:
    """This boot of this machine; another machine, boot or namespace has another number."""
    boot = Path("/proc/sys/kernel/random/boot_id").read_text().strip()
    text = f"{boot} {os.readlink('/proc/self/ns/pid')}"
    return int.from_bytes(hashlib.sha256(text.encode()).digest()) >> (256 - PLACE_BITS)


def conductor_id() -> int:
    """A number that no other conductor has."""
    own = next(_own) % (1 << OWN_BITS)
    return (place() << PID_BITS | os.getpid()) << OWN_BITS | own


def has_ended(conductor: int) -> bool:
    """Whether its process ran here and is no more. False of one elsewhere: nobody here can tell."""
    where, pid = divmod(conductor >> OWN_BITS, 1 << PID_BITS)
    return where == place() and not _is_alive(pid)


def _is_alive(pid: int) -> bool:
    try:
        state = Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[0]
    except (OSError, IndexError):
        return False
    return state != "Z"

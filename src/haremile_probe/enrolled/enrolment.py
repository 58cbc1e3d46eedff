"""What an enrolled machine keeps on each install: address, key, names, and its identity."""

import json
import os
import shutil
import sys
import uuid
from typing import Any, Dict, List, NamedTuple, Optional

from haremile_probe.collect.state import BOOT_ID
from haremile_probe.runtime import MissingHere
from haremile_probe.signing import secret_of

FILE = "enrolment.json"
ARCHIVE = "haremile-probe.pyz"
RESTARTS = (["systemctl", "reboot"], ["shutdown", "-r", "now"], ["reboot"])


class Enrolment(NamedTuple):
    """How this install works for its server.

    `restart` is the command that boots the machine anew, `boot_id` the file in which the present
    boot is named, `pause_s` the shortest pause before the server is asked again. `secret` signs
    what is sent; `pin` is the sha256 of the server's certificate, None without encryption.
    """

    address: str
    secret: str
    machine: str
    system: str
    identity: str
    restart: List[str]
    boot_id: str = BOOT_ID
    pause_s: float = 1.0
    pin: Optional[str] = None
    ways: Optional[Dict[str, str]] = None


def home_folder() -> str:
    """Where all of it lies: one folder, which `leave` removes."""
    stated = os.environ.get("HAREMILE_PROBE_HOME")
    if stated:
        return stated
    if os.geteuid() == 0:
        return "/var/lib/haremile-probe"
    base = os.environ.get("XDG_DATA_HOME") or os.path.expanduser("~/.local/share")
    return os.path.join(base, "haremile-probe")


def outbox_folder() -> str:
    """Where captures wait for the server."""
    return os.path.join(home_folder(), "outbox")


def read_enrolment() -> Enrolment:
    """Raises MissingHere where this install is not enrolled, or no longer readably."""
    try:
        with open(os.path.join(home_folder(), FILE), encoding="utf-8") as file:
            return Enrolment(**_present(json.load(file)))
    except OSError:
        raise MissingHere(
            "this install is not enrolled; run: haremile-probe enrol ADDRESS"
        ) from None
    except (ValueError, TypeError) as error:
        raise MissingHere("its enrolment cannot be read (%s); enrol it again" % error) from None


def _present(kept: Dict[str, Any]) -> Dict[str, Any]:
    """An enrolment of an earlier version held the key itself."""
    if "key" in kept:
        kept["secret"] = secret_of(kept.pop("key"))
    return kept


def keep_enrolment(enrolment: Enrolment) -> None:
    """Keep it so that only this user reads it, with the program that comes back by it."""
    os.makedirs(outbox_folder(), mode=0o700, exist_ok=True)
    path = os.path.join(home_folder(), FILE)
    handle = os.open(path + ".part", os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600)
    with os.fdopen(handle, "w", encoding="utf-8") as file:
        json.dump(enrolment._asdict(), file, indent=1, sort_keys=True)
        file.flush()
        os.fsync(file.fileno())
    os.replace(path + ".part", path)


def keep_program() -> str:
    """Copy the archive that runs now beside the enrolment; return its path."""
    kept = os.path.join(home_folder(), ARCHIVE)
    running = os.path.abspath(sys.argv[0])
    if not os.path.isfile(running) or not running.endswith(".pyz"):
        raise MissingHere("enrol from the archive: python3 haremile-probe.pyz enrol …")
    if running != kept:
        os.makedirs(home_folder(), mode=0o700, exist_ok=True)
        shutil.copyfile(running, kept + ".part")
        os.replace(kept + ".part", kept)
    return kept


def known_identity() -> Optional[str]:
    """The identity that this install has already."""
    try:
        return read_enrolment().identity
    except MissingHere:
        return None


def new_identity() -> str:
    """What tells this install from the others of the machine."""
    return str(uuid.uuid4())


def restart_command() -> List[str]:
    """The command that boots this machine anew; raises MissingHere where there is none."""
    for words in RESTARTS:
        if shutil.which(words[0]):
            return list(words)
    raise MissingHere("no command restarts this machine; give one with --restart")

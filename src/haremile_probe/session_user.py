"""Whose session it is in which applications are launched and own commands run."""

import os
import pwd
from typing import Dict, NamedTuple, Optional

from haremile_probe.runtime import Refused

SESSIONS = "/run/systemd/sessions"
ASKED_BY = ("SUDO_UID", "PKEXEC_UID", "DOAS_UID")


class SessionUser(NamedTuple):
    """A user as whom launches run."""

    name: str
    uid: int
    gid: int
    home: str


def session_user(asked: Optional[str] = None, folder: str = SESSIONS) -> Optional[SessionUser]:
    """The user whose session is on the screen; None where we are that user ourselves.

    Only root has a choice: an ordinary user launches as it is. For root it is the user that was
    asked for, else the one whose graphical session is active, else the one who became root.

    Raises
    ------
    Refused
        If it is not known, or is another user and we are not root: launches never run as root
        unless root is named.
    """
    own = os.geteuid()
    if asked is not None:
        found = _named(asked)
        if own not in (0, found.uid):
            raise Refused("only root can start anything as %s" % asked)
        return None if found.uid == own else found
    if own != 0:
        return None
    uid = _active(folder)
    if uid is None:
        uid = next((int(os.environ[n]) for n in ASKED_BY if os.environ.get(n, "").isdigit()), None)
    if uid is None:
        raise Refused(
            "this runs as the user of the session, and none is known here; name one: --user NAME"
        )
    return None if uid == 0 else _of(pwd.getpwuid(uid))


def _named(name: str) -> SessionUser:
    try:
        return _of(pwd.getpwnam(name))
    except KeyError:
        raise Refused("there is no user %s on this machine" % name) from None


def _of(entry: pwd.struct_passwd) -> SessionUser:
    return SessionUser(entry.pw_name, entry.pw_uid, entry.pw_gid, entry.pw_dir)


def _active(folder: str) -> Optional[int]:
    """The user of the active graphical session, as logind notes it."""
    try:
        names = sorted(os.listdir(folder))
    except OSError:
        return None  # no logind here
    for name in names:
        try:
            with open(os.path.join(folder, name), encoding="utf-8") as file:
                facts = dict(line.strip().partition("=")[::2] for line in file)
        except OSError:
            continue  # it ended meanwhile
        is_shown = facts.get("ACTIVE") == "1" and facts.get("TYPE") in ("x11", "wayland")
        if is_shown and facts.get("UID", "").isdigit():
            return int(facts["UID"])
    return None


def environment_for(user: Optional[SessionUser], environment: Dict[str, str]) -> Dict[str, str]:
    """The environment of a launch: that of the session's user where it is another."""
    if user is None:
        return environment
    own = {
        "HOME": user.home,
        "USER": user.name,
        "LOGNAME": user.name,
        "XDG_RUNTIME_DIR": "/run/user/%d" % user.uid,
    }
    dropped = (
        "XDG_CONFIG_HOME",
        "XDG_DATA_HOME",
        "XDG_CACHE_HOME",
        "XDG_STATE_HOME",
        "SUDO_COMMAND",
    )
    kept = {name: value for name, value in environment.items() if name not in dropped}
    bus = "%s/bus" % own["XDG_RUNTIME_DIR"]
    if os.path.exists(bus):
        own["DBUS_SESSION_BUS_ADDRESS"] = "unix:path=" + bus
    return {**kept, **own}


def become(user: SessionUser) -> None:
    """In a child that is about to start a program: be that user, for good."""
    os.initgroups(user.name, user.gid)
    os.setgid(user.gid)
    os.setuid(user.uid)

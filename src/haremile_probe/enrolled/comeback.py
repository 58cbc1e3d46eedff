"""What starts the probe again after a boot: a service unit, the session's autostart, or cron."""

import os
import shlex
import shutil
import subprocess
import sys
from typing import Callable, Dict, List, Optional

from haremile_probe.enrolled.enrolment import home_folder
from haremile_probe.runtime import MissingHere

UNIT = "haremile-probe.service"
ENTRY = "haremile-probe.desktop"
MARK = "# haremile-probe"
UNIT_TEXT = """[Unit]
Description=Works for the bench: asks its server for the next step
After=network.target

[Service]
Environment=HAREMILE_PROBE_HOME=%(home)s
ExecStart=%(command)s
Restart=on-failure
RestartSec=10

[Install]
WantedBy=multi-user.target
"""
HELPER_UNIT = "haremile-probe-helper.service"
HELPER_HOME = "/usr/local/lib/haremile-probe"
HELPER_TEXT = """[Unit]
Description=Does what needs root for the probe, from a closed list

[Service]
ExecStart=%s
Restart=on-failure
RuntimeDirectory=haremile-probe

[Install]
WantedBy=multi-user.target
"""
ENTRY_TEXT = """[Desktop Entry]
Type=Application
Name=Works for the bench
Exec=env HAREMILE_PROBE_HOME=%(home)s %(command)s
X-GNOME-Autostart-enabled=true
"""


def command(archive: str) -> str:
    """The command line that works for the server."""
    return "%s -I %s work --quiet" % (shlex.quote(sys.executable), shlex.quote(archive))


def come_back(archive: str, wanted: Optional[str]) -> Dict[str, str]:
    """Set up the first way that this machine has, or the one that is wanted.

    Returns
    -------
    dict
        The way and what it left: a path, or the line in the user's table.

    Raises
    ------
    MissingHere
        If it has none, or not the wanted one.
    """
    for name in [wanted] if wanted else list(WAYS):
        left = WAYS[name](archive)
        if left is not None:
            return {name: left}
    raise MissingHere(
        "nothing here starts a program after a boot (%s); start it by hand: %s"
        % (", ".join([wanted] if wanted else WAYS), command(archive))
    )


def install_helper(user: str) -> Optional[str]:
    """A system service that serves the helper to one user; None where there is no systemd."""
    if not os.path.isdir("/run/systemd/system"):
        return None
    archive = os.path.join(HELPER_HOME, os.path.basename(sys.argv[0]))
    os.makedirs(HELPER_HOME, mode=0o755, exist_ok=True)
    shutil.copyfile(os.path.abspath(sys.argv[0]), archive)  # root's own: nobody else may change it
    os.chmod(archive, 0o644)
    words = [sys.executable, "-I", archive, "helper", "serve", "--for", user, "--quiet"]
    path = os.path.join("/etc/systemd/system", HELPER_UNIT)
    with open(path, "w", encoding="utf-8") as file:
        file.write(HELPER_TEXT % " ".join(shlex.quote(word) for word in words))
    _quietly(["systemctl", "daemon-reload"])
    _quietly(["systemctl", "enable", "--now", HELPER_UNIT])
    return path


def remove_helper() -> List[str]:
    """Take back what `install_helper` left; return what was removed."""
    path = os.path.join("/etc/systemd/system", HELPER_UNIT)
    removed = []
    if os.path.lexists(path):
        _quietly(["systemctl", "disable", "--now", HELPER_UNIT])
        os.remove(path)
        _quietly(["systemctl", "daemon-reload"])
        removed.append(path)
    if os.path.isdir(HELPER_HOME):
        shutil.rmtree(HELPER_HOME)
        removed.append(HELPER_HOME)
    return removed


def stay_away(ways: Dict[str, str]) -> List[str]:
    """Take back what `come_back` left; return what was removed."""
    removed = []
    for name, left in ways.items():
        if name == "cron":
            lines = _table().splitlines(True)
            _write_table("".join(line for line in lines if MARK not in line))
        else:
            if name == "systemd":
                _quietly(["systemctl", "disable", UNIT])
            if os.path.lexists(left):
                os.remove(left)
            if name == "systemd":
                _quietly(["systemctl", "daemon-reload"])
        removed.append(left)
    return removed


def _unit(archive: str) -> Optional[str]:
    if os.geteuid() != 0 or not os.path.isdir("/run/systemd/system"):
        return None
    path = os.path.join("/etc/systemd/system", UNIT)
    _write(path, UNIT_TEXT, archive)
    _quietly(["systemctl", "daemon-reload"])
    _quietly(["systemctl", "enable", UNIT])
    return path


def _entry(archive: str) -> Optional[str]:
    if not (os.environ.get("XDG_CURRENT_DESKTOP") or os.environ.get("DISPLAY")):
        return None
    base = os.environ.get("XDG_CONFIG_HOME") or os.path.expanduser("~/.config")
    path = os.path.join(base, "autostart", ENTRY)
    _write(path, ENTRY_TEXT, archive)
    return path


def _cron(archive: str) -> Optional[str]:
    if shutil.which("crontab") is None:
        return None
    home = "HAREMILE_PROBE_HOME=" + shlex.quote(home_folder())
    line = "@reboot %s %s %s\n" % (home, command(archive), MARK)
    kept = [other for other in _table().splitlines(True) if MARK not in other]
    _write_table("".join([*kept, line]))
    return line.strip()


WAYS: Dict[str, Callable[[str], Optional[str]]] = {
    "systemd": _unit,
    "autostart": _entry,
    "cron": _cron,
}
"""Ways in the order in which they are tried."""


def _write(path: str, text: str, archive: str) -> None:
    os.makedirs(os.path.dirname(path), exist_ok=True)
    with open(path, "w", encoding="utf-8") as file:
        file.write(text % {"home": home_folder(), "command": command(archive)})


def _table() -> str:
    done = subprocess.run(["crontab", "-l"], capture_output=True, text=True, check=False)
    return done.stdout if done.returncode == 0 else ""


def _write_table(text: str) -> None:
    done = subprocess.run(["crontab", "-"], input=text, capture_output=True, text=True, check=False)
    if done.returncode != 0:
        raise MissingHere("the table of timed commands was refused: %s" % done.stderr.strip())


def _quietly(words: List[str]) -> None:
    done = subprocess.run(words, capture_output=True, text=True, check=False)
    if done.returncode != 0:
        raise MissingHere("%s failed: %s" % (" ".join(words), done.stderr.strip()))

"""Units for the service manager: the server as a service of its own, as closed in as it can be."""

import os
from dataclasses import dataclass
from pathlib import Path

from haremile.errors import BadInputError

NAME = "haremile.service"
DRAIN_S = 60
SYSTEM_UNITS = Path("/etc/systemd/system")
SYSTEM_DATA = "/var/lib/haremile"

CLOSED = """
# what it may reach; memory that is written and run stays allowed, which guests without KVM need
NoNewPrivileges=yes
CapabilityBoundingSet=
AmbientCapabilities=
PrivateTmp=yes
ProtectSystem=strict
ProtectHome=read-only
ReadWritePaths={data}
ProtectClock=yes
ProtectHostname=yes
ProtectKernelLogs=yes
ProtectKernelModules=yes
ProtectKernelTunables=yes
ProtectControlGroups=yes
DevicePolicy=closed
DeviceAllow=/dev/kvm rw
LockPersonality=yes
RestrictAddressFamilies=AF_UNIX AF_INET AF_INET6
RestrictNamespaces=yes
RestrictRealtime=yes
RestrictSUIDSGID=yes
RemoveIPC=yes
SystemCallArchitectures=native
SystemCallFilter=@system-service
SystemCallFilter=~@privileged @obsolete
SystemCallErrorNumber=EPERM
UMask=0077
"""
OPEN_TO_USERS = """
# a user's own service manager can close no more than this
NoNewPrivileges=yes
LockPersonality=yes
RestrictRealtime=yes
RestrictSUIDSGID=yes
SystemCallArchitectures=native
UMask=0077
"""
UNIT = """# written by: haremile service install
[Unit]
Description=Hare Mile: the bench book's server
After=network.target
StartLimitIntervalSec=300
StartLimitBurst=10

[Service]
Type=exec
{user}WorkingDirectory={root}
Environment="HAREMILE_DATA={folder}"
Environment=PYTHONDONTWRITEBYTECODE=1
ExecStart={python} -m haremile serve --port {port} --listen {listen} --drain {drain}
Restart=on-failure
RestartSec=2
KillMode=mixed
TimeoutStopSec={stop}
{closed}
[Install]
WantedBy={wanted}
"""


@dataclass(frozen=True)
class ServiceAsked:
    """How the server shall run: as a service of the machine under `user`, else of one's own."""

    root: Path
    python: Path
    data: Path
    port: int
    listen: str
    user: str | None = None


def unit_text(asked: ServiceAsked) -> str:
    """The unit.

    Raises
    ------
    BadInputError
        If a path or name holds what a unit would read as something else.
    """
    for text in (str(asked.root), str(asked.data), asked.listen, asked.user or ""):
        if any(sign in text for sign in "\n\r\"'\\%$"):
            raise BadInputError(f"a unit cannot hold this path or name: {text}")
    is_system = asked.user is not None
    closed = CLOSED.format(data=_quoted(asked.data)) if is_system else OPEN_TO_USERS
    return UNIT.format(
        user=f"User={asked.user}\n" if is_system else "",
        root=asked.root,
        python=_quoted(asked.python),
        folder=asked.data,
        port=asked.port,
        listen=asked.listen,
        drain=DRAIN_S,
        stop=DRAIN_S + 60,
        closed=closed,
        wanted="multi-user.target" if is_system else "default.target",
    )


def _quoted(path: Path) -> str:
    return f'"{path}"' if " " in str(path) else str(path)


def unit_place(is_system: bool) -> Path:
    """Where the unit stands."""
    if is_system:
        return SYSTEM_UNITS / NAME
    home = os.environ.get("XDG_CONFIG_HOME") or str(Path.home() / ".config")
    return Path(home) / "systemd" / "user" / NAME

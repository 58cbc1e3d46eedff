"""This boot's records, from every source that is present."""

import glob
import os
import shutil
from typing import List

from haremile_probe.collect.privileged import ask_for_denied
from haremile_probe.collect.sources import Sources, fault_of
from haremile_probe.parsers.key_values import parse_environment
from haremile_probe.parsers.service_manager import MANAGER_PROPERTIES, UNIT_PROPERTIES
from haremile_probe.parsers.sessions import SESSION_PROPERTIES
from haremile_probe.wire import Fault

ACTIVE = "ActiveSession"
SESSION_TARGET = "graphical-session.target"
LOADER_TIMES = ("LoaderTimeInitUSec", "LoaderTimeMenuUSec", "LoaderTimeExecUSec")
EFI_VARIABLES = "/sys/firmware/efi/efivars"
ATTRIBUTE_BYTES = 4


def read_boot(sources: Sources) -> None:
    """Keep what init's manager, firmware, kernel, session and journal say of this boot."""
    if os.path.isdir(sources.path("/run/systemd/system")):
        _service_manager(sources)
    else:
        sources.faults.append(Fault("absent", "systemd: this system was not started by it"))
        sources.file("display-manager", "/etc/X11/default-display-manager")
    read_efi_times(sources)
    read_kernel_log(sources)
    ask_for_denied(sources, "kernel-log", "kernel-log")
    sources.processes()


def _service_manager(sources: Sources) -> None:
    sources.command("boot-manager", ["systemctl", "show", *_properties(MANAGER_PROPERTIES)])
    sources.command("boot-units", ["systemctl", "show", "*", *_properties(UNIT_PROPERTIES)])
    session = os.environ.get("XDG_SESSION_ID") or _session_on_the_screen(sources)
    if session:
        text = sources.command(
            "session", ["loginctl", "show-session", session, *_properties(SESSION_PROPERTIES)]
        )
        _session_target(sources, text or "")
    else:
        sources.faults.append(Fault("absent", "session: nobody is logged in at this screen"))
    if shutil.which("journalctl"):
        arguments = ["--no-pager", "-b", "-1", "-n", "2000", "-o", "short-monotonic"]
        sources.command("journal-before", ["journalctl", *arguments])


def _session_on_the_screen(sources: Sources) -> str:
    """The session that the first seat shows; as where root runs the probe, which has none."""
    text = sources.output_of("session", ["loginctl", "show-seat", "seat0", "--property=" + ACTIVE])
    return parse_environment(text or "").get(ACTIVE, "")


def _session_target(sources: Sources, session: str) -> None:
    """What the user's own manager says of when the session was up; a desktop that starts its
    programs by itself has none."""
    user = parse_environment(session).get("Name", "")
    whose = ["--machine=%s@.host" % user] if user and os.geteuid() == 0 else []
    target = ["show", SESSION_TARGET, *_properties(UNIT_PROPERTIES)]
    sources.command("session-target", ["systemctl", "--user", *whose, *target])


def _properties(names: "tuple[str, ...]") -> List[str]:
    return ["--property=" + ",".join(names)]


def read_efi_times(sources: Sources) -> None:
    """Variables hold four bytes of attributes, then decimal digits in UTF-16."""
    if not os.path.isdir(sources.path(EFI_VARIABLES)):
        return
    lines = []
    for name in LOADER_TIMES:
        for path in glob.glob(sources.path("%s/%s-*" % (EFI_VARIABLES, name))):
            try:
                with open(path, "rb") as file:
                    raw = file.read(256)[ATTRIBUTE_BYTES:]
            except OSError as error:
                sources.faults.append(fault_of(error, "efi: %s" % name))
                continue
            lines.append("%s %s\n" % (name, raw.decode("utf-16-le", "replace").strip("\0 ")))
    if lines:
        sources.add("efi-times", "".join(lines))


def read_kernel_log(sources: Sources) -> None:
    """The ring buffer through the kernel's own device; it is read to its end, never waited on."""
    lines = []
    try:
        device = os.open(sources.path("/dev/kmsg"), os.O_RDONLY | os.O_NONBLOCK)
    except OSError as error:
        sources.faults.append(fault_of(error, "kernel-log: /dev/kmsg"))
        return
    try:
        while True:
            try:
                line = os.read(device, 8192)
                if not line:
                    break
                lines.append(line.decode("utf-8", "replace").split("\n")[0])
            except BlockingIOError:
                break
            except BrokenPipeError:
                continue  # a line was overwritten while it was read; the next one is there
            except OSError as error:
                sources.faults.append(fault_of(error, "kernel-log: /dev/kmsg"))
                break
    finally:
        os.close(device)
    sources.add("kernel-log", "\n".join(lines) + "\n")

"""What a machine states of itself."""

import os
import re
import shutil
import time
from typing import List, Optional, Sequence, Tuple

from haremile_probe.collect.sources import Sources
from haremile_probe.interpret.about import RECORDER_WORDS

VALUES = (
    "/sys/class/dmi/id/sys_vendor",
    "/sys/class/dmi/id/product_name",
    "/sys/class/dmi/id/bios_version",
    "/proc/device-tree/model",
    "/sys/hypervisor/type",
    "/sys/class/power_supply/*/type",
    "/sys/class/power_supply/*/online",
    "/sys/class/power_supply/*/status",
    "/sys/class/power_supply/*/capacity",
    "/sys/devices/system/cpu/cpu*/cpufreq/scaling_governor",
    "/sys/devices/system/cpu/cpu*/thermal_throttle/core_throttle_count",
    "/sys/class/thermal/thermal_zone*/type",
    "/sys/class/thermal/thermal_zone*/temp",
    "/sys/block/*/queue/rotational",
    "/sys/block/*/removable",
    "/sys/block/*/device/type",
    "/sys/block/zram*/mm_stat",
    "/sys/module/zswap/parameters/enabled",
    "/sys/firmware/efi/fw_platform_size",
    "/sys/firmware/acpi/fpdt/boot/*",
    "/proc/sys/kernel/arch",
    "/proc/sys/kernel/osrelease",
    "/proc/sys/kernel/ostype",
    "/proc/1/comm",
    "/run/systemd/container",
)
"""Kernel files read as ``PATH: VALUE``; the gatherer reads the same ones."""

SESSION_KEYS = (
    "XDG_SESSION_ID",
    "XDG_SESSION_TYPE",
    "XDG_SESSION_DESKTOP",
    "XDG_CURRENT_DESKTOP",
    "DESKTOP_SESSION",
    "DISPLAY",
    "WAYLAND_DISPLAY",
    "container",
)
BUSY_S = 1.0


PRESSURE = "/proc/pressure/cpu"
MOST_ENTRIES = 200
ENTRY_KEYS = re.compile(r"(Hidden|OnlyShowIn|NotShowIn)\s*=")


def read_about(sources: Sources) -> None:
    """Everything that conditions are read from: some milliseconds, no program started."""
    sources.file("os-release", "/etc/os-release", "/usr/lib/os-release")
    sources.file("kernel", "/proc/version")
    sources.file("cpuinfo", "/proc/cpuinfo")
    sources.file("mountinfo", "/proc/self/mountinfo")
    sources.file("swaps", "/proc/swaps")
    sources.file("cmdline", "/proc/cmdline")
    sources.values("values", VALUES)
    sources.add("architecture", os.uname().machine + "\n")
    sources.add("probe-pid", "%d\n" % os.getpid())
    sources.add("clock-ticks", "%d\n" % os.sysconf("SC_CLK_TCK"))
    lines = ["%s=%s" % (k, os.environ[k]) for k in SESSION_KEYS if k in os.environ]
    sources.add("session-environment", "".join(line + "\n" for line in lines))
    _read_autostart(sources)


def _read_autostart(sources: Sources) -> None:
    """The entries from which a session starts programs by itself, with what each says of that.

    The user's entry stands in place of the system's of the same name (XDG autostart
    specification).
    """
    home = os.environ.get("XDG_CONFIG_HOME") or os.path.expanduser("~/.config")
    entries = {}
    for folder in ("/etc/xdg/autostart", os.path.join(home, "autostart")):
        try:
            names = os.listdir(sources.path(folder))
        except OSError:
            continue  # there is none, or it is not ours to read
        for name in names[:MOST_ENTRIES]:
            if name.endswith(".desktop"):
                entries[name] = os.path.join(folder, name)
    lines: List[str] = []
    for name in sorted(entries):
        try:
            text = sources.text_of(entries[name])
        except OSError:
            continue  # a dangling link starts nothing
        lines.append("[" + name + "]")
        lines += [line for line in text.splitlines() if ENTRY_KEYS.match(line)]
    sources.add("autostart", "".join(line + "\n" for line in lines))


def read_activity(sources: Sources, pause_s: float = BUSY_S) -> None:
    """What is running, and what was busy over a moment: two looks with a pause between them."""
    sources.file("meminfo-before", "/proc/meminfo")
    sources.file("stat", "/proc/stat")
    sources.processes()
    time.sleep(pause_s)
    sources.file("stat", "/proc/stat")
    sources.processes()
    sources.file("uptime", "/proc/uptime")
    if os.path.exists(sources.path(PRESSURE)):
        sources.file("pressure", PRESSURE)
    read_command_lines(sources)


def read_command_lines(sources: Sources) -> None:
    """Which programs run, one line each, with the word in its arguments that tells a recorder.

    Other arguments are not kept: they may hold what is nobody else's business.
    """
    lines = []
    for name in sorted(os.listdir(sources.path("/proc")), key=lambda n: (len(n), n)):
        if name.isdigit():
            try:
                words = sources.text_of("/proc/%s/cmdline" % name).split("\0")
            except OSError:
                continue  # it ended between listing and reading
            found = RECORDER_WORDS.search(" ".join(words))
            if words[0].strip():
                parts = [name, words[0].split()[0], found.group() if found else ""]
                lines.append(" ".join(part for part in parts if part))
    sources.add("command-lines", "\n".join(lines) + "\n")


def read_updates(sources: Sources) -> None:
    """Updates pending as far as the machine knows without a network."""
    asked = (
        (
            "apt-upgrade",
            ["apt-get", "--simulate", "-o", "Debug::NoLocking=1", "dist-upgrade"],
            (0,),
        ),
        ("pacman-updates", ["pacman", "-Qu"], (0, 1)),  # 1 says that there are none
        ("apk-updates", ["apk", "version", "-l", "<"], (0,)),
    )
    for name, command, good_codes in asked:
        if shutil.which(command[0]):
            sources.command(name, command, timeout_s=60.0, good_codes=good_codes)


def _packaged(sources: Sources, path: str) -> Tuple[str, Optional[str]]:
    """The package that a file comes from and its version, empty and None where none is known."""
    if not shutil.which("dpkg-query"):
        return "", None
    owner = sources.output_of("application", ["dpkg-query", "-S", path]) or ""
    package = owner.partition(": ")[0].partition(",")[0].strip()
    if not package:
        return "", None
    asked = ["dpkg-query", "-W", "-f", "${Version}", package]
    return package.partition(":")[0], sources.output_of("application", asked)


def read_applications(sources: Sources, names: Sequence[str], may_run: bool = False) -> None:
    """Where each named application comes from and its version there.

    One that comes from no package is asked for its version only where it may be run for that: some
    open a window at ``--version``, or take their time.
    """
    for name in names:
        found = shutil.which(name)
        if found is None:
            sources.add("application", "name=%s\n" % name)
            continue
        real = os.path.realpath(found)
        lines = ["name=%s" % name, "path=%s" % found, "real=%s" % real]
        package, version = _packaged(sources, real)
        if package:
            lines.append("package=%s" % package)
        elif may_run:
            version = sources.output_of("application", [found, "--version"], timeout_s=2.0)
        first = (version or "").strip().splitlines()[:1]
        lines += ["version=%s" % line[:120] for line in first]
        sources.add("application", "\n".join(lines) + "\n")

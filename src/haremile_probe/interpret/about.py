"""What a machine states of itself, and the conditions that follow from it."""

import re
from typing import Any, Callable, Dict, List, Mapping, Optional

from haremile_probe.interpret.account import Account
from haremile_probe.parsers.cpu import busy_share, parse_cpu_time, parse_cpuinfo, parse_uptime
from haremile_probe.parsers.desktop_entry import started_in
from haremile_probe.parsers.key_values import parse_environment, parse_os_release
from haremile_probe.parsers.meminfo import parse_meminfo
from haremile_probe.parsers.mounts import Mount, parse_mountinfo, parse_swaps, root_mount
from haremile_probe.parsers.packages import (
    Package,
    parse_apk_installed,
    parse_apt_simulation,
    parse_dpkg_status,
    parse_package_lines,
    parse_pacman_local,
    parse_update_lines,
)
from haremile_probe.parsers.path_values import parse_path_values, values_like, whole_number
from haremile_probe.parsers.pressure import parse_pressure
from haremile_probe.parsers.process_stats import Process, parse_process_stats

MIB = 2**20
LAYERED = ("overlay", "aufs", "squashfs", "erofs", "tmpfs", "ramfs", "rootfs", "iso9660")
"""Root file systems of live sessions: what is written is gone at the next boot."""

FIRMWARE = (
    ("/sys/firmware/efi/fw_platform_size", "uefi"),
    ("/proc/device-tree/model", "device tree"),
    ("/sys/class/dmi/id/bios_version", "bios"),
)
"""Which kind of firmware started the kernel, by the first of these files that is there."""

BUSY_FROM = 0.05
"""Share of one core from which a process counts as load in the background."""

RECORDER_WORDS = re.compile(
    r"x11grab|kmsgrab|xcbgrab|screencast|screenrecord|recordmydesktop|wf-recorder|screen-recorder"
)

PACKAGE_SOURCES: Dict[str, Callable[[str], List[Package]]] = {
    "dpkg-status": parse_dpkg_status,
    "apk-installed": parse_apk_installed,
    "pacman-local": parse_pacman_local,
    "rpm-packages": parse_package_lines,
}


def tell_about(account: Account) -> None:
    """Facts of the system, the machine and its state, and every condition that they give."""
    _system(account)
    _machine(account)
    _storage(account)
    _power(account)
    _swap(account)
    _session(account)
    _activity(account)
    _packages(account)
    _updates(account)
    _applications(account)


def _values(account: Account) -> Mapping[str, str]:
    return account.read("values", parse_path_values) or {}


def _system(account: Account) -> None:
    stated = account.read("os-release", parse_os_release)
    values = _values(account)
    if stated:
        account.facts["system"] = {
            key: stated[key]
            for key in ("PRETTY_NAME", "NAME", "VERSION", "VERSION_ID", "ID", "VARIANT", "BUILD_ID")
            if key in stated
        }
    account.facts["kernel"] = values.get("/proc/sys/kernel/osrelease")
    account.condition("kernel", account.facts["kernel"])
    account.facts["architecture"] = (account.text("architecture") or "").strip() or None
    account.facts["init"] = values.get("/proc/1/comm")
    account.facts["firmware"] = next((kind for path, kind in FIRMWARE if path in values), None)
    account.condition("firmware", account.facts["firmware"])


def _machine(account: Account) -> None:
    processor = account.read("cpuinfo", parse_cpuinfo)
    values = _values(account)
    if processor:
        account.facts["processor"] = {"cores": processor.cores, "model": processor.model}
        account.condition("cores", str(processor.cores))
    memory = account.read("meminfo-before", parse_meminfo)
    if memory:
        account.facts["memory_bytes"] = memory["MemTotal"]
        account.condition("memory", "%d MiB" % round(memory["MemTotal"] / MIB))
    virtual = _virtualisation(account, values, processor.is_guest if processor else None)
    account.facts["virtualisation"] = virtual


def _virtualisation(
    account: Account, values: Mapping[str, str], is_guest: Optional[bool]
) -> Optional[str]:
    stated = account.read("session-environment", parse_environment) or {}
    container = values.get("/run/systemd/container") or stated.get("container")
    if container:
        return "container (%s)" % container
    if "/sys/hypervisor/type" in values:
        return "guest (%s)" % values["/sys/hypervisor/type"]
    if is_guest:
        vendor = values.get("/sys/class/dmi/id/sys_vendor")
        return "guest (%s)" % vendor if vendor else "guest"
    return None if is_guest is None else "none"


def _storage(account: Account) -> None:
    mounts = account.read("mountinfo", lambda text: root_mount(parse_mountinfo(text)))
    if mounts is None:
        return
    medium = "live" if mounts.kind in LAYERED else "installed"
    if str(account.facts.get("virtualisation") or "").startswith("container"):
        medium = "container"
    account.facts["root"] = {
        "file_system": mounts.kind,
        "device": mounts.source,
        "storage": _storage_kind(_values(account), mounts),
    }
    account.facts["medium"] = medium
    account.condition("medium", medium)


def _storage_kind(values: Mapping[str, str], root: Mount) -> Optional[str]:
    """The kind of the device that holds the root, from its name and what the kernel says of it."""
    name = root.source.rpartition("/")[2]
    disks = {disk for disk, _ in values_like(dict(values), "/sys/block/*/queue/rotational")}
    fitting = [
        disk for disk in disks if name == disk or re.match(re.escape(disk) + r"p?\d+$", name)
    ]
    if not fitting:
        return None
    disk = max(fitting, key=len)
    if disk.startswith("nvme"):
        return "NVMe"
    if disk.startswith("mmcblk"):
        kind = values.get("/sys/block/%s/device/type" % disk)
        return {"SD": "SD card", "MMC": "eMMC"}.get(kind or "", "card")
    if disk.startswith(("vd", "xvd")):
        return "virtual disk"
    if values.get("/sys/block/%s/removable" % disk) == "1":
        return "removable"
    return "hard disk" if values["/sys/block/%s/queue/rotational" % disk] == "1" else "SSD"


def _power(account: Account) -> None:
    values = dict(_values(account))
    kinds = dict(values_like(values, "/sys/class/power_supply/*/type"))
    online = dict(values_like(values, "/sys/class/power_supply/*/online"))
    power: Optional[str] = None
    if any(kind == "Mains" and online.get(name) == "1" for name, kind in kinds.items()):
        power = "mains"
    elif "Battery" in kinds.values():
        status = [v for _, v in values_like(values, "/sys/class/power_supply/*/status")]
        power = "battery" if "Discharging" in status else "mains"
    elif values:
        power = "no battery"
    account.facts["power"] = power
    account.condition("power", power)
    pattern = "/sys/devices/system/cpu/*/cpufreq/scaling_governor"
    governors = sorted({value for _, value in values_like(values, pattern)})
    account.facts["governors"] = governors
    account.condition("governor", ", ".join(governors) or None)
    pattern = "/sys/devices/system/cpu/*/thermal_throttle/core_throttle_count"
    counts = [
        account.parsed("values", lambda text: whole_number(text, "throttle count"), value)
        for _, value in values_like(values, pattern)
    ]
    known = [count for count in counts if count is not None]
    if known:
        account.facts["throttled_times"] = max(known)
        account.condition("throttled", "yes" if max(known) else "no")
    temps = dict(values_like(values, "/sys/class/thermal/*/temp"))
    degrees = {}
    for zone, value in temps.items():
        number = account.parsed("values", lambda text: whole_number(text, "temperature"), value)
        if number is not None:
            degrees[values.get("/sys/class/thermal/%s/type" % zone, zone)] = number / 1000.0
    account.facts["temperatures_c"] = degrees


def _swap(account: Account) -> None:
    areas = account.read("swaps", parse_swaps)
    if areas is None:
        return
    account.facts["swap"] = [area._asdict() for area in areas]
    compressed = [v for _, v in values_like(dict(_values(account)), "/sys/block/*/mm_stat")]
    if compressed:
        account.facts["swap_compressed_bytes"] = compressed_bytes(account, compressed)


def compressed_bytes(account: Account, stats: List[str]) -> Optional[int]:
    """Memory that compressed swap takes (third field of ``mm_stat``), over all its devices."""
    used = [
        account.parsed(
            "zram", lambda text: whole_number(text, "mm_stat"), (s.split() + [""] * 3)[2]
        )
        for s in stats
    ]
    return None if None in used else sum(number or 0 for number in used)


def _session(account: Account) -> None:
    stated = account.read("session-environment", parse_environment)
    if stated is None:
        return
    kind = stated.get("XDG_SESSION_TYPE")
    if kind is None and stated.get("WAYLAND_DISPLAY"):
        kind = "wayland"
    if kind is None and stated.get("DISPLAY"):
        kind = "x11"
    desktop = stated.get("XDG_CURRENT_DESKTOP") or stated.get("DESKTOP_SESSION")
    account.facts["session"] = {
        "type": kind,
        "desktop": desktop,
        "window_manager": (account.text("window-manager") or "").strip() or None,
    }
    account.condition("session", " ".join(part for part in (desktop, kind) if part) or None)
    _autostart(account, desktop)


def _autostart(account: Account, desktop: Optional[str]) -> None:
    """Programs that this session starts by itself; nothing is told where nobody is logged in, or
    nobody looked."""
    text = account.text("autostart")
    if desktop is None or text is None:
        return
    found = started_in(text, desktop)
    account.facts["autostart"] = found
    account.condition("autostart", "%d" % len(found))


def _activity(account: Account) -> None:
    since = account.read("uptime", parse_uptime)
    if since is not None:
        account.facts["since_boot_s"] = since
        account.condition("since_boot", "%.0f s" % since)
    records = account.all("processes")[:2]
    looks = [account.parsed("processes", parse_process_stats, r.text) for r in records]
    ticks = account.read("clock-ticks", lambda text: whole_number(text, "clock ticks"))
    waited = account.read("pressure", parse_pressure) if account.text("pressure") else None
    if waited is not None:
        account.condition("pressure", "%.0f %%" % (100 * waited))
    times = [account.parsed("stat", parse_cpu_time, r.text) for r in account.all("stat")[:2]]
    if len(times) == 2 and times[0] and times[1]:
        first, last = times[0], times[1]
        account.facts["busy_share"] = account.parsed("stat", lambda _: busy_share(first, last), "")
    if len(looks) == 2 and looks[0] is not None and looks[1] is not None and ticks:
        passed = records[1].uptime_s - records[0].uptime_s
        _background(account, looks[0], looks[1], ticks, passed)
    _recorder(account)


def _background(
    account: Account, first: List[Process], last: List[Process], ticks: int, passed_s: float
) -> None:
    before = {(p.pid, p.start_ticks): p.cpu_ticks for p in first}
    own = account.read("probe-pid", lambda text: whole_number(text, "process id"))
    busy: Dict[str, float] = {}
    for process in last:
        if own in (process.pid, process.parent):
            continue
        spent = process.cpu_ticks - before.get((process.pid, process.start_ticks), 0)
        share = spent / ticks / passed_s if passed_s > 0 else 0.0
        if share >= BUSY_FROM and (process.pid, process.start_ticks) in before:
            busy[process.name] = busy.get(process.name, 0.0) + share
    account.facts["busy"] = busy
    account.condition("background", ", ".join(sorted(busy)) or "nothing above 5 % of a core")
    started = sorted(
        (p.start_ticks / ticks, p.name) for p in last if not p.is_kernel and p.parent != 2
    )
    account.facts["started"] = [[round(at, 2), name] for at, name in started]


def _recorder(account: Account) -> None:
    text = account.text("command-lines")
    if text is None:
        return
    found = sorted(
        {
            line.split()[1].rpartition("/")[2]
            for line in text.splitlines()
            if len(line.split()) > 1 and RECORDER_WORDS.search(line)
        }
    )
    account.facts["recorders"] = found
    account.condition("recorder", "running" if found else "none")


def installed_packages(account: Account) -> Dict[str, List[Package]]:
    """Packages by the database that lists them."""
    found = {}
    for name, parse in PACKAGE_SOURCES.items():
        packages = account.read(name, parse)
        if packages is not None:
            found[name] = packages
    return found


def _packages(account: Account) -> None:
    counts = {name: len(packages) for name, packages in installed_packages(account).items()}
    if counts:
        account.facts["packages"] = counts


def _updates(account: Account) -> None:
    counts: Dict[str, Any] = {
        "apt-upgrade": account.read("apt-upgrade", parse_apt_simulation),
        "pacman-updates": account.read("pacman-updates", parse_update_lines),
        "apk-updates": account.read("apk-updates", parse_update_lines),
    }
    known = {name: count for name, count in counts.items() if count is not None}
    if known:
        account.facts["updates_pending"] = known
        account.condition("updates_pending", str(sum(known.values())))


def _applications(account: Account) -> None:
    found = []
    for record in account.all("application"):
        stated = account.parsed("application", parse_environment, record.text)
        if stated:
            real = stated.get("real", "")
            packaging = next(
                (kind for kind in ("flatpak", "snap") if "/%s/" % kind in real), None
            ) or ("package" if stated.get("package") else None)
            found.append({**stated, "packaging": packaging})
    if found:
        account.facts["applications"] = found

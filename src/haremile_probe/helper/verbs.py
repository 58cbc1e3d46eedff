"""The closed list: each verb checks what it is given, does one thing, and tells what came of it."""

import ctypes
import mmap
import os
import stat
import time
from typing import Any, Callable, Dict, List, NamedTuple, Optional

from haremile_probe.collect.boot import read_efi_times, read_kernel_log
from haremile_probe.collect.footprint import read_walk
from haremile_probe.collect.idle import sum_of_processes
from haremile_probe.collect.sources import Sources
from haremile_probe.enrolled.restart import choose_next, restart
from haremile_probe.helper.login_service import sleep_through_login_service
from haremile_probe.jobs import ENTRY

DROP_CACHES = "/proc/sys/vm/drop_caches"
MOST_FILES = 500
PAGE = mmap.PAGESIZE
SYS_CACHESTAT = 451
CGROUPS = "/sys/fs/cgroup"
SCOPES = "haremile"
ENERGY = (
    "/sys/class/power_supply/*/energy_now",
    "/sys/class/power_supply/*/charge_now",
    "/sys/class/power_supply/*/voltage_now",
    "/sys/class/powercap/*/energy_uj",
    "/sys/class/powercap/*/name",
)
FIRMWARE = ("/sys/firmware/acpi/fpdt/boot/*",)
WAKE_ALARM = "/sys/class/rtc/rtc0/wakealarm"
CLOCK = "/sys/class/rtc/rtc0/since_epoch"
MOST_TICK_S = 1.5
SLEEP = "/sys/power/state"
KERNEL, LOGIN_SERVICE = "kernel", "login-service"
SLEEPS_THROUGH = (KERNEL, LOGIN_SERVICE)
LEAST_SLEEP_S, MOST_SLEEP_S = 10, 600


class VerbError(ValueError):
    """What is asked for is not in the closed sets; the message says what."""


class Asker(NamedTuple):
    """Who asks, as the kernel tells of the other end of the socket."""

    uid: int


Facts = Dict[str, Any]
Verb = Callable[[Asker, Facts, str], Facts]


def _nothing_else(facts: Facts, *names: str) -> None:
    beyond = sorted(set(facts) - set(names))
    if beyond:
        raise VerbError("this verb takes %s, not %s" % (", ".join(names) or "nothing", beyond[0]))


def drop_caches(_asker: Asker, facts: Facts, root: str) -> Facts:
    """Drop the page cache, once everything is written."""
    _nothing_else(facts)
    os.sync()
    with open(root + DROP_CACHES, "w", encoding="ascii") as file:
        file.write("3")
    return {}


def residency(asker: Asker, facts: Facts, root: str) -> Facts:
    """How many pages of files are in memory, and of how many, without reading any of them."""
    _nothing_else(facts, "files")
    names = facts.get("files")
    if not isinstance(names, list) or len(names) > MOST_FILES:
        raise VerbError("a list of at most %d files is wanted" % MOST_FILES)
    resident, pages = 0, 0
    for name in names:
        descriptor = _opened(asker, name, root)
        try:
            size = os.fstat(descriptor).st_size
            pages += (size + PAGE - 1) // PAGE
            resident += resident_pages(descriptor, size)
        finally:
            os.close(descriptor)
    return {"resident": resident, "pages": pages}


def _opened(asker: Asker, name: Any, root: str) -> int:
    """A regular file that the asker may read, opened; nothing else is, and no link is followed."""
    is_path = isinstance(name, str) and name.startswith("/") and os.path.normpath(name) == name
    if not is_path or "\0" in name or name.startswith(("/proc/", "/sys/", "/dev/")):
        raise VerbError("%r is no path of a file" % (name,))
    try:
        descriptor = os.open(
            root + name, os.O_RDONLY | os.O_NOFOLLOW | os.O_NONBLOCK | os.O_CLOEXEC
        )
    except OSError as error:
        raise VerbError("%s: %s" % (name, error.strerror)) from None
    status = os.fstat(descriptor)
    is_readable = bool(status.st_mode & stat.S_IROTH) or asker.uid in (0, status.st_uid)
    if not stat.S_ISREG(status.st_mode) or not is_readable:
        os.close(descriptor)
        raise VerbError("%s is no regular file that you may read" % name)
    return descriptor


class _Range(ctypes.Structure):
    _fields_ = [("off", ctypes.c_uint64), ("len", ctypes.c_uint64)]


class _Stat(ctypes.Structure):
    _fields_ = [
        (name, ctypes.c_uint64)
        for name in ("cache", "dirty", "writeback", "evicted", "recently_evicted")
    ]


def resident_pages(descriptor: int, size: int) -> int:
    """Pages of an open file that are in memory: by ``cachestat(2)``, else by ``mincore(2)``.

    Neither reads the file, so that neither warms what it looks at. Raises OSError where the kernel
    tells neither.
    """
    if size == 0:
        return 0
    told = _Stat()
    libc = ctypes.CDLL(None, use_errno=True)
    asked = _Range(0, 0)
    if libc.syscall(SYS_CACHESTAT, descriptor, ctypes.byref(asked), ctypes.byref(told), 0) == 0:
        return int(told.cache)
    mapped = libc.mmap
    mapped.restype, mapped.argtypes = (
        ctypes.c_void_p,
        [
            ctypes.c_void_p,
            ctypes.c_size_t,
            ctypes.c_int,
            ctypes.c_int,
            ctypes.c_int,
            ctypes.c_long,
        ],
    )
    address = mapped(None, size, 0, mmap.MAP_SHARED, descriptor, 0)  # no right to read is needed
    if address in (None, ctypes.c_void_p(-1).value):
        raise OSError(ctypes.get_errno(), "mmap")
    try:
        pages = (size + PAGE - 1) // PAGE
        flags = (ctypes.c_ubyte * pages)()
        if libc.mincore(ctypes.c_void_p(address), ctypes.c_size_t(size), flags) != 0:
            raise OSError(ctypes.get_errno(), "mincore")
        return sum(flag & 1 for flag in flags)
    finally:
        libc.munmap(ctypes.c_void_p(address), ctypes.c_size_t(size))


def _text_of(read: Callable[[Sources], None], root: str) -> Facts:
    """What a reader of the probe kept, as texts by name, and the faults that it met."""
    sources = Sources(root or "/")
    read(sources)
    return {
        "texts": {record.name: record.text for record in sources.records},
        "faults": [[fault.kind, fault.what] for fault in sources.faults],
    }


def kernel_log(_asker: Asker, facts: Facts, root: str) -> Facts:
    """The kernel's ring buffer."""
    _nothing_else(facts)
    return _text_of(read_kernel_log, root)


def process_memory(_asker: Asker, facts: Facts, root: str) -> Facts:
    """Sums of memory over all processes, those of other users among them."""
    _nothing_else(facts)
    return {"sums": sum_of_processes(Sources(root or "/"))[0]}


def tree_walk(_asker: Asker, facts: Facts, root: str) -> Facts:
    """Sizes of the root file system, folder by folder; of no other tree."""
    _nothing_else(facts)
    return _text_of(lambda sources: read_walk(sources, lambda _text: None), root)


def firmware_records(_asker: Asker, facts: Facts, root: str) -> Facts:
    """What the firmware and the loader note of this boot."""
    _nothing_else(facts)

    def read(sources: Sources) -> None:
        sources.values("firmware-table", FIRMWARE)
        read_efi_times(sources)

    return _text_of(read, root)


def energy(_asker: Asker, facts: Facts, root: str) -> Facts:
    """What the batteries and the processor's own meters say."""
    _nothing_else(facts)

    def read(sources: Sources) -> None:
        sources.values("energy", ENERGY)

    return _text_of(read, root)


def scope(asker: Asker, facts: Facts, root: str) -> Facts:
    """A control group for one process of the asker's and all that it starts: ``open`` puts it in,
    ``read`` tells its memory now and at most, ``close`` removes the empty group."""
    _nothing_else(facts, "do", "pid")
    pid, what = facts.get("pid"), facts.get("do")
    if not isinstance(pid, int) or isinstance(pid, bool) or not 1 < pid < 2**22:
        raise VerbError("%r is no process" % (pid,))
    base = _memory_groups(root)
    group = os.path.join(base, SCOPES, str(pid))
    if what == "open":
        if os.stat("%s/proc/%d" % (root, pid)).st_uid != asker.uid:
            raise VerbError("process %d is not yours" % pid)
        os.makedirs(group, exist_ok=True)
        with open(os.path.join(group, "cgroup.procs"), "w", encoding="ascii") as file:
            file.write(str(pid))
        return {}
    if what == "read":
        return {
            "now": _number(group, "memory.current", "memory.usage_in_bytes"),
            "most": _number(group, "memory.peak", "memory.max_usage_in_bytes"),
        }
    if what == "close":
        os.rmdir(group)
        return {}
    raise VerbError("a scope is opened, read or closed, not %r" % (what,))


def _memory_groups(root: str) -> str:
    """Where the memory controller is: of the unified hierarchy, or of its own."""
    for base in (root + CGROUPS, root + CGROUPS + "/memory"):
        names = os.path.join(base, "cgroup.controllers")
        if base.endswith("/memory") and os.path.isdir(base):
            return base
        try:
            with open(names, encoding="ascii") as file:
                if "memory" in file.read().split():
                    return base
        except OSError:
            continue
    raise OSError(2, "this kernel offers no memory controller")


def _number(group: str, *names: str) -> Optional[int]:
    for name in names:
        try:
            with open(os.path.join(group, name), encoding="ascii") as file:
                return int(file.read())
        except FileNotFoundError:
            continue
    return None


def suspend(_asker: Asker, facts: Facts, root: str) -> Facts:
    """Sleep, with the clock set to wake the machine again after so many seconds; by the kernel
    alone, or through the login service."""
    _nothing_else(facts, "seconds", "through")
    through = facts.get("through", KERNEL)
    if through not in SLEEPS_THROUGH:
        raise VerbError("through %s, not %r" % (" or ".join(SLEEPS_THROUGH), through))
    seconds = facts.get("seconds")
    is_number = isinstance(seconds, int) and not isinstance(seconds, bool)
    if not is_number or not LEAST_SLEEP_S <= int(seconds or 0) <= MOST_SLEEP_S:
        raise VerbError("seconds from %d to %d" % (LEAST_SLEEP_S, MOST_SLEEP_S))
    for text in ("0", "+%d" % int(seconds or 0)):  # an alarm that stands is taken back first
        with open(root + WAKE_ALARM, "w", encoding="ascii") as file:
            file.write(text)
    with open(root + WAKE_ALARM, encoding="ascii") as file:
        alarm = file.read().strip()
    tick = _tick(root)
    slept = _by_kernel(root) if through == KERNEL else sleep_through_login_service(_clocks)
    return {
        **slept,
        "away_s": slept["after"]["boottime"] - slept["before"]["boottime"],
        "alarm": int(alarm) if alarm.isdigit() else None,
        "tick": tick,
        "through": through,
    }


def _by_kernel(root: str) -> Facts:
    before = _clocks()
    with open(root + SLEEP, "w", encoding="ascii") as file:
        file.write("mem")
    return {"before": before, "after": _clocks()}


def _clocks() -> Dict[str, float]:
    """What the kernel's clocks say now: of the day, running, and running or asleep."""
    return {
        "realtime": time.time(),
        "monotonic": time.monotonic(),
        "boottime": time.clock_gettime(getattr(time, "CLOCK_BOOTTIME", time.CLOCK_MONOTONIC)),
    }


def _tick(root: str) -> Optional[Dict[str, float]]:
    """When the clock that wakes the machine last turned to a new second, on the clock of the day;
    None where it does not turn, or is not there."""
    deadline, first = time.monotonic() + MOST_TICK_S, None
    while time.monotonic() < deadline:
        try:
            with open(root + CLOCK, encoding="ascii") as file:
                text = file.read().strip()
        except OSError:
            return None
        if first is not None and text != first and text.isdigit():
            return {"epoch": float(text), "realtime": time.time()}
        first = text
        time.sleep(0.002)
    return None


def restart_machine(_asker: Asker, facts: Facts, _root: str) -> Facts:
    """Boot anew, by the command that this machine has for it."""
    from haremile_probe.enrolled.enrolment import restart_command

    _nothing_else(facts)
    restart(restart_command())
    return {}


def boot_entry(_asker: Asker, facts: Facts, _root: str) -> Facts:
    """Choose the entry of the next boot, once."""
    _nothing_else(facts, "entry")
    entry = facts.get("entry")
    if not isinstance(entry, str) or not ENTRY.match(entry):
        raise VerbError("%r is no name of a boot entry" % (entry,))
    return {"by": choose_next(entry)}


VERBS: Dict[str, Verb] = {
    "drop-caches": drop_caches,
    "residency": residency,
    "kernel-log": kernel_log,
    "process-memory": process_memory,
    "tree-walk": tree_walk,
    "firmware-records": firmware_records,
    "scope": scope,
    "energy": energy,
    "suspend": suspend,
    "restart": restart_machine,
    "boot-entry": boot_entry,
}


def done(verb: Any, asker: Asker, facts: Any, root: str = "") -> Facts:
    """Do a verb of the list. Raises VerbError for anything else, OSError where it fails."""
    if not isinstance(verb, str) or verb not in VERBS or not isinstance(facts, dict):
        raise VerbError("the helper does %s, not %r" % (", ".join(VERBS), verb))
    return VERBS[verb](asker, facts, root)


def names() -> List[str]:
    """What the helper does."""
    return list(VERBS)

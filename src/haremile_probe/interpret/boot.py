"""The parts of a boot from every source, where two of them disagree, and waits kept apart."""

from typing import Dict, List, NamedTuple, Optional

from haremile_probe.interpret.account import Account
from haremile_probe.parsers import UnreadableError
from haremile_probe.parsers.boot_records import (
    FirmwareTimes,
    parse_efi_times,
    parse_firmware_table,
    parse_kernel_log,
    parse_last_shutdown,
)
from haremile_probe.parsers.path_values import parse_path_values, whole_number
from haremile_probe.parsers.process_stats import parse_process_stats
from haremile_probe.parsers.service_manager import (
    BootTimes,
    Unit,
    parse_boot_times,
    parse_units,
)
from haremile_probe.parsers.sessions import Session, parse_session, started_s
from haremile_probe.wire import Fault

MICROSECOND = 1e-6
DISAGREE_S = 0.1
"""Two sources of one part that are further apart than this are named."""

LONGEST_UNITS = 12
PASSPHRASE_UNITS = ("systemd-cryptsetup@", "systemd-ask-password", "plymouth-ask-password")
DISPLAY_MANAGER = "display-manager.service"


class Part(NamedTuple):
    """A part of the boot as one source gives it."""

    metric: str
    seconds: Optional[float]
    method: str
    resolution: Optional[float]


def tell(account: Account) -> None:
    """Readings of the boot's parts, each with its method; facts of waits, units and shutdown."""
    manager = account.read("boot-manager", parse_boot_times)
    units = account.read("boot-units", parse_units) or []
    session = account.read("session", parse_session)
    firmware = _firmware(account)
    waits = _waits(units, session, firmware)
    parts = [*_of_manager(account, manager, waits), *_of_firmware(firmware), *_of_log(account)]
    parts += _to_session(account, units, session, waits)
    parts += _totals(account, parts, manager, waits)
    for part in parts:
        account.add(part.metric, part.seconds, "s", part.method, part.resolution)
    account.facts["waits_s"] = waits
    account.condition("waits", ", ".join(sorted(waits)) or _no_waits(manager, session))
    account.facts["disagreements"] = disagreements(parts)
    _longest(account, units)
    shutdown = account.read("journal-before", parse_last_shutdown)
    account.add("boot.shutdown", shutdown, "s", "systemd", MICROSECOND)


def _no_waits(manager: Optional[BootTimes], session: Optional[Session]) -> Optional[str]:
    """That nobody was waited for is known only where the manager's units and a session tell."""
    return "none" if manager is not None and session is not None else None


def _firmware(account: Account) -> Dict[str, FirmwareTimes]:
    found = {}
    table = account.read("values", lambda text: parse_firmware_table(parse_path_values(text)))
    if table is not None:
        found["firmware-table"] = table
    variables = account.read("efi-times", parse_efi_times)
    if variables is not None:
        found["efi"] = variables
    return found


def _waits(
    units: List[Unit], session: Optional[Session], firmware: Dict[str, FirmwareTimes]
) -> Dict[str, float]:
    """Seconds that a menu, a passphrase or a person took, as far as they show."""
    waits: Dict[str, float] = {}
    menu = next((t.menu_s for t in firmware.values() if t.menu_s), None)
    if menu:
        waits["menu"] = menu
    asked = [u for u in units if u.name.startswith(PASSPHRASE_UNITS[0]) and u.ready_s is not None]
    if any(u.name.startswith(PASSPHRASE_UNITS[1:]) for u in units) and asked:
        waits["passphrase"] = max((u.ready_s or u.start_s) - u.start_s for u in asked)
    greeter = next((u.ready_s for u in units if u.name == DISPLAY_MANAGER and u.ready_s), None)
    is_greeted = session is not None and "autologin" not in (session.service or "")
    if greeter and session is not None and is_greeted and session.opened_s > greeter:
        waits["login"] = session.opened_s - greeter
    return waits


def _of_manager(
    account: Account, manager: Optional[BootTimes], waits: Dict[str, float]
) -> List[Part]:
    if manager is None:
        return []
    if manager.finish_s is None:
        account.faults.append(Fault("absent", "boot.userspace: the boot is not complete yet"))
    parts = {
        "boot.firmware": manager.firmware_s,
        "boot.loader": manager.loader_s,
        "boot.kernel": manager.kernel_s,
        "boot.initrd": manager.initrd_s,
        "boot.userspace": manager.userspace_s,
    }
    typed = waits.get("passphrase")
    if typed:  # it is asked for in the initial RAM disk where there is one
        where = "boot.initrd" if manager.initrd_s is not None else "boot.userspace"
        length = parts[where]
        parts[where] = None if length is None else max(length - typed, 0.0)
    return [Part(metric, span, "systemd", MICROSECOND) for metric, span in parts.items()]


def _of_firmware(firmware: Dict[str, FirmwareTimes]) -> List[Part]:
    found = []
    for method, times in firmware.items():
        loader = times.loader_s
        if loader is not None and times.menu_s is not None:
            loader -= times.menu_s
        found += [
            Part("boot.firmware", times.firmware_s, method, None),
            Part("boot.loader", loader, method, None),
            Part("boot.menu", times.menu_s, method, None),
        ]
    return found


def _of_log(account: Account) -> List[Part]:
    at = account.read("kernel-log", parse_kernel_log)
    return [Part("boot.kernel", at, "kernel-log", MICROSECOND)]


def _to_session(
    account: Account, units: List[Unit], session: Optional[Session], waits: Dict[str, float]
) -> List[Part]:
    """To the login screen, and to the session where nobody typed; from the kernel's start."""
    found = []
    greeter = next((u.ready_s for u in units if u.name == DISPLAY_MANAGER and u.ready_s), None)
    if greeter is not None:
        found.append(Part("boot.login", greeter, "systemd", MICROSECOND))
    else:
        found.append(Part("boot.login", _greeter_process_s(account), "session-start", 0.01))
    if session is not None:
        account.facts["session_opened_s"] = session.opened_s
        account.condition("autologin", "yes" if "autologin" in (session.service or "") else "no")
    up = _session_up_s(account)
    if up is not None and session is not None and up >= session.opened_s:
        found.append(Part("boot.session", up - session.opened_s, "systemd", MICROSECOND))
        typed = waits.get("login", 0.0) + waits.get("passphrase", 0.0)
        found.append(Part("boot.desktop", up - typed, "systemd", MICROSECOND))
    settled = account.read("desktop-settled", _seconds)
    if settled is not None:
        at = settled - waits.get("login", 0.0) - waits.get("passphrase", 0.0)
        found.append(Part("boot.desktop", at, "screen", 0.001))
        if session is not None:
            after = settled - session.opened_s
            found.append(Part("boot.session", after, "session-start", 0.001))
    first_page = account.read("first-page", _seconds)
    if first_page is not None:
        typed = waits.get("login", 0.0) + waits.get("passphrase", 0.0)
        found.append(Part("boot.task", first_page - typed, "probe", 0.001))
    return found


def _seconds(text: str) -> float:
    try:
        value = float(text)
    except ValueError:
        raise UnreadableError("no seconds: %s" % text[:40]) from None
    if not 0.0 <= value < 1e9:
        raise UnreadableError("no seconds: %s" % text[:40])
    return value


def _session_up_s(account: Account) -> Optional[float]:
    """When the user's own manager had brought the session up, seconds from the kernel's start."""
    target = account.read("session-target", parse_units) or []
    return next((unit.ready_s for unit in target), None)


def _greeter_process_s(account: Account) -> Optional[float]:
    """Without systemd: when the process of the display manager that is set began."""
    path = (account.text("display-manager") or "").strip()
    processes = account.read("processes", parse_process_stats)
    ticks = account.read("clock-ticks", lambda text: whole_number(text, "clock ticks"))
    if not path or processes is None or not ticks:
        return None
    return started_s(processes, path.rpartition("/")[2], ticks)


def _totals(
    account: Account, parts: List[Part], manager: Optional[BootTimes], waits: Dict[str, float]
) -> List[Part]:
    """Power-on to ready: only where firmware and loader are known, and without the waits."""
    if manager is None or manager.finish_s is None:
        return []
    for method in ("systemd", "efi", "firmware-table"):
        known = {p.metric: p.seconds for p in parts if p.method == method}
        if known.get("boot.firmware") is not None and known.get("boot.loader") is not None:
            before = (known["boot.firmware"] or 0.0) + (known["boot.loader"] or 0.0)
            menu = waits.get("menu", 0.0) if method == "systemd" else 0.0
            after = manager.finish_s - waits.get("passphrase", 0.0)
            return [Part("boot.total", before - menu + after, method, MICROSECOND)]
    account.faults.append(
        Fault(
            "absent", "boot.total: firmware and loader left no record; it can be had from outside"
        )
    )
    return []


def disagreements(parts: List[Part]) -> List[Dict[str, object]]:
    """Parts that two sources put more than a tenth of a second apart."""
    found = []
    known = [part for part in parts if part.seconds is not None]
    for number, first in enumerate(known):
        for second in known[number + 1 :]:
            apart = abs((first.seconds or 0.0) - (second.seconds or 0.0))
            if first.metric == second.metric and apart > DISAGREE_S:
                found.append(
                    {
                        "metric": first.metric,
                        "apart_s": round(apart, 6),
                        first.method: first.seconds,
                        second.method: second.seconds,
                    }
                )
    return found


def _longest(account: Account, units: List[Unit]) -> None:
    lasted = [
        (unit.ready_s - unit.start_s, unit)
        for unit in units
        if unit.ready_s is not None and unit.ready_s > unit.start_s
    ]
    longest = sorted(lasted, key=lambda pair: -pair[0])[:LONGEST_UNITS]
    account.facts["longest_units"] = [
        [unit.name, round(unit.start_s, 6), round(took, 6)] for took, unit in longest
    ]
    account.facts["units"] = len(units)

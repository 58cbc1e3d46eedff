"""How long a machine takes to fall asleep and to wake, and what its battery loses meanwhile."""

import json
import re
from typing import Any, Dict, NamedTuple, Optional

from haremile_probe.interpret.account import Account
from haremile_probe.parsers import UnreadableError
from haremile_probe.parsers.path_values import parse_path_values
from haremile_probe.parsers.power import parse_batteries
from haremile_probe.wire import Fault

DAY_S = 86400.0
LEAST_ASLEEP_S = 2.0
ENTRY = re.compile(r"PM: suspend entry")
WAKING = re.compile(
    r"Waking up from system sleep|Low-level resume complete|PM: resume from suspend-to-idle"
    r"|Enabling non-boot CPUs|PM: resume devices|PM: suspend exit"
)
STAMP = re.compile(r"^[0-9]+,[0-9]+,([0-9]+),")
TICK_S = 0.005


class Slept(NamedTuple):
    """Seconds asleep; from the alarm to the first program that ran; from there until the session
    was told, and until a page's sign of life. None where it is not known. How it was sent to
    sleep."""

    asleep_s: float
    wake_s: Optional[float]
    session_s: Optional[float]
    answered_s: Optional[float]
    through: str


def parse_sleep(text: str) -> Slept:
    """Read the text ``sleep``; raises UnreadableError."""
    try:
        found = json.loads(text)
        before, after = _clocks(found["before"]), _clocks(found["after"])
        ran = after["monotonic"] - before["monotonic"]
        asleep = after["boottime"] - before["boottime"] - ran
        wake = None
        if found["alarm"] is not None and found["tick"] is not None:
            behind = float(found["tick"]["epoch"]) - float(found["tick"]["realtime"])
            wake = after["realtime"] - (float(found["alarm"]) - behind)
        session, answered = (
            None if found.get(name) is None else float(found[name]) - after["monotonic"]
            for name in ("session", "answered")
        )
        return Slept(asleep, wake, session, answered, str(found.get("through", "kernel")))
    except (ValueError, KeyError, TypeError) as error:
        raise UnreadableError("not what a sleep was: %s" % error) from None


def _clocks(found: Any) -> Dict[str, float]:
    return {name: float(found[name]) for name in ("realtime", "monotonic", "boottime")}


def entering_s(log: str) -> Optional[float]:
    """From the order to the kernel's first word after it woke, by the kernel's own clock, which
    stands still while it sleeps; of the last sleep. None where its log does not tell."""
    begun, lasted = None, None
    for line in log.splitlines():
        stamp = STAMP.match(line)
        if stamp is None:
            continue
        at = int(stamp[1]) / 1e6
        if ENTRY.search(line):
            begun = at
        elif begun is not None and WAKING.search(line):
            lasted, begun = at - begun, None
    return lasted


def tell(account: Account) -> None:
    """Times of one sleep, and the share of a full battery that a day of it would take."""
    slept = account.read("sleep", parse_sleep)
    if slept is None:
        return
    if slept.asleep_s < LEAST_ASLEEP_S:
        account.failure = "it did not stay asleep: %.1f s" % slept.asleep_s
        account.faults.append(Fault("unreadable", "sleep: %s" % account.failure))
        return
    account.facts["asleep_s"] = slept.asleep_s
    account.add("sleep.enter", entering_s(account.text("kernel-log") or ""), "s", "kernel-log")
    method = "probe" if slept.through == "kernel" else "login-service"
    if slept.wake_s is not None and slept.wake_s >= 0.0:
        account.add("sleep.wake", slept.wake_s, "s", method, TICK_S)
        for metric, later in (("sleep.session", slept.session_s), ("sleep.task", slept.answered_s)):
            if later is not None and later >= 0.0:
                account.add(metric, slept.wake_s + later, "s", method, TICK_S)
    _drain(account, slept.asleep_s)


def _drain(account: Account, asleep_s: float) -> None:
    looks = [account.parsed("power", parse_path_values, one.text) for one in account.all("power")]
    held = [None if values is None else parse_batteries(values) for values in looks]
    if len(held) < 2 or held[0] is None or held[-1] is None:
        return
    lost = (held[0].energy - held[-1].energy) / held[0].full * DAY_S / asleep_s
    if not held[0].is_discharging or lost < 0.0:
        return
    if lost > 1.0:
        what = "sleep.drain: more than a whole battery a day; a longer sleep tells it better"
        account.faults.append(Fault("unreadable", what))
        return
    account.add("sleep.drain", lost, "share", "probe")

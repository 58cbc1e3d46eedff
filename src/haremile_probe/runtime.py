"""What every procedure shares: names, progress, and writing the capture down."""

import argparse
import json
import os
import socket
import sys
import time
from typing import List, Optional

from haremile_probe.collect.machine_state import StateWatch
from haremile_probe.collect.sources import Sources
from haremile_probe.interpret import account_of, capture_of
from haremile_probe.interpret.account import Account
from haremile_probe.keeping import keep
from haremile_probe.parsers import UnreadableError
from haremile_probe.parsers.key_values import parse_os_release
from haremile_probe.wire import NOT_MEASURED, Capture, dump_capture

MIB = 2.0**20


class BadInput(Exception):
    """What was asked for is not valid."""


class Refused(Exception):
    """What was asked for would not give what it says; the message tells what to do."""


class MissingHere(Exception):
    """This machine lacks something that the procedure needs."""


def new_id() -> str:
    """A key whose order is that of time (UUID version 7, RFC 9562)."""
    stamp = int(time.time() * 1000).to_bytes(6, "big")
    noise = bytearray(os.urandom(10))
    noise[0] = 0x70 | noise[0] & 0x0F
    noise[2] = 0x80 | noise[2] & 0x3F
    text = (stamp + bytes(noise)).hex()
    return "-".join((text[:8], text[8:12], text[12:16], text[16:20], text[20:]))


def now_text() -> str:
    """The present instant in UTC, ISO 8601."""
    seconds = time.time()
    whole = time.strftime("%Y-%m-%dT%H:%M:%S", time.gmtime(seconds))
    return "%s.%03d+00:00" % (whole, int(seconds * 1000) % 1000)


class Run:
    """One execution of a procedure, from its arguments to its capture."""

    def __init__(self, asked: argparse.Namespace):
        self.asked = asked
        self.sources = Sources()
        self._said_at = 0.0
        self._state: Optional[StateWatch] = None

    def progress(self, text: str) -> None:
        """Say on stderr how far it is."""
        if not self.asked.quiet:
            print("%s: %s" % (self.asked.asked, text), file=sys.stderr, flush=True)

    def watch_state(self) -> None:
        """Look at the machine's own state until the account is made."""
        self._state = StateWatch(self.sources)

    def account(self) -> Account:
        """What the texts read so far say."""
        if self._state is not None:
            self._state.end()
        return account_of(self.asked.asked, self.sources.records, self.sources.faults)

    def capture(self, account: Account) -> Capture:
        """The capture of an account, named as asked or as the machine states."""
        machine = self.asked.machine or socket.gethostname()
        system = stated_system(account.text("os-release"), self.asked.system)
        return capture_of(account, self.asked.asked, new_id(), now_text(), machine, system)

    def write(self, capture: Capture) -> Optional[str]:
        """Write the capture; return the file that holds it, None where it went to stdout alone."""
        body = dump_capture(capture)
        if self.asked.json:
            sys.stdout.write(body.decode() + "\n")
            if not self.asked.out:
                return None
        name = "haremile-%s-%s.json" % (capture.asked, capture.id)
        return keep(body, self.asked.out, name, self.warn)

    def warn(self, text: str) -> None:
        """Say on stderr what somebody has to know, asked to be quiet or not."""
        print("%s: %s" % (self.asked.asked, text), file=sys.stderr, flush=True)

    def summary(self, capture: Capture) -> List[str]:
        """The capture in words: a line for each reading, and for each fault."""
        lines = ["%s: %s on %s" % (capture.asked, capture.system, capture.machine)]
        if capture.reason:
            what = "could not measure" if capture.outcome == NOT_MEASURED else "failed"
            lines.append("%s: %s" % (what, capture.reason))
        for reading in capture.readings:
            own = ", ".join("%s %s" % pair for pair in sorted(reading.conditions.items()))
            text = shown(reading.value, reading.unit)
            note = "%s, %s" % (reading.method, own) if own else reading.method
            lines.append("  %-24s %14s   (%s)" % (reading.metric, text, note))
        lines += _told(capture)
        lines += ["  %s: %s" % (key, value) for key, value in sorted(capture.conditions.items())]
        lines += ["  %s: %s" % (fault.kind, fault.what) for fault in capture.faults]
        return lines


def stated_system(os_release: Optional[str], asked: Optional[str]) -> str:
    """The system's name as asked for, else as it states it; raises BadInput where it does not."""
    if asked:
        return str(asked)
    try:
        stated = parse_os_release(os_release or "")
    except UnreadableError:
        raise BadInput("this system does not state its name; give it with --system") from None
    return stated.get("PRETTY_NAME") or stated.get("NAME") or stated["ID"]


def _told(capture: Capture) -> List[str]:
    """Facts that a person asked for by this procedure."""
    facts = json.loads(capture.text_of("facts") or "{}")
    wanted = {
        "about": (
            "system",
            "kernel",
            "init",
            "session",
            "root",
            "virtualisation",
            "busy",
            "applications",
        ),
        "boot": ("longest_units", "disagreements", "waits_s"),
        "footprint": (
            "walk",
            "walked_against_used",
            "swap_files_bytes",
            "biggest_packages",
            "since",
        ),
        "idle": ("process_memory", "probe_memory"),
        "check": ("check",),
    }.get(capture.asked, ())
    return ["  %s: %s" % (key, json.dumps(facts[key])) for key in wanted if key in facts]


def shown(value: float, unit: str) -> str:
    """A value with its unit, for a person."""
    if unit == "B":
        return "%.1f MiB" % (value / MIB)
    if unit == "share":
        return "%.2f %%" % (100.0 * value)
    if unit == "s":
        return "%.3f s" % value
    return "%g" % value


def positive(text: str) -> float:
    """An argument that is a positive number of seconds."""
    try:
        number = float(text)
    except ValueError:
        number = 0.0
    if not 0.0 < number < float("inf"):
        raise argparse.ArgumentTypeError("a positive number of seconds is wanted, not %s" % text)
    return number

"""``launch``: an application started again and again under a stated start condition."""

import argparse
import json
import os
import shlex
import shutil
import time
from typing import Any, Dict, List, Optional, Sequence, Tuple

from haremile_probe.collect.about import read_about, read_activity, read_applications
from haremile_probe.collect.state import boot_id, remember, remembered
from haremile_probe.enrolled.applications import allowed_line
from haremile_probe.enrolled.applications import read_applications as allowed_here
from haremile_probe.jobs import STARTS, WAYS
from haremile_probe.launching.process_tree import become_subreaper
from haremile_probe.launching.quiet import wait_for_quiet
from haremile_probe.launching.sight import Sight, open_sight, usual_way
from haremile_probe.launching.start import DisplayGone, Launch, LaunchPlan
from haremile_probe.launching.start_condition import drop_caches
from haremile_probe.parsers import UnreadableError
from haremile_probe.parsers.desktop_entry import parse_desktop_entry
from haremile_probe.runtime import BadInput, Refused, Run, positive
from haremile_probe.session_user import session_user
from haremile_probe.wire import Capture, Fault

EXAMPLES = """examples: haremile-probe launch --repeats 10 --start warm -- coppicer /srv/seeds
          haremile-probe launch --repeats 1 --start first-after-boot wayfarrow.desktop"""

ONCE = STARTS[:2]
MOST_BUSY_SHARE = 0.1
LEARN_S = 4.0
"""So long the first launch, which does not count, is watched for a window that gives way."""


def command_of(words: Sequence[str]) -> List[str]:
    """The argument list to start: a command, or the one a desktop entry holds.

    Raises BadInput where there is none, or the entry cannot be found or read.
    """
    words = [word for word in words if word != "--"] if words[:1] == ["--"] else list(words)
    if not words:
        raise BadInput("name a command or a desktop entry: haremile-probe launch -- coppicer")
    if not words[0].endswith(".desktop"):
        return words
    path = _entry_path(words[0])
    try:
        with open(path, encoding="utf-8", errors="replace") as file:
            return [*parse_desktop_entry(file.read()).arguments, *words[1:]]
    except OSError as error:
        raise BadInput("%s cannot be read: %s" % (path, error.strerror)) from None
    except UnreadableError as error:
        raise BadInput("%s: %s" % (path, error)) from None


def commands_for(names: Sequence[str], stated: Sequence[str]) -> Dict[str, List[str]]:
    """What each application stands for: as stated, ``NAME=COMMAND``, else as this machine's list of
    applications has it. Raises BadInput for none."""
    here = dict(allowed_line(text) for text in stated)
    if any(name not in here for name in names):
        here = {**allowed_here(), **here}
    unknown = [name for name in names if name not in here]
    if unknown:
        raise BadInput(
            "nothing says what %s stands for: --app %s=COMMAND" % (unknown[0], unknown[0])
        )
    return {name: command_of(shlex.split(here[name])) for name in names}


def _entry_path(name: str) -> str:
    if os.path.sep in name:
        return name
    home = os.environ.get("XDG_DATA_HOME") or os.path.expanduser("~/.local/share")
    shared = os.environ.get("XDG_DATA_DIRS") or "/usr/local/share:/usr/share"
    for folder in [home, *shared.split(":")]:
        path = os.path.join(folder, "applications", name)
        if os.path.exists(path):
            return path
    raise BadInput("no desktop entry %s in %s" % (name, ":".join([home, shared])))


def running_instance(command: Sequence[str]) -> Optional[int]:
    """A process that already runs this command, if one does."""
    program = os.path.realpath(shutil.which(command[0]) or command[0])
    for name in os.listdir("/proc"):
        if not name.isdigit() or int(name) == os.getpid():
            continue
        try:
            if os.path.realpath(os.readlink("/proc/%s/exe" % name)) == program:
                return int(name)
            with open("/proc/%s/cmdline" % name, "rb") as file:
                words = file.read().decode("utf-8", "replace").split("\0")[:2]
        except OSError:
            continue  # it ended, or is another user's
        if any(word.startswith("/") and os.path.realpath(word) == program for word in words):
            return int(name)
    return None


def resolution_key(way: str) -> str:
    """Where the check of a way leaves how finely it tells time."""
    return "launch_resolution_s" if way == "x" else way + "_resolution_s"


def read(run: Run) -> Capture:
    """Launch as often as asked; every launch's outcome is kept, with the proof of its start."""
    asked = run.asked
    command = command_of(asked.command)
    start, repeats = asked.start, asked.repeats
    if start in ONCE and repeats != 1:
        raise BadInput("%s happens once: --repeats must be 1, not %d" % (start, repeats))
    pid = running_instance(command)
    if pid is not None:
        raise Refused("%s already runs as process %d; close it first" % (command[0], pid))
    read_about(run.sources)
    read_activity(run.sources)
    become_subreaper()
    way = asked.by or usual_way()
    sight = open_sight(way, asked.user)
    try:
        told = _Series(run, sight, command).launches(start, repeats)
    finally:
        sight.close()
    told.update(seen_by=way, resolution_s=remembered("check").get(resolution_key(way)))
    read_applications(run.sources, [command[0]])
    run.sources.add("launches", json.dumps(told, indent=1, sort_keys=True))
    return run.capture(run.account())


class _Series:
    """Launches of one command, one after the other."""

    def __init__(self, run: Run, sight: Sight, command: Sequence[str]):
        self.run, self.sight, self.command = run, sight, command
        self.plan = LaunchPlan(
            run.asked.quiet_window,
            run.asked.limit,
            run.asked.small_area,
            session_user(run.asked.user),
        )
        self.files: Tuple[str, ...] = ()

    def launches(self, start: str, repeats: int) -> Dict[str, Any]:
        """All of them, as facts that can be written down."""
        self._check_start(start)
        if start in ("warm", "cache-dropped"):
            self.run.progress("once beforehand, not counted")
            first = self.sight.launch(self.command, self.plan._replace(learn_s=LEARN_S))
            self.files = tuple(first.files)
            self.plan = self.plan._replace(main_no=first.main_no)
            if start == "cache-dropped" and first.settled_s is not None:
                # what has to read everything first takes no less
                self.plan = self.plan._replace(least_s=first.settled_s)
        told: List[Dict[str, Any]] = []
        try:
            for number in range(1, repeats + 1):
                self.run.progress("%s, %d of %d" % (start, number, repeats))
                told.append(self._one(start))
        except (DisplayGone, KeyboardInterrupt) as stop:
            self._cut_short(stop, len(told), repeats)
        self._remember()
        return {
            "command": list(self.command),
            "start": start,
            "launches": told,
        }

    def _cut_short(self, stop: BaseException, done: int, wanted: int) -> None:
        """What was measured before is kept; where that is nothing, the stop goes on."""
        if not done:
            raise stop
        why = str(stop) if isinstance(stop, DisplayGone) else "interrupted"
        said = "launches: %s after %d of %d" % (why, done, wanted)
        self.run.warn(said)
        self.run.sources.faults.append(Fault("unreadable", said))

    def _check_start(self, start: str) -> None:
        """Refuse a first start that we know is none: we launched it before."""
        known = remembered("launched").get(self.command[0], {})
        if start == "first-ever" and known:
            raise Refused("%s was launched on this install before" % self.command[0])
        if start == "first-after-boot" and known and known.get("boot") == boot_id():
            raise Refused("%s was launched since this boot; reboot first" % self.command[0])

    def _remember(self) -> None:
        known = remembered("launched")
        known[self.command[0]] = {"boot": boot_id()}
        fault = remember("launched", known)
        self.run.sources.faults += [fault] if fault else []

    def _one(self, start: str) -> Dict[str, Any]:
        proof: Dict[str, Any] = {}
        if start == "cache-dropped":
            dropped = drop_caches(self.files)
            proof = {"dropped": dropped.how, "resident_share": dropped.resident_share}
        is_quiet, share = wait_for_quiet(MOST_BUSY_SHARE, self.run.asked.quiet_limit)
        found = self.sight.launch(self.command, self.plan)
        self.files = tuple(found.files) or self.files
        return {**_facts(found), **proof, "was_quiet": is_quiet, "busy_before": round(share, 4)}


def asleep_s() -> float:
    """How long this machine slept since it started: uptime less the monotonic clock."""
    return time.clock_gettime(time.CLOCK_BOOTTIME) - time.monotonic()


def _facts(found: Launch) -> Dict[str, Any]:
    facts = {
        key: value
        for key, value in found._asdict().items()
        if key not in ("outcome", "files", "spawned")
    }
    facts["began_uptime"] = found.spawned + asleep_s()
    return {**facts, "outcome": found.outcome.value, "measured": found.outcome.gives_readings}


def arguments(verb: argparse.ArgumentParser) -> None:
    """The arguments of ``launch``."""
    verb.add_argument("--repeats", type=int, choices=range(1, 1001), default=10, metavar="N")
    verb.add_argument("--start", choices=STARTS, default="warm", help="the start condition (warm)")
    verb.add_argument(
        "--by",
        choices=list(WAYS),
        help="what its windows are seen by (wayland in a Wayland session, else x)",
    )
    verb.add_argument(
        "--quiet-window",
        type=positive,
        default=LaunchPlan().quiet_s,
        metavar="SECONDS",
        help="settled when nothing was painted for so long (0.7)",
    )
    verb.add_argument(
        "--small-area",
        type=int,
        default=LaunchPlan().small_area,
        metavar="PIXELS",
        help="paints up to this area, such as a caret, do not count (900)",
    )
    verb.add_argument("--limit", type=positive, default=LaunchPlan().limit_s, metavar="SECONDS")
    verb.add_argument(
        "--quiet-limit",
        type=positive,
        default=30.0,
        metavar="SECONDS",
        help="how long to wait for a quiet machine before each launch (30)",
    )
    verb.add_argument(
        "--user",
        metavar="NAME",
        help="as root: the session's user, as whom applications are started",
    )
    verb.add_argument("command", nargs=argparse.REMAINDER, help="-- COMMAND … or NAME.desktop")

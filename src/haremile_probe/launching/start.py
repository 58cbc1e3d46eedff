"""What is asked of a launch, and what was seen of it; and bringing one about."""

import errno
import os
import shutil
import subprocess
import time
import uuid
from enum import Enum
from functools import partial
from typing import Callable, Dict, NamedTuple, Optional, Sequence, Set

from haremile_probe.launching.memory import cpu_seconds, memory_of
from haremile_probe.launching.process_tree import MARKER, end_launch, launched
from haremile_probe.launching.start_condition import mapped_files, paging_counters
from haremile_probe.runtime import MissingHere
from haremile_probe.session_user import SessionUser, become, environment_for

SMALL_AREA = 900
"""Paints up to this many square pixels are carets and spinners: they do not unsettle a window."""

NO_WINDOW_GRACE_S = 1.5


class DisplayGone(MissingHere):
    """What shows the windows went away while it was watched."""


class Outcome(Enum):
    """How a launch ended; the first two give readings."""

    WINDOW = "window"
    SPLASH = "splash then window"
    HANDED_OVER = "handed over to a running instance"
    NO_WINDOW = "exited without a window"
    NOT_FOUND = "command not found"
    NOT_EXECUTABLE = "not executable"
    SPLASH_THEN_EXIT = "splash then exit"
    DIALOG = "a dialog and no main window"
    WINDOW_GONE = "the window went away"
    TIMED_OUT = "timed out"
    NOT_SETTLED = "timed out: the window did not settle"
    WINDOW_THEN_EXIT = "window then exit"
    NOT_SEEN = "cannot be seen this way"
    HELD = "held, to be seen from outside"

    @property
    def gives_readings(self) -> bool:
        """Whether its times are those of a launch."""
        return self in (Outcome.WINDOW, Outcome.SPLASH)


class LaunchPlan(NamedTuple):
    """How launches are watched, in seconds and square pixels.

    `user` is whose session it is, None where we are that user. Nothing has settled before
    `least_s`. `main_no` says which of its windows, in order, is the main one; with `learn_s` that
    is found out: so long it is watched whether the first window gives way to another.
    """

    quiet_s: float = 0.7
    limit_s: float = 30.0
    small_area: int = SMALL_AREA
    user: Optional[SessionUser] = None
    least_s: float = 0.0
    main_no: int = 1
    learn_s: float = 0.0


class Launch(NamedTuple):
    """What was seen of one launch; times in seconds since the spawn, None where not reached.

    `spawned` is the instant of the spawn on the monotonic clock; `memory` is the PSS of all its
    processes at rest, bytes, and `shared` how much of it others share; `held_s` is how long it was
    held for who looks from outside.
    """

    outcome: Outcome
    detail: str
    spawned: float
    window_s: Optional[float] = None
    main_s: Optional[float] = None
    paint_s: Optional[float] = None
    settled_s: Optional[float] = None
    matched_by: Optional[str] = None
    mapped_via: Optional[str] = None
    cpu_s: Optional[float] = None
    memory: Optional[int] = None
    shared: Optional[int] = None
    held_s: Optional[float] = None
    paging: Optional[Dict[str, int]] = None
    files: Sequence[str] = ()
    main_no: int = 1


def ending_of(outcome: Outcome, code: Optional[int]) -> str:
    """More of how a launch ended: with which code or signal, None for none yet."""
    if outcome is Outcome.NOT_SETTLED:
        return "its picture changed until the end: it may animate for ever"
    if code is None:
        return ""
    return "signal %d" % -code if code < 0 else "code %d" % code


class Started(NamedTuple):
    """What was just started: its process, what marks everything that comes of it, which processes
    were there before, and the instant (monotonic, seconds)."""

    child: "subprocess.Popen[bytes]"
    marker: str
    startup: str
    before: Set[int]
    spawned: float

    def tree(self) -> Set[int]:
        """Everything that it brought about and that still lives."""
        return launched(self.child.pid, self.marker, self.before)


Watched = Callable[[Started], Launch]


def start_and_watch(
    command: Sequence[str], plan: LaunchPlan, changes: Dict[str, str], watched: Watched
) -> Launch:
    """Start a command, have it watched until the outcome is known, and end it again.

    `changes` are what its environment has beyond the session's.
    """
    before = {int(name) for name in os.listdir("/proc") if name.isdigit()}
    marker = uuid.uuid4().hex
    startup = "haremile-%d_TIME%d" % (os.getpid(), int(time.monotonic() * 1000) & 0x7FFFFFFF)
    own = {**os.environ, MARKER: marker, "DESKTOP_STARTUP_ID": startup}
    environment = {**environment_for(plan.user, own), **changes}
    paging = paging_counters()
    if shutil.which(command[0]) is None:
        is_there = os.path.isfile(command[0])
        outcome = Outcome.NOT_EXECUTABLE if is_there else Outcome.NOT_FOUND
        said = "no right to execute it, or no program" if is_there else "No such file"
        return Launch(outcome, "%s: %s" % (command[0], said), time.monotonic())
    spawned = time.monotonic()
    try:
        child = subprocess.Popen(
            list(command),
            env=environment,
            stdin=subprocess.DEVNULL,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
            start_new_session=True,
            preexec_fn=None if plan.user is None else partial(become, plan.user),  # noqa: PLW1509  # no thread of the probe holds a lock that it needs
            cwd=None if plan.user is None else plan.user.home,
        )
    except OSError as error:
        outcome = Outcome.NOT_FOUND if error.errno == errno.ENOENT else Outcome.NOT_EXECUTABLE
        return Launch(outcome, "%s: %s" % (command[0], error.strerror), spawned)
    started = Started(child, marker, startup, before, spawned)
    try:
        found = watched(started)
        after, tree = paging_counters(), started.tree()
        size = memory_of(tree) if found.outcome.gives_readings else None
        return found._replace(
            paging={name: after[name] - paging[name] for name in paging},
            files=sorted(mapped_files(tree)),
            cpu_s=cpu_seconds(tree),
            memory=None if size is None else size.pss,
            shared=None if size is None else size.shared,
        )
    finally:
        end_launch(child, marker, before)

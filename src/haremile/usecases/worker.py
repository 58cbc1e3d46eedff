"""One worker on one study: what it has under way, and what ends its work."""

import logging
import threading
from collections import defaultdict
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import TypeVar
from uuid import UUID

from tenacity import Retrying, retry_if_exception_type, wait_exponential
from tenacity.nap import sleep_using_event
from tenacity.stop import stop_when_event_set

from haremile.core.records.rigs import rig_traits
from haremile.errors import HareMileError, RigRestsError, StoreUnavailableError
from haremile.usecases.ports import Lease, StudyLease

log = logging.getLogger(__name__)

BEAT_S = 5.0
REST_S = 0.2
"""How long a thread waits where another run occupies its host."""

LONGEST_PAUSE_S = 5.0
"""Between two tries to reach a database that is away."""

AT_ONCE = threading.BoundedSemaphore(3)
"""Threads that speak with the database at once: more of them only wait for one another there."""

RESTS_AFTER = 3
"""Failures in a row after which a rig rests on a machine."""

Answer = TypeVar("Answer")


@dataclass
class Worker:
    """The state that the threads of one `conduct` share.

    Attributes
    ----------
    ended : Event
        Set where no further run is wanted here, and waiting is over.
    cut : set
        Runs whose result does not count any more: stopped, overtaken, or left to another.
    late : set
        Runs that were ended because their time was over.
    """

    study_id: UUID
    study_lease: StudyLease
    asked_to_stop: Callable[[], bool]
    may_end_early: bool = False
    under_way: dict[UUID, Lease] = field(default_factory=dict)
    ended: threading.Event = field(default_factory=threading.Event)
    over: threading.Event = field(default_factory=threading.Event)
    moved: threading.Condition = field(default_factory=threading.Condition)
    cut: set[UUID] = field(default_factory=set)
    late: set[UUID] = field(default_factory=set)
    resting: dict[str, RigRestsError] = field(default_factory=dict)
    strikes: dict[tuple[str, str], int] = field(default_factory=lambda: defaultdict(int))

    def steady(self, call: Callable[[], Answer]) -> Answer:
        """Do something with the database, again and again while it is away, until the worker ends.

        Raises
        ------
        StoreUnavailableError
            If the worker ended first.
        """
        retrying = Retrying(
            retry=retry_if_exception_type(StoreUnavailableError),
            wait=wait_exponential(0.1, max=LONGEST_PAUSE_S),
            stop=stop_when_event_set(self.ended),
            sleep=sleep_using_event(self.ended),
            reraise=True,
        )

        def in_turn() -> Answer:
            with AT_ONCE:
                return call()

        return retrying(in_turn)

    def rest(self) -> None:
        """Wait a moment, or until one of its runs is over."""
        with self.moved:
            self.moved.wait(REST_S)

    def wake(self) -> None:
        """A run is over: what waits for its host may look again."""
        with self.moved:
            self.moved.notify_all()

    def count(self, lease: Lease, failure: str | None) -> RigRestsError | None:
        """Count failures in a row of a rig on a machine; what is to be said where it rests now."""
        machine = lease.install.machine.name
        key = (lease.install.rig or "", machine)
        self.strikes[key] = self.strikes[key] + 1 if failure else 0
        if self.strikes[key] < RESTS_AFTER or rig_traits(lease.install.rig).is_person:
            return None
        self.resting[machine] = RigRestsError(
            f"{machine} rests after {RESTS_AFTER} failed runs in a row; the last one {failure}. "
            "See to it, plan the failed runs again, and go on"
        )
        return self.resting[machine]

    def keep_beating(self, lost: Callable[[UUID], None], beat_s: float = BEAT_S) -> None:
        """Give signs of life until the work is over; `lost` is told of runs no longer its own."""
        while not self.over.wait(beat_s):
            runs = list(self.under_way)
            try:
                kept = self.study_lease.beat(runs)
            except HareMileError as error:
                log.warning("no sign of life could be given: %s", error)
                continue
            for run_id in set(runs) - kept:
                if run_id in self.under_way:
                    self.cut.add(run_id)
                    lost(run_id)

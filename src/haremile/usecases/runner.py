"""Studies that run in the background of the server."""

import logging
import threading
import time
from collections.abc import Callable
from uuid import UUID

from haremile.core.records.study import StudyState
from haremile.errors import ConflictError, HareMileError
from haremile.usecases.conduct import Conductor
from haremile.usecases.ports import EventLog, StudyRepository

log = logging.getLogger(__name__)

STOP_S = 10.0


class StudyRunner:
    """One thread for each study that runs.

    Parameters
    ----------
    proved : callable
        The system that is being proved just now, None where none is.
    """

    def __init__(
        self,
        conductor: Conductor,
        studies: StudyRepository,
        events: EventLog,
        proved: Callable[[], str | None] = lambda: None,
    ):
        self._conductor, self._studies, self._events = conductor, studies, events
        self._proved = proved
        self._pauses: dict[UUID, threading.Event] = {}
        self._threads: dict[UUID, threading.Thread] = {}
        self._guard = threading.Lock()

    def start(self, study_id: UUID) -> None:
        """Begin or go on with a study. Raises ConflictError where it runs here already, or
        a system is being proved, which would disturb it."""
        self._conductor.check(study_id)
        self.check_calm()
        with self._guard:
            if self._is_alive(study_id):
                raise ConflictError("this study is running already")
            pause = threading.Event()
            thread = threading.Thread(
                target=self._run, args=(study_id, pause), name=f"study-{study_id}", daemon=True
            )
            self._pauses[study_id], self._threads[study_id] = pause, thread
            self._events.add("study.starting", study_id)
            thread.start()

    def check_calm(self) -> None:
        """Raises ConflictError where something goes on here that would disturb a study."""
        if (proved := self._proved()) is not None:
            raise ConflictError(
                f"{proved} is being proved, which would disturb the study; wait, or end that boot"
            )

    def pause(self, study_id: UUID) -> None:
        """Pause after the run that is under way. Raises ConflictError where none is."""
        with self._guard:
            if self._is_alive(study_id):
                self._pauses[study_id].set()
            elif self._conductor.is_at_work(study_id):  # another program's conductor
                self._studies.set_state(study_id, StudyState.PAUSED)
            else:
                raise ConflictError("this study is not running")
        self._events.add("study.pausing", study_id)

    def is_pausing(self, study_id: UUID) -> bool:
        """Whether the study pauses after the run that is under way."""
        with self._guard:
            return self._is_alive(study_id) and self._pauses[study_id].is_set()

    def stop_now(self, study_id: UUID) -> None:
        """End the run that is under way at once; it is planned again. Raises ConflictError where
        the study is not running."""
        with self._guard:
            if not (self._is_alive(study_id) or self._conductor.is_at_work(study_id)):
                raise ConflictError("this study is not running")
        self._conductor.cut(study_id)

    def take_up_interrupted(self) -> None:
        """Go on with studies that were running when their conductor went away."""
        for digest in self._studies.digests():
            if digest.state is StudyState.RUNNING and digest.can_run:
                try:
                    self.start(digest.id)
                except ConflictError as error:
                    log.warning("%s is not taken up again: %s", digest.title, error)

    def join(self) -> None:
        """Wait until every study here is done or paused."""
        for thread in list(self._threads.values()):
            thread.join()

    def drain(self, seconds: float) -> None:
        """Begin no further run, and wait at most so long for those under way; the next start takes
        the studies up again."""
        with self._guard:
            drained = [
                key
                for key, pause in self._pauses.items()
                if self._is_alive(key) and not pause.is_set()
            ]
            if seconds > 0:
                for key in drained:
                    self._pauses[key].set()
        end = time.monotonic() + seconds
        for key in drained:
            self._threads[key].join(max(0.0, end - time.monotonic()))
            if seconds > 0 and self._studies.get(key).state is StudyState.PAUSED:
                self._studies.set_state(key, StudyState.RUNNING)

    def stop(self) -> None:
        """End every study here at once; the next start takes them up again."""
        self._conductor.abandon()
        for thread in list(self._threads.values()):
            thread.join(STOP_S)

    def _is_alive(self, study_id: UUID) -> bool:
        thread = self._threads.get(study_id)
        return thread is not None and thread.is_alive()

    def _run(self, study_id: UUID, pause: threading.Event) -> None:
        try:
            self._conductor.conduct(study_id, pause.is_set)
        except HareMileError as error:
            log.error("the study stopped: %s", error)
            self._tell_stopped(study_id, str(error))

    def _tell_stopped(self, study_id: UUID, reason: str) -> None:
        try:
            self._events.add("study.stopped", study_id, reason=reason)
        except HareMileError as error:
            log.error("and that could not be kept: %s", error)

"""Every error that Hare Mile raises on purpose.

::

    HareMileError
    ├── BadInputError               what was asked for is not valid       exit 2, 422
    │   ├── UnknownMetricError
    │   ├── UnitError
    │   ├── SampleError             values that no statistic is defined on
    │   └── ReadingsFileError       a readings file with faults, refused whole
    ├── NotAllowedError             not in this role, or another's        exit 1, 403
    ├── NotFoundError               no such study, run, capture           exit 2, 404
    │   └── DeletedError            it was there, and was deleted for good        410
    ├── ConflictError               the state does not allow it           exit 1, 409
    │   ├── CaptureConflictError    the same id with other bytes
    │   ├── StaleAttemptError       an attempt that was overtaken
    │   └── RigRestsError           a rig that failed three times in a row
    ├── MissingHereError            this machine lacks something          exit 3, 503
    ├── StoreUnavailableError       the database does not answer          exit 1, 503
    └── RunFailedError              a run that gave no readings; its reason is a result
        ├── RunTimedOutError        no result within the procedure's time
        ├── NotMeasuredError        a fault of ours, never counted against the system
        │   └── NoSpaceError        the disk changes of a guest have no room
        ├── GuestHungError
        ├── GuestPanickedError
        └── GuestDiedError

This module imports nothing and may be imported by all.
"""


class HareMileError(Exception):
    """Base of all errors that are answered with a sentence rather than a traceback."""


class BadInputError(HareMileError):
    """What was asked for is not valid; the message repeats the bad value."""


class UnknownMetricError(BadInputError):
    """A metric key that is not in the catalogue."""

    def __init__(self, key: str, known: list[str]) -> None:
        self.key = key
        near = ", ".join(sorted(known))
        super().__init__(f"unknown metric: {key}; expected one of {near}, or own.*")


class UnitError(BadInputError):
    """A unit that is unknown or does not measure what the metric measures."""


class SampleError(BadInputError):
    """Values on which the asked statistic is not defined."""


class ReadingsFileError(BadInputError):
    """A readings file that was refused whole.

    `faults` holds ``(line, column, what)`` in file order.
    """

    SHOWN = 20

    def __init__(self, faults: list[tuple[int, int, str]], is_cut: bool = False) -> None:
        self.faults = tuple(faults)
        count = len(self.faults)
        noun = "fault" if count == 1 else "faults and perhaps more" if is_cut else "faults"
        head = f"the readings file was refused whole: {count} {noun}"
        lines = [
            f"line {line}, column {column}: {what}"
            for line, column, what in self.faults[: self.SHOWN]
        ]
        if count > self.SHOWN:
            lines.append(f"and {count - self.SHOWN} more")
        super().__init__("\n".join([head, *lines]))


class NotAllowedError(HareMileError):
    """Somebody asked for what is not theirs: another role's, another machine's."""


class NotFoundError(HareMileError):
    """Something was named that the bench book does not hold."""

    def __init__(self, noun: str, key: object) -> None:
        super().__init__(f"no {noun} {key}")


class DeletedError(NotFoundError):
    """Something was named that was deleted for good."""

    def __init__(self, noun: str, key: object) -> None:
        super().__init__(noun, key)
        self.args = (f"this {noun} was deleted for good: {key}",)


class ConflictError(HareMileError):
    """What was asked for does not fit the present state."""


class CaptureConflictError(ConflictError):
    """A capture arrived under a known id with other bytes."""


class StaleAttemptError(ConflictError):
    """An attempt tried to write after it had been overtaken by a later one."""


class RigRestsError(ConflictError):
    """A rig that failed too often in a row; its study waits for a person."""


class MissingHereError(HareMileError):
    """A program, file or right that this machine lacks; the message says what to do."""


class StoreUnavailableError(HareMileError):
    """The database does not answer."""


class RunFailedError(HareMileError):
    """A run that ended without readings.

    `reason` is one of the short words shown in the run sheet; `log_tail` is the end of what the
    machine said.
    """

    reason = "failed"

    def __init__(self, message: str, log_tail: str = "", evidence: tuple[object, ...] = ()) -> None:
        super().__init__(message)
        self.log_tail = log_tail
        self.evidence = tuple(evidence)


class RunTimedOutError(RunFailedError):
    """A run that gave no result within its procedure's time."""

    reason = "timed out"


class NotMeasuredError(RunFailedError):
    """It could not be measured, by a fault of ours or for want of a right: never counted against
    the system."""

    reason = "could not measure"


class NoSpaceError(NotMeasuredError):
    """There is no room for the disk changes of a guest."""

    reason = "no space"


class GuestHungError(RunFailedError):
    """The guest did not reach the awaited mark in time."""

    reason = "timed out"


class GuestPanickedError(RunFailedError):
    """The guest's kernel gave up."""

    reason = "panicked"


class GuestDiedError(RunFailedError):
    """The guest's process ended while it was still needed."""

    reason = "died"

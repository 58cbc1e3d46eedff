"""What works on a system, what fails, what was never tried: by machine."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum
from uuid import UUID

from haremile.core.standing.fitting import Fit, FitReason
from haremile.core.statistics.proportions import Proportion, proportion
from haremile.errors import BadInputError


class Works(StrEnum):
    """Whether something works; the worst last."""

    WORKS = "works"
    STEP = "works after a step"
    SOMETIMES = "works sometimes"
    FAILS = "fails"
    NOT_TRIED = "not tried"


SUBJECTS = (
    "wireless",
    "wired network",
    "sound",
    "microphone",
    "camera",
    "bluetooth",
    "printing",
    "scanning",
    "sleep and wake",
    "screen brightness",
    "second screen",
    "touchpad",
    "a picture opens",
    "a sound file plays",
    "a clip plays",
    "a document opens",
    "an archive unpacks",
)
"""What is asked of every system; a tester adds more."""

MOST_TRIES = 10_000


@dataclass(frozen=True)
class WorksItem:
    """What was seen of one subject; `machine` is None where it holds for any. `step` says what has
    to be done, `worked` of `tried` count what works sometimes."""

    id: UUID
    system: UUID
    machine: UUID | None
    subject: str
    works: Works
    step: str = ""
    worked: int | None = None
    tried: int | None = None
    note: str = ""
    at: datetime | None = None


def checked_item(item: WorksItem) -> WorksItem:
    """The same item.

    Raises
    ------
    BadInputError
        If a step or a count is missing, or is given where it says nothing.
    """
    if (item.works is Works.STEP) != bool(item.step):
        raise BadInputError(
            "say which step makes it work"
            if item.works is Works.STEP
            else f"{item.works} has no step"
        )
    counts = (item.worked, item.tried)
    if item.works is not Works.SOMETIMES:
        if counts != (None, None):
            raise BadInputError(f"{item.works} has no count")
        return item
    if item.worked is None or item.tried is None:
        raise BadInputError("say how often it was tried, and how often it worked")
    if not 0 < item.worked < item.tried <= MOST_TRIES:
        raise BadInputError(
            f"{item.worked} of {item.tried}; what works sometimes worked once at least, and failed "
            f"once at least, in {MOST_TRIES} tries at most"
        )
    return item


def works_share(item: WorksItem) -> Proportion | None:
    """How often it works, with its interval; None where it was not counted."""
    if item.worked is None or item.tried is None:
        return None
    return proportion(item.worked, item.tried)


def works_text(item: WorksItem) -> str:
    """What was seen, in words."""
    if item.works is Works.STEP:
        return f"works after a step: {item.step}"
    if item.works is Works.SOMETIMES:
        return f"works {item.worked} times of {item.tried}"
    return str(item.works)


def newest(items: Sequence[WorksItem]) -> list[WorksItem]:
    """The newest word on each subject of a system on a machine; `items` are in order of time."""
    return list({(one.system, one.machine, one.subject.casefold()): one for one in items}.values())


_FITS = {Works.WORKS: Fit.YES, Works.STEP: Fit.YES, Works.SOMETIMES: Fit.MAYBE, Works.FAILS: Fit.NO}


def works_fit(needed: str, items: Sequence[WorksItem]) -> FitReason:
    """Whether a system has what is needed, by the newest word on that machine."""
    found = [one for one in items if one.subject.casefold() == needed.casefold()]
    if not found or found[-1].works is Works.NOT_TRIED:
        return FitReason(Fit.MAYBE, f"{needed} was not tried on this machine", works=needed)
    item = found[-1]
    fit = _FITS[item.works]
    asked = needed if fit is Fit.MAYBE else None
    return FitReason(fit, f"{needed} {works_text(item)}", works=asked)

"""Whether a system fits a machine: a no with its reason, a maybe with what would settle it."""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from haremile.core.records.metrics import value_text


class Fit(StrEnum):
    """Whether it fits; the best first."""

    YES = "fits"
    MAYBE = "maybe"
    NO = "does not fit"


@dataclass(frozen=True)
class FitReason:
    """One thing that was looked at; `metric` is what would settle a maybe, None where nothing that
    is measured does; `works` is what would have to be tried."""

    fit: Fit
    says: str
    metric: str | None = None
    works: str | None = None


def memory_fits(
    have: float, least: float | None, idle: float | None, claimed: float | None
) -> FitReason:
    """Whether so much memory is enough; all amounts in bytes.

    Parameters
    ----------
    have : float
    least : float or None
        The least memory in which it was seen to get ready.
    idle : float or None
        What it uses when idle, measured.
    claimed : float or None
        What its makers say it needs at least.
    """
    size = value_text(have, "B")
    if least is not None:
        needs = f"gets ready with {value_text(least, 'B')}, measured"
        return FitReason(Fit.YES if least <= have else Fit.NO, needs)
    if idle is not None and idle >= have:
        return FitReason(Fit.NO, f"uses {value_text(idle, 'B')} when idle, measured")
    if claimed is not None and claimed > have:
        said = f"needs {value_text(claimed, 'B')} by its makers’ word, not measured"
        return FitReason(Fit.NO, said)
    if claimed is not None:
        said = f"{value_text(claimed, 'B')} is enough by its makers’ word, not measured"
        return FitReason(Fit.MAYBE, said, "least.memory")
    beside = f"; it uses {value_text(idle, 'B')} when idle" if idle is not None else ""
    return FitReason(Fit.MAYBE, f"nobody tried it with {size}{beside}", "least.memory")


def space_fits(have: float, used: float | None, claimed: float | None) -> FitReason:
    """Whether so much space is enough, in bytes: measured in use, else as its makers say."""
    if used is not None:
        return FitReason(
            Fit.YES if used < have else Fit.NO,
            f"takes {value_text(used, 'B')} of space, measured",
        )
    if claimed is not None:
        said = f"needs {value_text(claimed, 'B')} of space by its makers’ word, not measured"
        return (
            FitReason(Fit.NO, said) if claimed > have else FitReason(Fit.MAYBE, said, "disk.used")
        )
    return FitReason(Fit.MAYBE, "its space was not measured", "disk.used")


def architecture_fits(wanted: str, own: str | None) -> FitReason:
    """Whether it is made for this architecture."""
    if own is None:
        return FitReason(Fit.MAYBE, "its architecture is not stated in the library")
    if own.strip().lower() == wanted.strip().lower():
        return FitReason(Fit.YES, f"made for {own}")
    return FitReason(Fit.NO, f"made for {own}, not {wanted}")


def cores_fit(have: float, claimed: float) -> FitReason:
    """Whether so many cores are enough, as its makers say."""
    said = f"needs {claimed:g} cores by its makers’ word, not measured"
    return FitReason(Fit.NO if claimed > have else Fit.YES, said)


def overall(reasons: Sequence[FitReason]) -> Fit:
    """The worst of all: one no is a no."""
    order = list(Fit)
    return max((one.fit for one in reasons), key=order.index, default=Fit.MAYBE)

"""The one place where arguments of the statistics are checked."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from haremile.errors import SampleError

FloatArray = NDArray[np.float64]

SMALLEST, LARGEST = 1e-60, 1e60
"""Sizes that can be calculated with: their fourth powers are still doubles. What is smaller counts
as zero, what is larger is refused."""


def as_sample(values: Sequence[float] | FloatArray, name: str = "values") -> FloatArray:
    """Return `values` as a one-dimensional array of finite doubles, at least one.

    Raises
    ------
    SampleError
        If it is empty, not one-dimensional, or holds a value that is not finite or too large to
        be calculated with.
    """
    array = np.asarray(values, dtype=np.float64)
    if array.ndim != 1:
        raise SampleError(f"{name} must be one row of numbers, not of shape {array.shape}")
    if array.size == 0:
        raise SampleError(f"{name} must hold at least one number")
    sizes = np.abs(array)
    if not sizes.max() <= LARGEST:  # also where one is no number
        raise _refused(array, name)
    tiny = sizes < SMALLEST
    return np.where(tiny, 0.0, array) if tiny.any() else array


def _refused(array: FloatArray, name: str) -> SampleError:
    """What is said of the first value that cannot be calculated with."""
    bad = np.flatnonzero(~np.isfinite(array))
    if bad.size:
        return SampleError(f"{name} must be finite; position {bad[0]} is {array[bad[0]]}")
    place = np.flatnonzero(np.abs(array) > LARGEST)[0]
    return SampleError(
        f"{name} must be no larger than {LARGEST:g}; position {place} is {array[place]}"
    )


def as_ranked(values: Sequence[float] | FloatArray, name: str = "values") -> FloatArray:
    """As `as_sample`, but +infinity is allowed: a run that was slower than its time limit.

    At least one value must be finite.

    Raises
    ------
    SampleError
        If there is none, or a value is neither finite nor +infinity.
    """
    array = np.asarray(values, dtype=np.float64)
    beyond = array == np.inf
    if array.ndim != 1 or not beyond.any():
        return as_sample(array, name)
    checked = array.copy()
    checked[~beyond] = as_sample(array[~beyond], name)
    return checked


def as_level(level: float) -> float:
    """Return a confidence level, checked to lie strictly between 0 and 1."""
    if not 0.0 < level < 1.0:
        raise SampleError(f"level must lie between 0 and 1, not {level}")
    return float(level)


def are_whole(values: FloatArray) -> bool:
    """Whether every value is a whole number, as counts are."""
    return bool(np.all(values == np.round(values)))

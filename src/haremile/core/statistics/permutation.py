"""Permutation test of two lanes: every way of dealing the readings out again."""

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from itertools import combinations, islice

import numpy as np
from numpy.typing import NDArray

from haremile.core.statistics.validation import FloatArray, as_sample

ENUMERATED_UP_TO = 200_000
DRAWS = 20_000
CHUNK = 20_000

RowStatistic = Callable[[FloatArray], FloatArray]
"""From arrays of shape (m, n) to one figure for each row, shape (m,)."""


@dataclass(frozen=True)
class PermutationTest:
    """Difference of a statistic, b − a, against all arrangements of the readings.

    `p_two_sided` counts arrangements at least as far from nought as what was observed.
    `method` is ``all arrangements`` or ``drawn arrangements``; with drawn ones what was observed
    counts as one more, so that p is never 0.
    """

    observed: float
    arrangements: int
    p_greater: float
    p_less: float
    p_two_sided: float
    method: str


def row_medians(rows: FloatArray) -> FloatArray:
    """The median of each row."""
    found: FloatArray = np.median(rows, axis=1)
    return found


def permutation_test(
    a: Sequence[float] | FloatArray,
    b: Sequence[float] | FloatArray,
    statistic: RowStatistic = row_medians,
    seed: int = 0,
) -> PermutationTest:
    """Test B against A by rearranging.

    Parameters
    ----------
    a, b : array_like, shapes (n_a,) and (n_b,)
    statistic : function of rows
        Its difference, b − a, is tested; the median unless stated.
    seed : int
        Of the arrangements drawn where there are more than 200,000.

    Notes
    -----
    Values equal but for rounding count as equal. Source: Fisher, The Design of Experiments, 1935;
    for drawn arrangements Phipson & Smyth, Statistical Applications in Genetics and Molecular
    Biology 9, 2010.
    """
    first, second = as_sample(a, "a"), as_sample(b, "b")
    every = np.concatenate([first, second])
    observed = float((statistic(second[None, :]) - statistic(first[None, :]))[0])
    slack = 1e-12 * max(float(np.abs(every).max()), 1e-300)
    total = math.comb(every.size, second.size)
    is_full = total <= ENUMERATED_UP_TO
    chunks = _all_choices(every.size, second.size) if is_full else _draws(every, second.size, seed)
    above = below = far = 0
    for chosen in chunks:
        found = _differences(every, chosen, statistic)
        above += int((found >= observed - slack).sum())
        below += int((found <= observed + slack).sum())
        far += int((np.abs(found) >= abs(observed) - slack).sum())
    extra, count = (0, total) if is_full else (1, DRAWS + 1)
    shares = [(hits + extra) / count for hits in (above, below, far)]
    method = "all arrangements" if is_full else "drawn arrangements"
    return PermutationTest(observed, count, shares[0], shares[1], shares[2], method)


def _all_choices(n: int, size: int) -> Iterator[NDArray[np.int_]]:
    every = combinations(range(n), size)
    while chunk := list(islice(every, CHUNK)):
        yield np.array(chunk)


def _draws(every: FloatArray, size: int, seed: int) -> list[NDArray[np.int_]]:
    generator = np.random.default_rng(seed)
    return [np.argsort(generator.random((DRAWS, every.size)), axis=1)[:, :size]]


def _differences(
    every: FloatArray, chosen: NDArray[np.int_], statistic: RowStatistic
) -> FloatArray:
    is_b = np.zeros((len(chosen), every.size), dtype=bool)
    np.put_along_axis(is_b, chosen, True, axis=1)
    rows = np.broadcast_to(every, is_b.shape)
    size = chosen.shape[1]
    of_b = statistic(rows[is_b].reshape(len(chosen), size))
    return of_b - statistic(rows[~is_b].reshape(len(chosen), every.size - size))

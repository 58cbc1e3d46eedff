"""How the error of a family is shared out over all pairs of its lanes."""

import math
from functools import lru_cache

from scipy import special, stats

from haremile.errors import SampleError


@lru_cache(maxsize=4096)
def error_of_pair(error: float, lanes: int) -> float:
    """Two-sided error of each pair, at which all pairs together err in at most `error` of families.

    Parameters
    ----------
    error : float
        Between 0 and 1.
    lanes : int
        Of the family; all their pairs are compared.

    Raises
    ------
    SampleError
        If there are fewer than two lanes.

    Notes
    -----
    Pairs that share a lane err together, so that each may err in more than its even part: by a
    fifth at three lanes, a half at eight. The joint distribution of the largest of all pairs'
    statistics is that of a studentised range. Sources: Tukey, The Problem of Multiple Comparisons,
    1953; for ranks of pairs, Steel, Biometrics 17, 1961, and Dwass, 1960.
    """
    if lanes < 2:
        raise SampleError(f"a comparison takes two lanes, not {lanes}")
    if lanes == 2:
        return error
    largest = float(stats.studentized_range.isf(error, lanes, math.inf))
    return 2.0 * float(special.ndtr(-largest / math.sqrt(2.0)))

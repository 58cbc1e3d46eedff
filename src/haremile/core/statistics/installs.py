"""Two systems of which several installs were measured: the install is what is repeated."""

import math
from collections.abc import Mapping, Sequence

import numpy as np

from haremile.core.statistics.contrast import Contrast, Estimate, chances
from haremile.core.statistics.lane_statistics import Interval
from haremile.core.statistics.location_tests import welch
from haremile.core.statistics.validation import FloatArray, as_sample
from haremile.errors import SampleError

Installs = Mapping[str, Sequence[float] | FloatArray]


def contrast_of_installs(a: Installs, b: Installs, level: float = 0.95) -> Contrast:
    """Compare B with A from the means of their installs.

    Parameters
    ----------
    a, b : mapping of install name to its readings, shapes (n_i,)
        Two installs or more of each system, one unit.
    level : float

    Returns
    -------
    Contrast
        Method ``install means``: shift and ratio with Welch's t interval of the installs' means
        and of their logarithms. Chance and delta are over all pairs of readings.

    Raises
    ------
    SampleError
        If a system has one install only, or the means do not vary at all.

    Notes
    -----
    Boots of one install speak of that install alone; the degrees of freedom are those of the
    installs. Source: Welch, Biometrika 34, 1947; Hurlbert, Ecological Monographs 54, 1984, on the
    unit of replication.
    """
    first, second = _means(a, "a"), _means(b, "b")
    shift = _estimate(first, second, level)
    logs = None
    if min(first.min(), second.min()) > 0.0:
        logs = _estimate(np.log(first), np.log(second), level)
    pooled = [np.concatenate([as_sample(x) for x in lanes.values()]) for lanes in (a, b)]
    lower, higher = chances(pooled[0], pooled[1])
    ratio = logs and Estimate(math.exp(logs.value), logs.interval.mapped(math.exp))
    return Contrast(
        n_a=pooled[0].size,
        n_b=pooled[1].size,
        shift=shift,
        ratio=ratio,
        probability_b_lower=lower + (1.0 - higher - lower) / 2.0,
        cliffs_delta=higher - lower,
        method="install means",
    )


def _means(installs: Installs, name: str) -> FloatArray:
    if len(installs) < 2:
        raise SampleError(f"{name} needs two installs or more, not {len(installs)}")
    samples = [as_sample(values, install) for install, values in installs.items()]
    return np.array([math.fsum(sample) / sample.size for sample in samples])


def _estimate(a: FloatArray, b: FloatArray, level: float) -> Estimate:
    found = welch(a, b, level)
    if found.low is None or found.high is None:
        raise SampleError(
            "the installs' means do not vary; no interval can be calculated from them"
        )
    return Estimate(found.difference, Interval(found.low, found.high, level))

"""Several lanes at once, as the opening look only: no verdict is read from these tests."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy import stats

from haremile.core.statistics.validation import FloatArray, as_ranked, as_sample
from haremile.errors import SampleError


@dataclass(frozen=True)
class OmnibusTest:
    """One test over all lanes.

    Attributes
    ----------
    method : str
        ``Kruskal-Wallis`` or ``Friedman``.
    statistic : float or None
        H, or Friedman's chi-square, corrected for ties; None where all readings are equal.
    df : int
    p : float or None
        From chi-square.
    effect : float or None
        Epsilon squared, or Kendall's W: 0 none, 1 all.
    """

    method: str
    statistic: float | None
    df: int
    p: float | None
    effect: float | None


def kruskal_wallis(lanes: Sequence[Sequence[float] | FloatArray]) -> OmnibusTest:
    """Do k lanes differ in location at all?

    Parameters
    ----------
    lanes : sequence of array_like, shapes (n_i,)
        At least two; +infinity for a run slower than its time limit.

    Notes
    -----
    Epsilon squared = H / (n − 1). Source: Kruskal & Wallis, Journal of the American Statistical
    Association 47, 1952; Tomczak & Tomczak, Trends in Sport Sciences 21, 2014.
    """
    samples = [as_ranked(lane, f"lane {i}") for i, lane in enumerate(lanes, 1)]
    if len(samples) < 2:
        raise SampleError(f"an opening look takes two lanes, not {len(samples)}")
    df = len(samples) - 1
    ranks = stats.rankdata(np.concatenate(samples))
    n = ranks.size
    _, ties = np.unique(ranks, return_counts=True)
    if ties.size == 1:
        return OmnibusTest("Kruskal-Wallis", None, df, None, None)
    ends = np.cumsum([sample.size for sample in samples])[:-1]
    sums = [(float(part.sum()) ** 2) / part.size for part in np.split(ranks, ends)]
    raw = 12.0 / (n * (n + 1)) * sum(sums) - 3.0 * (n + 1)
    h = raw / (1.0 - float((ties.astype(float) ** 3 - ties).sum()) / (float(n) ** 3 - n))
    return OmnibusTest("Kruskal-Wallis", h, df, float(stats.chi2.sf(h, df)), h / (n - 1))


def friedman(blocks: Sequence[Sequence[float]] | FloatArray) -> OmnibusTest:
    """Do k contenders differ over n machines (blocks) at all?

    Parameters
    ----------
    blocks : array_like, shape (n, k)
        One row for each machine, one column for each contender.

    Notes
    -----
    Kendall's W = chi-square / (n·(k − 1)). Source: Friedman, Journal of the American Statistical
    Association 32, 1937; Kendall & Babington Smith, Annals of Mathematical Statistics 10, 1939.
    """
    matrix = np.asarray(blocks, dtype=np.float64)
    if matrix.ndim != 2 or matrix.shape[1] < 2 or matrix.shape[0] < 1:
        raise SampleError(f"blocks must be rows of two or more columns, not {matrix.shape}")
    as_sample(matrix.ravel(), "blocks")
    n, k = matrix.shape
    ranks = np.array([stats.rankdata(row) for row in matrix])
    spread = float(((ranks - (k + 1) / 2.0) ** 2).sum())
    if spread == 0.0:
        return OmnibusTest("Friedman", None, k - 1, None, None)
    between = float(((ranks.sum(axis=0) - n * (k + 1) / 2.0) ** 2).sum())
    found = (k - 1) * between / spread
    p = float(stats.chi2.sf(found, k - 1))
    return OmnibusTest("Friedman", found, k - 1, p, found / (n * (k - 1)))

"""Exact null distributions of sums of ranks, ties included."""

import numpy as np

from haremile.core.statistics.validation import FloatArray


def subset_sum_shares(weights: FloatArray, size: int) -> FloatArray:
    """Share of all subsets of `size` whose weights sum to s, for s = 0 … sum of weights.

    Parameters
    ----------
    weights : ndarray of whole numbers, shape (n,)
        Doubled midranks, so that ties stay whole.
    size : int
        How many of them are drawn.

    Returns
    -------
    ndarray, shape (total + 1,)

    Notes
    -----
    Drawn one weight after the other; after the i-th, row k holds the chance that k were drawn and
    sum to s. Source: Streitberg & Röhmel, Statistical Software Newsletter 12, 1986.
    """
    whole = np.sort(weights.astype(int))
    total, n = int(whole.sum()), whole.size
    chances = np.zeros((size + 1, total + 1))
    chances[0, 0] = 1.0
    for drawn, weight in enumerate(whole):
        for k in range(min(drawn + 1, size), 0, -1):
            # every subset gets the factor k!/n^k, which keeps numbers small and goes out below
            chances[k, weight:] += k / n * chances[k - 1, : total + 1 - weight]
    row = chances[size]
    shares: FloatArray = row / row.sum()
    return shares


def signed_sum_shares(weights: FloatArray) -> FloatArray:
    """Chance that the weights that get a plus sum to s, each sign as likely as the other.

    Parameters
    ----------
    weights : ndarray of whole numbers, shape (n,)

    Returns
    -------
    ndarray, shape (total + 1,)
    """
    whole = weights.astype(int)
    chances = np.zeros(int(whole.sum()) + 1)
    chances[0] = 1.0
    for weight in whole:
        moved = np.zeros_like(chances)
        moved[weight:] = chances[: chances.size - weight]
        chances = (chances + moved) / 2.0
    return chances


def two_sided(shares: FloatArray, at: int) -> float:
    """Chance of a sum at least as far from its mean as `at`."""
    sums = np.arange(shares.size)
    mean = float((sums * shares).sum())
    far = np.abs(sums - mean) >= abs(at - mean) - 1e-9
    return min(float(shares[far].sum()), 1.0)

"""Whether it pays to compare lanes within blocks: how much of the noise lies between them."""

import math

import numpy as np
from scipy import stats

from haremile.core.statistics.validation import FloatArray
from haremile.errors import SampleError

LEAST_SHARE = 0.2
"""From which share of the noise between blocks on lanes are compared within them.

Below it the pairs cost more than they spare where noise is skewed: signed rank takes 22 repeats
where the rank sum takes 17.
"""

BY_CHANCE = 1.3
"""So many standard errors of a share that is none: a smaller one is not told from it, and taking
the form that chance favours would err too often."""

LEAST_BLOCKS = 6


def pays(share: float | None, blocks: int, lanes: int) -> bool:
    """Whether lanes are compared within blocks, at this share of the noise between them."""
    if share is None:
        return False
    return share > max(LEAST_SHARE, BY_CHANCE / math.sqrt(blocks * (lanes - 1)))


def share_between_blocks(table: FloatArray) -> float | None:
    """Share of the variance of a complete block design that lies between blocks.

    Parameters
    ----------
    table : ndarray, shape (blocks, lanes)
        A finite reading of each lane in each block.

    Returns
    -------
    float or None
        At most 1, below 0 where blocks differ by less than chance has them; None below six blocks,
        for one lane, or where nothing varies.

    Raises
    ------
    SampleError
        If a reading is missing.

    Notes
    -----
    Of ranks of what is left of each reading once its lane's median is taken off, so that one stall
    decides nothing, and who is who changes nothing. Source: moments of the one-way random model,
    Searle, Casella & McCulloch, Variance Components, 1992, section 3.6.
    """
    if not np.isfinite(table).all():
        raise SampleError("a block lacks a reading")
    blocks, lanes = table.shape
    if blocks < LEAST_BLOCKS or lanes < 2:
        return None
    left = table - np.median(table, axis=0)
    ranks = stats.rankdata(left).reshape(left.shape)
    ranks = ranks - ranks.mean(axis=0)
    means = ranks.mean(axis=1)
    between = lanes * float((means**2).sum()) / (blocks - 1)
    within = float(((ranks - means[:, None]) ** 2).sum()) / ((blocks - 1) * (lanes - 1))
    whole = between + (lanes - 1) * within
    return (between - within) / whole if whole > 0.0 else None

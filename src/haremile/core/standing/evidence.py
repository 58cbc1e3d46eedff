"""Direct and indirect evidence of a pair, and whether both agree."""

from collections import defaultdict
from collections.abc import Hashable, Sequence
from dataclasses import dataclass

import numpy as np
from scipy import stats

from haremile.core.standing.network import Network, difference_errors
from haremile.core.statistics.validation import FloatArray

ALPHA = 0.05
SAME = 1e-6
"""By how little the variances of network and direct evidence may differ, relatively, where there is
no indirect evidence."""


@dataclass(frozen=True)
class Direct:
    """What studies say of a pair in which both were measured side by side.

    `difference` is the logarithm of B's figure over A's, `variance` its variance; `groups` counts
    studies and machines.
    """

    a: str
    b: str
    difference: float
    variance: float
    groups: int


@dataclass(frozen=True)
class Disagreement:
    """A pair of which direct and indirect evidence differ; logarithms of B over A.

    `p` is of no difference between both, corrected for all pairs that were asked (Holm).
    """

    a: str
    b: str
    direct: float
    indirect: float
    p: float


def direct_evidence(
    figures: FloatArray,
    variances: FloatArray,
    groups: Sequence[Hashable],
    systems: Sequence[str],
    spread: float,
) -> dict[tuple[str, str], Direct]:
    """Every pair that was measured side by side, by its names in alphabetical order.

    Parameters
    ----------
    figures, variances : FloatArray
        Shape (n,), as `log_figures` gives them.
    spread : float
        Variance that each figure has beside its readings.
    """
    members: dict[Hashable, list[int]] = defaultdict(list)
    for position, group in enumerate(groups):
        members[group].append(position)
    sums: dict[tuple[str, str], list[float]] = defaultdict(lambda: [0.0, 0.0, 0.0])
    for positions in members.values():
        for first in positions:
            for second in positions:
                a, b = systems[first], systems[second]
                if a < b:
                    weight = 1.0 / max(
                        variances[first] + variances[second] + 2.0 * spread, np.finfo(float).tiny
                    )
                    found = sums[a, b]
                    found[0] += weight
                    found[1] += weight * (figures[second] - figures[first])
                    found[2] += 1.0
    return {
        (a, b): Direct(a, b, total / weight, 1.0 / weight, int(count))
        for (a, b), (weight, total, count) in sums.items()
    }


def disagreements(
    found: Network, direct: dict[tuple[str, str], Direct]
) -> tuple[int, tuple[Disagreement, ...]]:
    """How many pairs have evidence of both kinds, and those of which both differ.

    Notes
    -----
    Indirect evidence is what is left of the network's when the direct is taken out, by inverse
    variances (Bucher and others, Journal of Clinical Epidemiology 50, 1997; for studies of several
    contenders an approximation). Nothing is tested where the spread between studies is unknown.
    """
    if found.degrees is None:
        return 0, ()
    at = {name: place for place, name in enumerate(found.systems)}
    errors = difference_errors(found.covariance)
    asked = []
    for (a, b), one in direct.items():
        if a not in at or b not in at:
            continue
        whole = float(errors[at[a], at[b]]) ** 2
        if one.variance <= whole * (1.0 + SAME):
            continue
        other = 1.0 / (1.0 / whole - 1.0 / one.variance)
        both = float(found.effects[at[b]] - found.effects[at[a]])
        indirect = other * (both / whole - one.difference / one.variance)
        size = abs(one.difference - indirect) / float(np.sqrt(one.variance + other))
        asked.append((float(2.0 * stats.t.sf(size, found.degrees)), one, indirect))
    asked.sort(key=lambda item: item[0])
    told, bound = [], 0.0
    for place, (p, one, indirect) in enumerate(asked):
        bound = max(bound, min(1.0, p * (len(asked) - place)))
        if bound < ALPHA:
            told.append(Disagreement(one.a, one.b, one.difference, indirect, bound))
    return len(asked), tuple(told)

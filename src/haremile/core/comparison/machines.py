"""Two contenders over several machines: a ratio for each, and together."""

import itertools
import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from scipy import special

from haremile.core.statistics.contrast import Estimate, ratio_estimate
from haremile.core.statistics.lane_statistics import Interval
from haremile.core.statistics.validation import FloatArray, as_level, as_sample
from haremile.errors import SampleError

Lanes = tuple[Sequence[float] | FloatArray, Sequence[float] | FloatArray]


@dataclass(frozen=True)
class MachineRatio:
    """B against A on one machine.

    `medians` is the ratio of the two medians, the figure that enters the mean over machines;
    `typical` is the Hodges–Lehmann ratio with its interval.
    """

    machine: str
    medians: float
    typical: Estimate


@dataclass(frozen=True)
class MachinesContrast:
    """B against A over machines.

    Attributes
    ----------
    machines : tuple of MachineRatio
        In the order given.
    geometric_mean : float
        Of the ratios of medians.
    interval : Interval or None
        Student's t on logarithms, machines − 1 degrees of freedom; None for one machine or where
        all ratios are alike.
    p : float or None
        Of no difference, from the same t.
    disagree : bool
        Whether two machines decidedly point opposite ways: the interval of one lies wholly
        below 1 and that of another wholly above. The mean must then not stand alone.
    """

    machines: tuple[MachineRatio, ...]
    geometric_mean: float
    interval: Interval | None
    p: float | None
    disagree: bool


def contrast_over_machines(machines: Mapping[str, Lanes], level: float = 0.95) -> MachinesContrast:
    """Compare B with A on each machine and over all.

    Parameters
    ----------
    machines : mapping of machine name to the readings (a, b), shapes (n_a,) and (n_b,)
        Positive, in one unit.
    level : float
        Of all intervals; those of single machines achieve less with few readings, said so.

    Raises
    ------
    SampleError
        If there is no machine, or a reading is not positive.

    Notes
    -----
    The unit of replication is the machine. Source: Fleming & Wallace, Communications of the ACM
    29, 1986, for the geometric mean of ratios.
    """
    parts = [_on_machine(name, lanes, level) for name, lanes in machines.items()]
    return combined(parts, level)


def combined(
    parts: Sequence[MachineRatio], level: float = 0.95, of_machines: float | None = None
) -> MachinesContrast:
    """Put what was found on single machines together; `of_machines` is the level from which a
    machine points a way, else `level`. Errors and source as above."""
    if not parts:
        raise SampleError("there is no machine on which both were measured")
    mean, interval, p = log_mean([part.medians for part in parts], level)
    sides = {_side(part, of_machines or level) for part in parts}
    return MachinesContrast(tuple(parts), mean, interval, p, {-1, 1} <= sides)


def mirrored_machines(found: MachinesContrast) -> MachinesContrast:
    """A against B, from B against A."""
    parts = tuple(
        MachineRatio(
            one.machine,
            _inverse(one.medians),
            Estimate(_inverse(one.typical.value), one.typical.interval.turned(_inverse)),
        )
        for one in found.machines
    )
    interval = found.interval and found.interval.turned(_inverse)
    return MachinesContrast(
        parts, _inverse(found.geometric_mean), interval, found.p, found.disagree
    )


def _inverse(ratio: float) -> float:
    return math.inf if ratio == 0.0 else 1.0 / ratio


def log_mean(
    ratios: Sequence[float] | FloatArray, level: float = 0.95
) -> tuple[float, Interval | None, float | None]:
    """Geometric mean of ratios, shape (k,), with Student's t interval and p on logarithms."""
    logs = np.log(as_sample(ratios, "ratios"))
    mean = math.fsum(logs) / logs.size
    spread = float(np.std(logs, ddof=1)) if logs.size > 1 else 0.0
    if spread == 0.0:
        return math.exp(mean), None, None
    se, df = spread / math.sqrt(logs.size), logs.size - 1
    reach = float(special.stdtrit(df, 0.5 + as_level(level) / 2.0)) * se
    interval = Interval(math.exp(mean - reach), math.exp(mean + reach), level)
    return math.exp(mean), interval, 2.0 * float(special.stdtr(df, -abs(mean) / se))


def _on_machine(name: str, lanes: Lanes, level: float) -> MachineRatio:
    a, b = (as_sample(lane, name) for lane in lanes)
    typical = ratio_estimate(a, b, level)
    if typical is None:
        raise SampleError(f"a ratio takes positive readings; {name} has others")
    return MachineRatio(name, float(np.median(b)) / float(np.median(a)), typical)


def _side(part: MachineRatio, level: float) -> int:
    limits = part.typical.interval
    if limits.level < level - 1e-12:
        return 0
    return int(limits.low > 1.0) - int(limits.high < 1.0)


@dataclass(frozen=True)
class MachinesPair:
    """Column `b` against column `a` over machines; `p_adjusted` is single-step over all pairs."""

    a: int
    b: int
    geometric_mean: float
    interval: Interval | None
    p_adjusted: float | None
    disagree: bool


def machines_field(medians: FloatArray, error: float = 0.05) -> tuple[MachinesPair, ...]:
    """All pairs of contenders over machines, both directions.

    Parameters
    ----------
    medians : ndarray, shape (machines, contenders)
        Positive, in one unit.
    error : float
        Shared out over all pairs (Bonferroni).

    Notes
    -----
    Here `disagree` means that at least one machine points each way, by medians alone.
    """
    if medians.ndim != 2 or medians.shape[1] < 2:
        raise SampleError(f"medians must be rows of two or more columns, not {medians.shape}")
    if not bool((medians > 0.0).all()):
        raise SampleError("a ratio takes positive readings")
    k = medians.shape[1]
    family = k * (k - 1) // 2
    found = []
    for a, b in itertools.permutations(range(k), 2):
        ratios = medians[:, b] / medians[:, a]
        mean, interval, p = log_mean(ratios, 1.0 - error / family)
        adjusted = None if p is None else bonferroni(p, family)
        opposite = bool((ratios < 1.0).any() and (ratios > 1.0).any())
        found.append(MachinesPair(a, b, mean, interval, adjusted, opposite))
    return tuple(found)


def bonferroni(p: float, family: int) -> float:
    """A p value adjusted in a single step for a family of so many tests."""
    return min(p * family, 1.0)

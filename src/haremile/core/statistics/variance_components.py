"""Where the noise sits: between installs, between their boots, between launches of one boot."""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from scipy import optimize, stats

from haremile.core.statistics.lane_statistics import Interval
from haremile.core.statistics.validation import FloatArray, as_level, as_sample
from haremile.errors import SampleError

Groups = Sequence[Sequence[float] | FloatArray]


@dataclass(frozen=True)
class MomentComponents:
    """One-way components by moments (analysis of variance), in squared units of the readings.

    Attributes
    ----------
    n0 : float
        Boots per install that stand for unequal counts.
    mean_square_between, mean_square_within : float
    within : float
        Variance of boots within an install.
    between_raw : float
        Variance of installs as calculated; it can come out negative.
    between : float
        The same, not below 0.
    icc : float or None
        Share of the variance that lies between installs; None where nothing varies.
    f, p : float or None
        Test of equal installs; None where boots do not vary.
    """

    n0: float
    mean_square_between: float
    mean_square_within: float
    within: float
    between_raw: float
    between: float
    icc: float | None
    f: float | None
    p: float | None


@dataclass(frozen=True)
class RemlComponents:
    """One-way components by restricted maximum likelihood; `mean` with its standard error."""

    between: float
    within: float
    icc: float | None
    mean: float
    mean_se: float


@dataclass(frozen=True)
class NestedComponents:
    """Launches in boots in installs, by restricted maximum likelihood; squared units."""

    installs: float
    boots: float
    launches: float


def _checked(groups: Groups) -> list[FloatArray]:
    samples = [as_sample(group, f"install {i}") for i, group in enumerate(groups, 1)]
    if len(samples) < 2:
        raise SampleError(f"components take two installs or more, not {len(samples)}")
    if all(sample.size == 1 for sample in samples):
        raise SampleError("components take an install with two boots or more")
    return samples


def _means(samples: Sequence[FloatArray]) -> FloatArray:
    return np.array([math.fsum(sample) / sample.size for sample in samples])


def moment_components(installs: Groups) -> MomentComponents:
    """Components by moments.

    Parameters
    ----------
    installs : sequence of array_like, shapes (n_i,)
        The boots of each install, one unit.

    Notes
    -----
    n0 = (N − Σ n_i² / N) / (k − 1). Source: Searle, Casella & McCulloch, Variance Components,
    1992, section 3.6.
    """
    samples = _checked(installs)
    sizes = np.array([sample.size for sample in samples], dtype=float)
    means, total, k = _means(samples), float(sizes.sum()), len(samples)
    grand = math.fsum(sizes * means) / total
    between = math.fsum(sizes * (means - grand) ** 2) / (k - 1)
    inner = math.fsum(math.fsum((s - m) ** 2) for s, m in zip(samples, means, strict=True)) / (
        total - k
    )
    n0 = (total - float((sizes**2).sum()) / total) / (k - 1)
    raw = (between - inner) / n0
    whole = max(raw, 0.0) + inner
    f = between / inner if inner > 0.0 else None
    p = None if f is None else float(stats.f.sf(f, k - 1, total - k))
    icc = max(raw, 0.0) / whole if whole > 0.0 else None
    return MomentComponents(n0, between, inner, inner, raw, max(raw, 0.0), icc, f, p)


def reml_components(installs: Groups) -> RemlComponents:
    """Components by restricted maximum likelihood, from the likelihood profiled to one ratio.

    Source: Searle, Casella & McCulloch, Variance Components, 1992, section 6.6.
    """
    samples = _checked(installs)
    sizes = np.array([sample.size for sample in samples], dtype=float)
    means = _means(samples)
    inner = math.fsum(math.fsum((s - m) ** 2) for s, m in zip(samples, means, strict=True))
    free = float(sizes.sum()) - 1.0

    def profile(ratio: float) -> tuple[float, float, float]:
        weights = sizes / (1.0 + sizes * ratio)
        mean = float((weights * means).sum() / weights.sum())
        within = (inner + float((weights * (means - mean) ** 2).sum())) / free
        return mean, within, float(weights.sum())

    def loss(ratio: float) -> float:
        _, within, weight = profile(ratio)
        return free * math.log(within) + float(np.log1p(sizes * ratio).sum()) + math.log(weight)

    if inner == 0.0:
        raise SampleError("no boot varies within its install; there is nothing to split")
    ratio = _best_ratio(loss)
    mean, within, weight = profile(ratio)
    whole = within * (1.0 + ratio)
    return RemlComponents(
        ratio * within, within, ratio * within / whole, mean, math.sqrt(within / weight)
    )


def _best_ratio(loss: Callable[[float], float]) -> float:
    """Variance ratio of least loss, 0 or above, searched on logarithms."""
    exponents = np.linspace(-12.0, 16.0, 57)
    losses = [loss(math.exp(e)) for e in exponents]
    best = int(np.argmin(losses))
    low, high = exponents[max(best - 1, 0)], exponents[min(best + 1, exponents.size - 1)]
    found = optimize.minimize_scalar(
        lambda e: loss(math.exp(e)), bounds=(low, high), method="bounded", options={"xatol": 1e-10}
    )
    ratio = math.exp(float(found.x))
    return ratio if loss(ratio) < loss(0.0) else 0.0


def nested_components(installs: Sequence[Groups]) -> NestedComponents:
    """Launches nested in boots, boots in installs.

    Parameters
    ----------
    installs : sequence of installs, each a sequence of boots, each array_like of launches

    Raises
    ------
    SampleError
        With fewer than two installs, no install of two boots, or no boot of two launches.

    Notes
    -----
    The likelihood is profiled to the two ratios over the launches' variance. Source: as
    `reml_components`; the blocks are inverted by Sherman and Morrison's rule.
    """
    boots = [_Boots(install) for install in installs]
    if len(boots) < 2:
        raise SampleError(f"components take two installs or more, not {len(boots)}")
    if all(install.sizes.size < 2 for install in boots):
        raise SampleError("components take an install with two boots or more")
    inner = math.fsum(install.inner for install in boots)
    if inner <= 0.0:
        raise SampleError("no launch varies within its boot; there is nothing to split")
    free = float(sum(install.sizes.sum() for install in boots)) - 1.0

    def profile(roots: FloatArray) -> tuple[float, float]:
        ratios = np.square(roots)
        parts = [install.collapsed(ratios[1]) for install in boots]
        weights = np.array([part[0] for part in parts])
        means = np.array([part[1] for part in parts])
        outer = weights / (1.0 + weights * ratios[0])
        mean = float((outer * means).sum() / outer.sum())
        squares = inner + sum(part[2] for part in parts)
        within = (squares + float((outer * (means - mean) ** 2).sum())) / free
        logs = sum(part[3] for part in parts) + float(np.log1p(weights * ratios[0]).sum())
        return within, free * math.log(within) + logs + math.log(float(outer.sum()))

    def loss(roots: FloatArray) -> float:
        return profile(roots)[1]

    found = [
        optimize.minimize(
            loss,
            np.array(start),
            method="Nelder-Mead",
            options={"xatol": 1e-9, "fatol": 1e-12, "maxiter": 4000},
        )
        for start in ([0.3, 0.3], [1.0, 3.0], [3.0, 1.0])
    ]
    roots: FloatArray = np.asarray(min(found, key=lambda one: float(one.fun)).x)
    within, _ = profile(roots)
    installs_ratio, boots_ratio = np.square(roots)
    return NestedComponents(float(installs_ratio) * within, float(boots_ratio) * within, within)


class _Boots:
    """One install: its boots, each with so many launches."""

    def __init__(self, boots: Groups):
        samples = [as_sample(boot, f"boot {i}") for i, boot in enumerate(boots, 1)]
        self.sizes = np.array([sample.size for sample in samples], dtype=float)
        self.means = _means(samples)
        self.inner = math.fsum(
            math.fsum((s - m) ** 2) for s, m in zip(samples, self.means, strict=True)
        )

    def collapsed(self, ratio: float) -> tuple[float, float, float, float]:
        """Weight, mean, squares between boots and log determinant, at a ratio of the boots."""
        weights = self.sizes / (1.0 + self.sizes * ratio)
        weight = float(weights.sum())
        mean = float((weights * self.means).sum()) / weight
        squares = float((weights * (self.means - mean) ** 2).sum())
        return weight, mean, squares, float(np.log1p(self.sizes * ratio).sum())


def install_means_interval(installs: Groups, level: float = 0.95) -> tuple[float, Interval | None]:
    """Mean of the installs' means, with Student's t interval at installs − 1 degrees of freedom.

    The interval is None for one install, or where their means are all alike.
    """
    means = _means([as_sample(install, f"install {i}") for i, install in enumerate(installs, 1)])
    mean = math.fsum(means) / means.size
    if means.size < 2 or not np.ptp(means) > 0:
        return mean, None
    se = float(np.std(means, ddof=1)) / math.sqrt(means.size)
    reach = float(stats.t.ppf(0.5 + as_level(level) / 2.0, means.size - 1)) * se
    return mean, Interval(mean - reach, mean + reach, level)


def boots_per_install(
    install_cost: float, boot_cost: float, boots_variance: float, installs_variance: float
) -> float | None:
    """Boots of each install that pay, not rounded: √((c_install/c_boot)·(v_boot/v_install)).

    Parameters
    ----------
    install_cost, boot_cost : float
        In one unit, such as minutes.
    boots_variance, installs_variance : float
        In one squared unit.

    Returns
    -------
    float or None
        None where installs do not vary: then more boots of one install always pay.

    Notes
    -----
    Source: Cochran, Sampling Techniques, 3rd ed., section 10.6.
    """
    for name, value in (("install_cost", install_cost), ("boot_cost", boot_cost)):
        if not 0.0 < value < math.inf:
            raise SampleError(f"{name} must be a positive number, not {value}")
    if boots_variance < 0.0 or installs_variance < 0.0:
        raise SampleError("a variance must not be negative")
    if installs_variance == 0.0:
        return None
    return math.sqrt(install_cost / boot_cost * boots_variance / installs_variance)

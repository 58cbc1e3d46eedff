"""A network of log-ratios: systems that met in studies, by weighted least squares."""

from collections.abc import Hashable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import linalg, stats

from haremile.core.statistics.validation import FloatArray

IntArray = NDArray[np.int64]
RANK_TOLERANCE = 1e-8


@dataclass(frozen=True)
class Spread:
    """A source of spread between figures beside their readings.

    `variance` is of logarithms; `degrees` says from how many free differences it is known.
    """

    name: str
    variance: float
    degrees: int


@dataclass(frozen=True)
class Network:
    """Systems on one scale of logarithms.

    Attributes
    ----------
    systems : tuple of str
        Shape (k,).
    effects : FloatArray
        Shape (k,): logarithm of each system's figure over the weighted mean of all.
    covariance : FloatArray
        Shape (k, k), of `effects`.
    levels : FloatArray
        Shape (b,): logarithm of that mean in each base, in the order of `bases`.
    bases : tuple
        What has a level of its own: a study on a machine, or a machine.
    degrees : float or None
        Of Student's t; None where nothing tells how much studies differ, so that intervals hold
        for these studies only.
    spreads : tuple of Spread
    """

    systems: tuple[str, ...]
    effects: FloatArray
    covariance: FloatArray
    levels: FloatArray
    bases: tuple[Hashable, ...]
    degrees: float | None
    spreads: tuple[Spread, ...]


@dataclass(frozen=True)
class Cells:
    """A further source of spread: figures with one label share a deviation.

    `labels` has shape (n,).
    """

    name: str
    labels: Sequence[Hashable]


def network(
    figures: FloatArray,
    variances: FloatArray,
    bases: Sequence[Hashable],
    systems: Sequence[str],
    rest: str,
    cells: Cells | None = None,
) -> Network:
    """Fit figure = level of its base + effect of its system, with spread between studies.

    Parameters
    ----------
    figures, variances : FloatArray
        Shape (n,): logarithms, and what their readings leave open.
    bases, systems : sequence
        Shape (n,): where each was taken, and of whom. They have to hang together.
    rest : str
        Name of the spread that every figure has of its own.
    cells : Cells or None
        A second source of spread.

    Notes
    -----
    Variances of the sources by moments: residual sums of squares with and without the cells are
    set equal to their expectations, with weights from a first round (DerSimonian and Kacker,
    Contemporary Clinical Trials 28, 2007). Standard errors and degrees of freedom after Hartung
    and Knapp (Statistics in Medicine 20, 2001), never below the fixed ones; with two sources the
    degrees are those from which the coarser one is known.
    """
    base_names, base_at = _numbered(bases)
    system_names, system_at = _numbered(systems)
    design = _design(base_at, len(base_names), system_at, len(system_names))
    sources = _spreads(figures, variances, design, cells, rest)
    total = _covariance(variances, sources, cells)
    is_shared = total.ndim == 2
    root = np.asarray(
        linalg.cholesky(total, lower=True) if is_shared else np.sqrt(total), dtype=np.float64
    )
    white = _whitened(root, np.column_stack([figures, design]))
    parts = linalg.qr(white[:, 1:], mode="economic")
    orthogonal, upper = (np.asarray(part, dtype=np.float64) for part in parts)
    found = linalg.solve_triangular(upper, orthogonal.T @ white[:, 0])
    residual = white[:, 0] - white[:, 1:] @ found
    free = len(figures) - design.shape[1]
    scale = max(1.0, float(residual @ residual) / free) if free else 1.0
    inverse = linalg.solve_triangular(upper, np.eye(len(upper)))
    centring = _centring(len(base_names), system_at, len(system_names))
    half = centring @ inverse
    covariance = scale * half @ half.T
    own = centring @ found
    mean = float(found[len(base_names) :] @ _weights(system_at, len(system_names))[1:])
    return Network(
        systems=tuple(str(one) for one in system_names),
        effects=own,
        covariance=covariance,
        levels=found[: len(base_names)] + mean,
        bases=tuple(base_names),
        degrees=_degrees(free, sources, cells),
        spreads=tuple(sources),
    )


def reach_of(degrees: float | None, level: float) -> float:
    """By how many standard errors a two-sided interval of this level reaches out: Student's t, or
    the normal distribution where there are no degrees of freedom."""
    tail = 0.5 + level / 2.0
    return float(stats.norm.ppf(tail) if degrees is None else stats.t.ppf(tail, degrees))


def difference_errors(covariance: FloatArray) -> FloatArray:
    """Standard errors of all differences of effects with this covariance, shape (k, k)."""
    own = np.diag(covariance)
    return np.sqrt(np.maximum(own[:, None] + own[None, :] - 2.0 * covariance, 0.0))


def parts_of(bases: Sequence[Hashable], systems: Sequence[str]) -> list[list[int]]:
    """Positions that hang together through common systems and bases, the largest part first."""
    parent: dict[Hashable, Hashable] = {}

    def top(one: Hashable) -> Hashable:
        while parent.setdefault(one, one) != one:
            parent[one] = parent[parent[one]]
            one = parent[one]
        return one

    for base, system in zip(bases, systems, strict=True):
        parent[top(("base", base))] = top(("system", system))
    parts: dict[Hashable, list[int]] = {}
    for position, base in enumerate(bases):
        parts.setdefault(top(("base", base)), []).append(position)
    return sorted(parts.values(), key=lambda part: -len({systems[at] for at in part}))


def _numbered(labels: Sequence[Hashable]) -> tuple[list[Hashable], IntArray]:
    names = list(dict.fromkeys(labels))
    place = {name: at for at, name in enumerate(names)}
    return names, np.array([place[label] for label in labels], dtype=np.int64)


def _indicators(at: IntArray, count: int) -> FloatArray:
    found = np.zeros((len(at), count))
    found[np.arange(len(at)), at] = 1.0
    return found


def _design(base_at: IntArray, bases: int, system_at: IntArray, systems: int) -> FloatArray:
    """A column for each base, and for each system but the first; shape (n, b + k − 1)."""
    return np.hstack([_indicators(base_at, bases), _indicators(system_at, systems)[:, 1:]])


def _weights(system_at: IntArray, systems: int) -> FloatArray:
    """Share of each system in the mean of all: by how often it was measured."""
    counts = np.bincount(system_at, minlength=systems)
    return np.asarray(counts / counts.sum(), dtype=np.float64)


def _centring(bases: int, system_at: IntArray, systems: int) -> FloatArray:
    """Coefficients to effects around their weighted mean, shape (k, b + k − 1)."""
    effects = np.vstack([np.zeros(systems - 1), np.eye(systems - 1)])
    centred = effects - _weights(system_at, systems) @ effects
    return np.hstack([np.zeros((systems, bases)), centred])


def _basis(design: FloatArray) -> FloatArray:
    """Orthonormal columns that span those of a design of full rank."""
    return np.asarray(linalg.qr(design, mode="economic")[0])


def _widened(basis: FloatArray, members: FloatArray) -> FloatArray:
    """The basis with whatever further columns add to it."""
    left = members - basis @ (basis.T @ members)
    found, sizes, _ = linalg.svd(left, full_matrices=False)
    return np.hstack([basis, found[:, sizes > RANK_TOLERANCE * linalg.norm(members)]])


def _spreads(
    figures: FloatArray,
    variances: FloatArray,
    design: FloatArray,
    cells: Cells | None,
    rest: str,
) -> list[Spread]:
    members = None
    if cells is not None:
        names, at = _numbered(cells.labels)
        members = _indicators(at, len(names))
    between = float(np.median(variances))
    found: list[Spread] = []
    for _ in range(2):  # the second round weighs by what the first one found
        roots = 1.0 / np.sqrt(np.maximum(variances + between, np.finfo(float).tiny))
        found = _moments(figures, variances, design, members, roots, (rest, cells))
        between = sum(one.variance for one in found)
    return found


def _moments(
    figures: FloatArray,
    variances: FloatArray,
    design: FloatArray,
    members: FloatArray | None,
    roots: FloatArray,
    names: tuple[str, Cells | None],
) -> list[Spread]:
    """Both sources, the cells' first; roots are those of the weights, shape (n,)."""
    rest, cells = names
    plain = _basis(design * roots[:, None])
    found: list[Spread] = []
    own = 0.0
    if members is not None and cells is not None:
        full = _widened(plain, members * roots[:, None])
        free = len(figures) - full.shape[1]
        if full.shape[1] > plain.shape[1]:
            if free:
                square, within, trace = _expected(figures, variances, roots, full, None)
                own = max(0.0, (square - within) / trace)
            square, within, trace = _expected(figures, variances, roots, plain, members)
            rest_trace = _expected(figures, variances, roots, plain, None)[2]
            shared = max(0.0, (square - within - own * rest_trace) / trace)
            found.append(Spread(cells.name, shared, full.shape[1] - plain.shape[1]))
            if free:
                found.append(Spread(rest, own, free))
            return found
    free = len(figures) - plain.shape[1]
    if free:
        square, within, trace = _expected(figures, variances, roots, plain, None)
        found.append(Spread(rest, max(0.0, (square - within) / trace), free))
    return found


def _expected(
    figures: FloatArray,
    variances: FloatArray,
    roots: FloatArray,
    basis: FloatArray,
    members: FloatArray | None,
) -> tuple[float, float, float]:
    """Residual sum of squares; what readings alone make of it; and what a unit of the spread does:
    of the cells where `members` are given, else of each figure's own."""
    white = figures * roots
    residual = white - basis @ (basis.T @ white)
    left = np.maximum(1.0 - np.sum(basis**2, axis=1), 0.0)
    weights = roots**2
    within = float(np.sum(left * weights * variances))
    if members is None:
        return float(residual @ residual), within, float(np.sum(left * weights))
    spanned = members * roots[:, None]
    trace = float(np.sum(spanned**2) - np.sum((basis.T @ spanned) ** 2))
    return float(residual @ residual), within, trace


def _covariance(
    variances: FloatArray, sources: Sequence[Spread], cells: Cells | None
) -> FloatArray:
    """Of the figures: shape (n,) where they are independent, else (n, n)."""
    shared = next((one for one in sources if cells and one.name == cells.name), None)
    own = sum(one.variance for one in sources if one is not shared)
    alone = np.maximum(variances + own, np.finfo(float).tiny)
    if shared is None or cells is None or shared.variance == 0.0:
        return alone
    _, at = _numbered(cells.labels)
    together = shared.variance * (at[:, None] == at[None, :])
    return np.asarray(np.diag(alone) + together)


def _whitened(root: FloatArray, columns: FloatArray) -> FloatArray:
    if root.ndim == 1:
        return np.asarray(columns / root[:, None])
    return np.asarray(linalg.solve_triangular(root, columns, lower=True))


def _degrees(free: int, sources: Sequence[Spread], cells: Cells | None) -> float | None:
    """Of Student's t: those from which the coarser source is known, where there is one."""
    if not sources or not free:
        return None
    shared = next((one for one in sources if cells and one.name == cells.name), None)
    return float(shared.degrees if shared is not None else free)

"""Incidents over hours in use: rates with exact intervals, compared pair by pair."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum
from itertools import combinations
from uuid import UUID

import numpy as np
from scipy import stats

from haremile.core.standing.places import Place, places
from haremile.errors import BadInputError

PER_HOURS = 100.0
MOST_HOURS = 1e6
ERROR = 0.05


class IncidentKind(StrEnum):
    """What happened to a system in use."""

    CRASH = "crash"
    HANG = "hang"
    UPDATE = "update that broke something"


@dataclass(frozen=True)
class Incident:
    """Something that went wrong; `machine` is None where it is not stated."""

    id: UUID
    system: UUID
    machine: UUID | None
    kind: IncidentKind
    what: str
    at: datetime
    is_put_away: bool = False


@dataclass(frozen=True)
class HoursInUse:
    """Hours for which a system was in use, over which incidents are counted."""

    id: UUID
    system: UUID
    machine: UUID | None
    hours: float
    at: datetime
    is_put_away: bool = False


def checked_hours(hours: float) -> float:
    """The same; raises BadInputError where it is no time that somebody could have used it."""
    if not 0.0 < hours <= MOST_HOURS:
        raise BadInputError(f"{hours:g} hours in use; expected more than 0, {MOST_HOURS:g} at most")
    return hours


@dataclass(frozen=True)
class IncidentRate:
    """Incidents per 100 hours in use, with the exact interval."""

    incidents: int
    hours: float
    rate: float
    low: float
    high: float


def incident_rate(incidents: int, hours: float, level: float = 0.95) -> IncidentRate:
    """Rate per 100 hours.

    Parameters
    ----------
    incidents : int
    hours : float
        In use, positive.
    level : float
        At least kept, whatever the count.

    Raises
    ------
    BadInputError

    Notes
    -----
    Source: Garwood, Biometrika 28, 1936.
    """
    checked_hours(hours)
    if incidents < 0:
        raise BadInputError(f"{incidents} incidents; a count is not negative")
    tail = (1.0 - level) / 2.0
    share = PER_HOURS / hours
    low = stats.chi2.ppf(tail, 2 * incidents) / 2.0 if incidents else 0.0
    high = stats.chi2.isf(tail, 2 * incidents + 2) / 2.0
    return IncidentRate(
        incidents, hours, incidents * share, float(low) * share, float(high) * share
    )


def rate_places(rates: Sequence[IncidentRate]) -> list[Place]:
    """Places of several systems, fewest incidents first, with 95 % certainty together.

    Notes
    -----
    Of two counts, that of one is binomial given both, with its share of the hours (Przyborowski and
    Wilenski, Biometrika 31, 1940); the error is shared out over all pairs.
    """
    count = len(rates)
    ahead = np.zeros((count, count), dtype=bool)
    pairs = max(math.comb(count, 2), 1)
    for a, b in combinations(range(count), 2):
        one, other = rates[a], rates[b]
        both = one.incidents + other.incidents
        if not both:
            continue
        share = one.hours / (one.hours + other.hours)
        p = float(stats.binomtest(one.incidents, both, share).pvalue)
        if p < ERROR / pairs:
            ahead[a, b] = one.rate < other.rate
            ahead[b, a] = not ahead[a, b]
    return places(ahead)

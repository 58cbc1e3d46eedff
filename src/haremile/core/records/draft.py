"""A study before it is started: a plan as far as it is typed."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from uuid import UUID

from haremile.core.records.margin import Margin
from haremile.core.records.precision import PrecisionPlan


class Order(StrEnum):
    """In which order contenders have their turns: shuffled within blocks; or in visits, one after
    the other with a return to the first, where a person has to wipe or swap between them."""

    BLOCKS = "blocks"
    VISITS = "visits"


BY_HAND = frozenset({"disk-swap", "reinstall"})
"""Ways of switching contenders in which a person has to act between them."""

USUAL_REPEATS = 12
SWITCHING = "switching"
"""The line of a recipe that says how its machine goes from one contender to the next."""


@dataclass(frozen=True)
class Draft:
    """What is decided so far; what is empty is still open.

    Attributes
    ----------
    systems, machines : tuple of UUID
        Shown as rows and columns though nothing is chosen there yet.
    installs : tuple of UUID
        The contenders, in the order of their lanes.
    order : Order or None
        None is the usual one: visits where a person has to act between contenders.
    seen_to : tuple of str
        What a person said to have seen to before the first run, by the key of the check.
    """

    systems: tuple[UUID, ...] = ()
    machines: tuple[UUID, ...] = ()
    installs: tuple[UUID, ...] = ()
    procedures: tuple[str, ...] = ("boot",)
    blocks: int = USUAL_REPEATS
    margins: Mapping[str, Margin] = field(default_factory=dict)
    interim_looks: tuple[int, ...] = ()
    stopping: PrecisionPlan | None = None
    seed: int | None = None
    order: Order | None = None
    seen_to: tuple[str, ...] = ()

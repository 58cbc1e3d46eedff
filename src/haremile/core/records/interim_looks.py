"""When a study's verdicts are read, and how the error is shared out over those looks."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from haremile.errors import BadInputError


@dataclass(frozen=True)
class Look:
    """One reading of verdicts.

    Attributes
    ----------
    blocks : int
        It reads the first so many blocks.
    share : float
        Of the error (0.05 and 0.10 of a family) that it may spend.
    is_extension : bool
        Whether it was added after the last planned look.
    """

    blocks: int
    share: float
    is_extension: bool


@dataclass(frozen=True)
class InterimLooks:
    """The looks that a plan declares, and those added later.

    Attributes
    ----------
    planned : tuple of int
        Blocks after which verdicts are read, rising; the error is shared out evenly over them.
    extensions : tuple of int
        Blocks of each extension, rising on; each spends half of what the look before it spent.

    Raises
    ------
    BadInputError
        If there is no planned look, or the blocks do not rise.

    Notes
    -----
    The error of all planned looks together is at most 0.05; with e extensions it is at most
    0.05·(1 + (1 − 2^−e)/looks). Source: Bonferroni's inequality; for why looking costs, Armitage,
    McPherson & Rowe, Journal of the Royal Statistical Society A 132, 1969.
    """

    planned: tuple[int, ...]
    extensions: tuple[int, ...] = ()

    def __post_init__(self) -> None:
        every = [*self.planned, *self.extensions]
        if not self.planned:
            raise BadInputError("a plan needs one look at least")
        if every[0] < 1 or any(b <= a for a, b in pairwise(every)):
            raise BadInputError(f"the blocks of the looks must rise, not {every}")

    @property
    def every(self) -> tuple[Look, ...]:
        """All looks in order, with what each may spend."""
        even = 1.0 / len(self.planned)
        return (
            *(Look(blocks, even, False) for blocks in self.planned),
            *(Look(blocks, even / 2.0**i, True) for i, blocks in enumerate(self.extensions, 1)),
        )

    @property
    def blocks(self) -> int:
        """Blocks of the last look."""
        return (*self.planned, *self.extensions)[-1]

    @property
    def most_error(self) -> float:
        """What all looks together may spend, as a share: 1 for a plan that was kept."""
        return sum(look.share for look in self.every)

    def extended_to(self, blocks: int) -> "InterimLooks":
        """With one more extension."""
        return InterimLooks(self.planned, (*self.extensions, blocks))

    def taken(self, complete_blocks: int) -> tuple[Look, ...]:
        """The looks that so many complete blocks allow."""
        return tuple(look for look in self.every if look.blocks <= complete_blocks)


def parse_interim_looks(text: str) -> InterimLooks:
    """InterimLooks as they are written: ``10,15,20``."""
    parts = [part.strip() for part in text.split(",")]
    if not all(part.isdecimal() for part in parts):
        raise BadInputError(f"looks are block numbers such as 10,15,20, not {text}")
    return InterimLooks(tuple(int(part) for part in parts))


def complete_blocks(finished: Sequence[tuple[int, bool]]) -> int:
    """How many blocks from the first on have every run finished.

    Parameters
    ----------
    finished : sequence of (block, whether that run is finished)
    """
    unfinished = {block for block, is_finished in finished if not is_finished}
    count = 0
    for block in sorted({block for block, _ in finished}):
        if block in unfinished:
            break
        count = block
    return count

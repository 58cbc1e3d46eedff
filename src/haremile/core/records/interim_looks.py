"""When a study's verdicts are read, and how the error is shared out over those looks."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from haremile.errors import BadInputError

EVERY = "every"
"""How looks after every block are written."""


@dataclass(frozen=True)
class Look:
    """One reading of verdicts.

    Attributes
    ----------
    blocks : int
        It reads the first so many blocks.
    planned : tuple of int
        Blocks of all looks of its plan, which share the error.
    extension : int
        0 for a planned look; 1, 2, … for those added after the last planned one.
    """

    blocks: int
    planned: tuple[int, ...]
    extension: int = 0

    @property
    def is_extension(self) -> bool:
        """Whether it was added after the last planned look."""
        return self.extension > 0


@dataclass(frozen=True)
class InterimLooks:
    """The looks that a plan declares, and those added later.

    Attributes
    ----------
    planned : tuple of int
        Blocks after which verdicts are read, rising; they share the error by how much of the last
        one's blocks they read.
    extensions : tuple of int
        Blocks of each extension, rising on; each spends half of what the look before it spent.

    Raises
    ------
    BadInputError
        If there is no planned look, or the blocks do not rise.
    """

    planned: tuple[int, ...]
    extensions: tuple[int, ...] = ()

    def __post_init__(self) -> None:
        every = [*self.planned, *self.extensions]
        if not self.planned:
            raise BadInputError("a plan needs one look at least")
        if every[0] < 1 or any(b <= a for a, b in pairwise(every)):
            raise BadInputError(f"the blocks of the looks must rise, not {every}")

    @classmethod
    def after_every_block(cls, blocks: int) -> "InterimLooks":
        """Looks after each of so many blocks."""
        return cls(tuple(range(1, blocks + 1)))

    @property
    def is_after_every_block(self) -> bool:
        """Whether verdicts are read after each planned block."""
        return len(self.planned) > 1 and len(self.planned) == self.planned[-1]

    @property
    def every(self) -> tuple[Look, ...]:
        """All looks in order."""
        return (
            *(Look(blocks, self.planned) for blocks in self.planned),
            *(Look(blocks, self.planned, i) for i, blocks in enumerate(self.extensions, 1)),
        )

    @property
    def blocks(self) -> int:
        """Blocks of the last look."""
        return (*self.planned, *self.extensions)[-1]

    def extended_to(self, blocks: int) -> "InterimLooks":
        """With one more extension."""
        return InterimLooks(self.planned, (*self.extensions, blocks))

    def taken(self, complete_blocks: int) -> tuple[Look, ...]:
        """The looks that so many complete blocks allow."""
        return tuple(look for look in self.every if look.blocks <= complete_blocks)


def parse_interim_looks(text: str) -> InterimLooks:
    """InterimLooks as they are written: ``10,15,20``, or ``every:20`` after each of 20 blocks."""
    word, _, blocks = text.partition(":")
    if word.strip() == EVERY and blocks.strip().isdecimal():
        return InterimLooks.after_every_block(int(blocks))
    parts = [part.strip() for part in text.split(",")]
    if not all(part.isdecimal() for part in parts):
        raise BadInputError(f"looks are block numbers such as 10,15,20, or every:20; not {text}")
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

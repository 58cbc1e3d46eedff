"""The order in which a study's runs are done."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from haremile.errors import BadInputError


@dataclass(frozen=True)
class SheetLine:
    """One place in the order; `block` and `position` count from 1, over the whole sheet."""

    block: int
    position: int
    lane_no: int


def run_sheet(
    lanes: Sequence[int], blocks: int, seed: int, first_block: int = 1
) -> list[SheetLine]:
    """Complete blocks: each holds every lane once, shuffled by the seed.

    A block's order depends on the seed and its number alone, so that a sheet can be taken up again
    or extended without changing what stands.

    Raises
    ------
    BadInputError
        If there is no lane, a lane twice, or no block.
    """
    if not lanes or len(set(lanes)) != len(lanes):
        raise BadInputError(f"lanes must be distinct and at least one, not {list(lanes)}")
    if blocks < 1:
        raise BadInputError(f"blocks must be at least 1, not {blocks}")
    lines = []
    for block in range(first_block, first_block + blocks):
        generator = np.random.default_rng([seed, block])
        order = generator.permutation(sorted(lanes))
        start = (block - 1) * len(lanes)
        lines += [SheetLine(block, start + i + 1, int(lane)) for i, lane in enumerate(order)]
    return lines

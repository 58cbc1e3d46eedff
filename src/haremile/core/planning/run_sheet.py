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
    _check(lanes, blocks)
    lines = []
    for block in range(first_block, first_block + blocks):
        generator = np.random.default_rng([seed, block])
        order = generator.permutation(sorted(lanes))
        start = (block - 1) * len(lanes)
        lines += [SheetLine(block, start + i + 1, int(lane)) for i, lane in enumerate(order)]
    return lines


def visit_sheet(
    groups: Sequence[Sequence[int]], blocks: int, first_block: int = 1
) -> list[SheetLine]:
    """Visits: on each machine the first lane for half of its runs, every other lane for all of its
    runs, and the first again, so that a drift over time shows between its two visits.

    Parameters
    ----------
    groups : sequence of sequence of int
        The lanes of each machine, the first one first.

    Raises
    ------
    BadInputError
        As `run_sheet`.
    """
    lanes = [lane for group in groups for lane in group]
    _check(lanes, blocks)
    half = (blocks + 1) // 2
    lines, position = [], (first_block - 1) * len(lanes)
    for first, *others in groups:
        early, late = range(half), range(half, blocks)
        visits = [(first, early), *((lane, range(blocks)) for lane in others), (first, late)]
        for lane, runs in visits:
            for run in runs:
                position += 1
                lines.append(SheetLine(first_block + run, position, lane))
    return lines


def visits_of(contenders: int, blocks: int, is_in_visits: bool) -> int:
    """How often a machine is turned to a contender at most: by visits, or for every run."""
    if contenders < 2:
        return contenders
    return contenders + (blocks > 1) if is_in_visits else contenders * blocks


def _check(lanes: Sequence[int], blocks: int) -> None:
    if not lanes or len(set(lanes)) != len(lanes):
        raise BadInputError(f"lanes must be distinct and at least one, not {list(lanes)}")
    if blocks < 1:
        raise BadInputError(f"blocks must be at least 1, not {blocks}")

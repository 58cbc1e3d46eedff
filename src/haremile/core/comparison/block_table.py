"""The readings of one row, by lane and block."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from haremile.core.comparison.records import Observation
from haremile.core.statistics.validation import FloatArray


@dataclass(frozen=True)
class CompleteBlocks:
    """The blocks in which every lane has just one reading, one row of a table each.

    Attributes
    ----------
    values : ndarray, shape (blocks, lanes)
    places : ndarray of int, shape (blocks, lanes)
        At which place of its block each was read, from 0.
    of : int
        How many blocks there are, complete or not.
    """

    values: FloatArray
    places: NDArray[np.int64]
    of: int


class BlockTable:
    """Readings that are not set aside, in run order.

    Parameters
    ----------
    items : sequence of Observation
        Of one row. One without a block belongs to every number of first blocks.
    """

    def __init__(self, items: Sequence[Observation]):
        counted = [item for item in items if not item.is_set_aside]
        self._values = np.array([item.value for item in counted])
        lanes = np.array([item.lane_no for item in counted], dtype=np.int64)
        self._blocks = np.array([item.block or 0 for item in counted], dtype=np.int64)
        self.lanes: list[int] = np.unique(lanes).tolist()
        self._columns = np.searchsorted(self.lanes, lanes)

    def samples(self, blocks: int | None = None) -> dict[int, FloatArray]:
        """The readings of each lane, of the first `blocks` or of all; no lane without any."""
        found = {}
        is_within = None if blocks is None else self._blocks <= blocks
        for column, lane in enumerate(self.lanes):
            is_here = self._columns == column
            values = self._values[is_here if is_within is None else is_here & is_within]
            if values.size:
                found[lane] = values
        return found

    def complete(self, blocks: int | None = None) -> CompleteBlocks:
        """The complete ones of the first `blocks` or of all; columns are in order of lanes."""
        is_here = self._blocks > 0
        if blocks is not None:
            is_here &= self._blocks <= blocks
        numbers, rows = np.unique(self._blocks[is_here], return_inverse=True)
        columns, shape = self._columns[is_here], (numbers.size, len(self.lanes))
        counts = np.bincount(rows * shape[1] + columns, minlength=shape[0] * shape[1])
        is_complete = (counts.reshape(shape) == 1).all(axis=1)
        values, places = np.zeros(shape), np.zeros(shape, dtype=np.int64)
        values[rows, columns] = self._values[is_here]
        order = np.argsort(rows, kind="stable")
        first = np.searchsorted(rows[order], np.arange(numbers.size))
        places[rows[order], columns[order]] = np.arange(rows.size) - first[rows[order]]
        return CompleteBlocks(values[is_complete], places[is_complete], int(numbers.size))

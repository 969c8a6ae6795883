"""Blocks of a fixed number of rows whatever the batches are, so that a file's bytes do not depend on these."""

from __future__ import annotations

from collections.abc import Iterator

import pyarrow as pa

_MOST_ROWS, _LEAST_ROWS, _CELLS = 1 << 17, 1 << 10, 1 << 21


class RowBlocks:
    """Takes batches and gives blocks.

    Parameters
    ----------
    columns
        How many columns there are; blocks of many columns have fewer rows.

    Attributes
    ----------
    most
        Rows of a block.

    Examples
    --------
    >>> blocks = RowBlocks(1 << 11)
    >>> batch = pa.record_batch({"depth": [3.2] * 800})
    >>> [len(one) for some in (blocks.add(batch, 800), blocks.add(batch, 800), blocks.rest()) for one in some]
    [1024, 576]
    """

    def __init__(self, columns: int) -> None:
        self.most = min(_MOST_ROWS, max(_LEAST_ROWS, _CELLS // max(columns, 1)))
        self._batches: list[pa.RecordBatch] = []
        self._rows = 0

    def add(self, batch: pa.RecordBatch, rows: int) -> Iterator[pa.Table]:
        """Take a batch; gives the blocks that are full."""
        if not rows:
            return
        self._batches.append(batch)
        self._rows += rows
        if self._rows >= self.most:
            yield from self._taken(self._rows // self.most * self.most)

    def rest(self) -> Iterator[pa.Table]:
        """What is left."""
        if self._rows:
            yield from self._taken(self._rows)

    def _taken(self, rows: int) -> Iterator[pa.Table]:
        table = pa.Table.from_batches(self._batches)
        for start in range(0, rows, self.most):
            yield table.slice(start, min(self.most, rows - start)).combine_chunks()
        rest = table.slice(rows)
        self._batches, self._rows = rest.to_batches(), len(rest)

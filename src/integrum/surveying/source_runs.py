"""The rows of each source among some rows."""

from __future__ import annotations

import numpy as np

from integrum.arrow.arrays import ints
from integrum.reading.parsing import Rows

# so many rows of a source, or of a piece of a large one, show what names alone do not
_SAMPLED = 16


class SourceRuns:
    """The rows of each source, which stand together: the numbers of the sources, their first rows, how many they are."""

    def __init__(self, rows: Rows) -> None:
        self.first = np.flatnonzero(np.diff(rows.source, prepend=-1))
        self.counts = np.diff(self.first, append=len(rows.source)).tolist()
        self.sources = rows.source[self.first].tolist()
        self.row = rows.row
        self.rows = rows.row[self.first].tolist()
        self.taking = ints(self.first)
        # some rows from all over each source
        sizes = np.diff(self.first, append=len(rows.source))
        few = np.minimum(sizes, _SAMPLED)
        self.some_of = few.tolist()
        steps = np.arange(few.sum()) - np.repeat(np.cumsum(few) - few, few)
        self.some = ints(
            np.repeat(self.first, few) + (steps * np.repeat(sizes, few)) // np.maximum(np.repeat(few, few), 1)
        )

"""Sources whose values of a column lie apart from those of all others."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import islice

from integrum.deciding.apart import apart
from integrum.problems import Problem
from integrum.values.sketch import Sketch

# of more sources than that something else is the matter, and the first are enough
_MOST = 5


def ranges_apart(column: str, sources: Sequence[int], values: Sketch) -> Iterator[tuple[int, Problem]]:
    """The numbers of such sources, and what is to be said of each.

    `sources`, `values`: the numbers of the sources that have it, and their values.
    """
    for at, said in islice(apart(values), _MOST):
        yield (
            sources[at],
            Problem.of(
                "range-apart",
                column=column,
                message=f"values far from those of the other sources: {said}",
                hint="is it another unit, a missing code, or another column with the same name? nothing was changed",
            ),
        )

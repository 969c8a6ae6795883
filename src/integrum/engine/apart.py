"""Say of each source whose values of a column lie apart from those of all others."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from integrum.deciding.apart import apart
from integrum.problems import Problem
from integrum.values.sketch import Sketch

if TYPE_CHECKING:
    from integrum.engine.engine import Engine

# of more sources than that something else is the matter, and the first are enough
_MOST = 5


def tell_apart(engine: Engine, column: str, sources: Sequence[int], values: Sketch) -> None:
    """Note it where the values of a source lie apart."""
    for number, (at, said) in enumerate(apart(values)):
        if number < _MOST:
            engine.tell(
                sources[at],
                Problem.of(
                    "range-apart",
                    column=column,
                    message=f"values far from those of the other sources: {said}",
                    hint="is it another unit, a missing code, or another column with the same name? nothing was changed",
                ),
            )

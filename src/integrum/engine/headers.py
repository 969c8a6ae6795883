"""What became of the header cells of all sources, each distinct one once."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from integrum.engine.engine import Engine


@dataclass(frozen=True)
class HeaderEntry:
    """A header cell and what became of it.

    Attributes
    ----------
    header
        As it is tidied.
    state
        ``"matched"``, ``"in part"``, ``"left out"``, ``"guessed"`` or ``"unlisted"``.
    column
        The column that it is for, or may be for.
    sources
        How many sources that come in have it in this state.
    first
        The first of them.
    """

    header: str
    state: str
    column: str
    sources: int
    first: str


def header_entries(engine: Engine) -> list[HeaderEntry]:
    """The header cells of the sources that come in; one in several states, or for several columns, is there for each."""
    found: dict[tuple[str, str, str], tuple[int, str]] = {}
    for family, numbers in engine.of_families().items():
        for cell in engine.families[family].bound.cells:
            key = (cell.name, cell.state, cell.column)
            count, first = found.get(key, (0, engine.summaries[numbers[0]].source))
            found[key] = (count + len(numbers), first)
    return [HeaderEntry(*key, *said) for key, said in found.items()]

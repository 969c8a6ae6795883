"""A row of a sample, and what its cells look like."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cached_property

from integrum.values.cells import KINDS, is_value, kind_of

_CODE = {kind: code for code, kind in enumerate(KINDS)}


class Row:
    """A row of a sample.

    Parameters
    ----------
    number
        Its number in the source, from 1; 0 where it is not known.
    start
        How its text begins in the source; its first cell when left out.
    """

    def __init__(self, number: int, cells: Sequence[str], start: str | None = None) -> None:
        self.number, self.cells = number, tuple(cells)
        self.plain = plain = [cell.strip() for cell in cells]
        self.start = (self.cells[0] if self.cells else "") if start is None else start
        # how many cells have text, the first that has, and where the last one stands, from 1
        self.filled = len(plain) - plain.count("")
        self.first = next(filter(None, plain), "")
        self.reach = len(plain)
        while self.reach and not plain[self.reach - 1]:
            self.reach -= 1

    @cached_property
    def kinds(self) -> tuple[str, ...]:
        """What each cell looks like; see `kind_of`."""
        return tuple(map(kind_of, self.cells))

    @cached_property
    def codes(self) -> bytes:
        """The same as indexes into `KINDS`."""
        return bytes(map(_CODE.__getitem__, self.kinds))

    @cached_property
    def values(self) -> list[bool]:
        """Which cells look like values."""
        return [is_value(cell) for cell in self.cells]

    def fits(self, width: int) -> bool:
        """Whether it has so many cells; surplus ones that are empty do not count.

        Examples
        --------
        >>> Row(1, ["a", "b", ""]).fits(2), Row(1, ["a", "b", "c"]).fits(2), Row(1, ["a"]).fits(2)
        (True, False, False)
        """
        return len(self.cells) == width or (len(self.cells) > width >= self.reach)

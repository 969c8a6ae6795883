"""What is seen of the values of a column in one source."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from integrum.surveying.decision import Place
from integrum.surveying.thresholds import MOSTLY, MOSTLY_VALUES
from integrum.values.sketch import Sketch


@dataclass(frozen=True, slots=True)
class Seen:
    """Values that look alike in one column of one source."""

    # the number of the source, and the position of the column in its header
    source: int
    position: int
    kind: int  # index into `integrum.values.evidence.KINDS`
    count: int
    # the first of them
    row: int
    raw: str
    # what else there is to know: see `integrum.values.evidence.looks`. Of a number that may be a missing
    # code, the number as it is written.
    detail: str = ""


@dataclass(frozen=True, slots=True)
class Range:
    """The numbers of one column of one source, those that may be missing codes aside."""

    # the number of the source, and the position of the column in its header
    source: int
    position: int
    count: int
    # the least and the greatest of them
    least: float
    greatest: float
    median: float = float("nan")  # the median of a sample of them

    def with_more(self, other: Range) -> Range:
        """Merge with the range of more values of the same column and source."""
        larger = max(self, other, key=lambda one: one.count)
        return replace(
            self,
            median=larger.median,
            count=self.count + other.count,
            least=min(self.least, other.least),
            greatest=max(self.greatest, other.greatest),
        )


@dataclass(frozen=True)
class Evidence:
    """All that is known of the values of a column."""

    seen: Sequence[Seen]  # what they look like, by source
    ranges: Sequence[Range] = ()  # the ranges of its numbers, by source
    # by source the decimal mark and the mark between thousands that it is read with
    marks: Mapping[int, tuple[str, str]] | None = None
    unit: str = ""  # the unit that its headers give
    open: tuple[
        Place, ...
    ] = ()  # numbers that can be read in two ways where nothing shows which, the first of each source
    settled: Place | None = None  # the first number that could be, where numbers elsewhere show which
    wanted: str = ""  # the type that is given for the column: what is not of it is a bad value
    # what sources have in common that write dates in the same way, where one of them shows how
    office: Callable[[Seen], Hashable] = lambda _: None
    # by source and position the order of day and month that the steps between the times show
    orders: Mapping[tuple[int, int], str] = field(default_factory=dict)


def is_mostly(others: Sequence[Seen], every: Sequence[Seen]) -> bool:
    """Whether all but a few values have the type of a column, so that those few are bad values.

    `others`, `every`: the values that do not have it, and all values.

    Examples
    --------
    >>> numbers, refused = Seen(0, 0, 2, 297, 2, "7.2"), Seen(0, 0, 7, 3, 40, "refused", "refused")
    >>> is_mostly([refused], [numbers, refused]), is_mostly([refused], [Seen(0, 0, 2, 9, 2, "7.2"), refused])
    (True, False)
    """
    total, without = sum(one.count for one in every), sum(one.count for one in others)
    return total - without >= max(MOSTLY_VALUES, MOSTLY * total)


def as_sketch(ranges: Sequence[Range]) -> Sketch:
    """The ranges as a sketch.

    Examples
    --------
    >>> as_sketch([Range(4, 0, 30, 0.5, 12.0, 4.0)]).greatest.tolist()
    [12.0]
    """
    return Sketch(
        np.array([one.count for one in ranges], np.int64),
        *(np.array([getattr(one, name) for one in ranges]) for name in ("least", "median", "greatest")),
    )

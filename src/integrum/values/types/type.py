"""What a type is: its canonical form, how one text is brought to it, and how a whole column is tested at once."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

Mask = npt.NDArray[np.bool_]


# whether all texts of a column are canonical, and the column cast to the type where the test has made it
Tested = tuple[bool, pa.Array | None]


@dataclass(frozen=True)
class Type:
    """A type of values.

    The test of a whole column and the parsing of one text agree: a column passes exactly when `parse` gives back
    every one of its texts as it is.

    Attributes
    ----------
    name
        As plans write it.
    arrow
        Its Arrow type.
    words
        For messages: what a value of it is.
    parse
        Brings one text, without outer spaces, to the canonical form; None when it is not a value of the type.
    test
        Tests a whole column.
    odd
        Texts that cannot be canonical, told at once by their letters or their lengths.
    read
        Casts a column whose texts are all values of the type, in whatever form; None when that cannot be told at once.
        It gives what the canonical forms would give.
    to_arrow
        The way from canonical texts to the Arrow type, where that is not a plain cast.
    pattern
        What canonical texts look like, where a pattern can tell nearly all that are not.
    """

    name: str
    arrow: pa.DataType
    words: str
    parse: Callable[[str], str | None]
    test: Callable[[pa.Array], Tested]
    odd: Callable[[pa.Array], Mask]
    read: Callable[[pa.Array], pa.Array | None] = lambda _: None
    to_arrow: Callable[[pa.Array], pa.Array] | None = None
    pattern: str = ""

    def cast(self, values: pa.Array) -> pa.Array:
        """Canonical texts as an array of the Arrow type."""
        return self.to_arrow(values) if self.to_arrow else pc.cast(values, self.arrow)


def cast(
    values: pa.Array, to: pa.DataType, way: Callable[[pa.Array], pa.Array] | None = None
) -> pa.Array | None:
    """Cast texts; None when some of them cannot be.

    Examples
    --------
    >>> cast(pa.array(["1", None]), pa.int64()).to_pylist(), cast(pa.array(["x"]), pa.int64())
    ([1, None], None)
    """
    try:
        return way(values) if way else pc.cast(values, to)
    except pa.ArrowInvalid:
        return None


def tested_by_cast(values: pa.Array, to: pa.DataType, whole: pa.DataType, first: int) -> Tested:
    """Test a column by casting it to dates or times; none may lie before the first one of the calendar.

    Parameters
    ----------
    values
        Texts of which none is odd.
    to, whole
        The Arrow type, and the one of the whole numbers below it.
    first
        The first date or time, as such a number.
    """
    done = cast(values, to)
    if done is None or len(done) == done.null_count:
        return done is not None, done
    return pc.min(pc.cast(done, whole)).as_py() >= first, done

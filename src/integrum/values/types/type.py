"""What a type is: all that is known of it, in one value."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Sequence
from dataclasses import dataclass
from typing import Any, Protocol

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from integrum.values.arrays import Floats, Mask
from integrum.values.notation import Conversion, Notation
from integrum.values.shapes import Part
from integrum.values.sketch import numbers_as_texts, numbers_of, timed_as_texts, typed_as_texts

# whether all texts of a column are canonical, and the column cast to the type where the test has made it
Tested = tuple[bool, pa.Array | None]


class WrittenRule(Protocol):
    """What a shape is rewritten to in some notation; None where it does not fit."""

    def __call__(self, shape: bytes, notation: Notation) -> Sequence[Part] | None:
        """The parts of the canonical text, or None."""


def _nothing(*_: object) -> Iterable[str]:
    return ()


@dataclass(frozen=True)
class Type:
    """A type of values: all that is known of it. No other file lists types.

    The test of a whole column and the parsing of one text agree: a column passes exactly when `parse` gives back
    every one of its texts as it is.
    """

    name: str  # as plans write it
    arrow: pa.DataType
    words: str  # for messages: what a value of it is
    # some canonical texts, the least first; what holds for all types is tested on them
    examples: Sequence[str]
    # brings one text, without outer spaces, to the canonical form; None when it is not a value of the type
    parse: Callable[[str], str | None]
    test: Callable[[pa.Array], Tested]  # tests a whole column
    # texts that cannot be canonical, told at once by their letters or their lengths
    odd: Callable[[pa.Array], Mask]
    # casts a column whose texts are all values of the type, in whatever form; None when that cannot be told
    # at once. It gives what the canonical forms would give.
    read: Callable[[pa.Array], pa.Array | None] = lambda _: None
    # the way from canonical texts to the Arrow type, where that is not a plain cast
    to_arrow: Callable[[pa.Array], pa.Array] | None = None
    to_text: Callable[[pa.Array], pa.Array] = typed_as_texts  # the way from the Arrow type to texts
    pattern: str = ""  # what canonical texts look like, where a pattern can tell nearly all that are not
    wrong: str = ""  # for messages: what a bad value is, where that is not just that it is not of the type
    # how people write its values, beside the canonical form: what a shape is rewritten to; see
    # `values.shapes`
    rule: WrittenRule | None = None
    # when a text is held against the type to find out what it is: types of a lower number first; 0 for
    # never
    tried: int = 100
    begins: bytes = b"0123456789-"  # the letters that its canonical texts may begin with
    any_case: bool = False  # whether it then does not count whether letters are capitals
    # texts that are then taken for something else, though the type could read them
    unlikely: Callable[[pa.Array], Mask] | None = None
    # the type whose decisions are about its values, too: whole numbers are numbers. Its own name by
    # default.
    group: str = ""
    # as what its values count when columns are compared: that of dates is ``"time"``. Its group by default.
    likeness: str = ""
    wider: str = ""  # the type that can take its values, too, where there is one
    # the types in whose canonical form its canonical texts are, besides text
    also_canonical: frozenset[str] = frozenset()
    converted: str = ""  # the type that its values have after a change of unit; its own name by default
    # whether its values are numbers, which have units and signs, and are written with marks
    is_number: bool = False
    is_counted: bool = False  # whether a column of it may have so few values that they are counted
    # whether each value has only one canonical text: 7.2 and 7.20 are the same number
    has_one_text: bool = True
    has_order: bool = True  # whether it has a least and a greatest value
    # the way back from the numbers that stand for its values when these are compared; see `numbers_in`
    from_numbers: Callable[[Floats], pa.Array] = numbers_as_texts
    # whether its values have a day, a time of day, or both: then they may be made of two cells
    has_day: bool = False
    has_clock: bool = False
    # the keys of a column in a plan that are for this type, besides those for all
    keys: frozenset[str] = frozenset()
    # what `spelling` may be: the one spelling of its values in a table, in POSIX codes
    spellings: Sequence[str] = ()
    checks: frozenset[str] = frozenset()  # the checks that need such a type, and can be made with it
    # its datatype in CSV on the Web; and the base of that of values in one spelling
    datatype: Any = "string"
    spelled: str = ""
    cell_format: str = ""  # the number format of a cell of a workbook; empty for the general one
    # what was done to a text that was not canonical, in words: takes the text, the conversion, and the
    # column for signs
    steps: Callable[[str, Conversion, str], Iterable[str]] = _nothing
    # what to do about a bad value, by what it looks like: takes its text and the keys that the column has;
    # empty where nothing better is known than for any type
    advice: Callable[[str, Collection[str]], str] = lambda *_: ""

    def __post_init__(self) -> None:
        for name in ("group", "converted"):
            object.__setattr__(self, name, getattr(self, name) or self.name)
        object.__setattr__(self, "likeness", self.likeness or self.group)
        object.__setattr__(self, "wrong", self.wrong or f"not {self.words}")

    def numbers_in(self, values: pa.Array) -> Floats:
        """The numbers that stand for its values, from texts that `from_numbers` has made; NaN where there is none."""
        numbers = numbers_of(pc.cast(values, pa.float64()) if self.is_number else self.cast(values))
        return np.full(len(values), np.nan) if numbers is None else numbers

    def full_text(self, values: pa.Array) -> pa.Array:
        """A function from the Arrow type to texts with all digits."""
        return pc.cast(values, pa.string()) if self.to_text is timed_as_texts else self.to_text(values)

    @property
    def is_standard_time(self) -> bool:
        """Whether its canonical texts are dates or times as ISO 8601 has them."""
        return self.has_day or self.has_clock

    def cast(self, values: pa.Array) -> pa.Array:
        """Cast texts to an Arrow type; None when some cannot be cast."""
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

    `to`, `whole`: the Arrow type, and the one of the whole numbers below it.
    """
    done = cast(values, to)
    if done is None or len(done) == done.null_count:
        return done is not None, done
    return pc.min(pc.cast(done, whole)).as_py() >= first, done

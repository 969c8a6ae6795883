"""What must hold of the table that comes out."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from integrum.errors import PlanError
from integrum.plan.fields import UNITS, span_of
from integrum.plan.validating import (
    as_text,
    expected,
    one_of,
    set_on,
    share,
    text,
    texts,
    word_lists,
    yes_or_no,
)
from integrum.plan.wrong_words import fields_answer
from integrum.problems.codes import SEVERITIES, Severity
from integrum.values.types import TYPES

ALL = "all"
# the keys that each say what kind of check one is, with the keys that it needs and may have besides
KINDS: dict[str, tuple[tuple[str, ...], tuple[str, ...]]] = {
    "unique": ((), ()),
    "complete": ((), ("values",)),
    "range": (("column",), ()),
    "allowed": (("column",), ()),
    "match": (("column",), ()),
    "filled": (("column",), ()),
    "rows": ((), ()),
    "sources": ((), ()),
    "steady": (("column",), ("within",)),
    "follow": (("column",), ("within",)),
    "in_one_source": ((), ()),
    "listed": (("column",), ("header", "both_ways")),
}
# what types of columns a kind is for, where it is not for all
NEEDS = {
    name: tuple(kind.name for kind in TYPES.values() if name in kind.checks)
    for name in KINDS
    if any(name in kind.checks for kind in TYPES.values())
}


@fields_answer
@dataclass(frozen=True)
class Check:
    """A check of the table, with one test.

    Parameters
    ----------
    name
        Its name in reports; made from the test when empty.
    severity
        Severity of its findings: ``"error"`` (the exit status is 1), ``"warning"`` or ``"note"``.
    column
        The column to test.
    within
        With `steady` and `follow`: the columns that define groups.
    unique
        No two rows have the same values in these columns.
    complete
        Every combination of the values of these columns is in the table.
    values
        With `complete`: the values that each column should have; by default those in the table.
    range
        The least and the greatest value: numbers, or dates and times in ISO 8601. An empty text leaves an end open.
    allowed
        The allowed values. Empty cells pass.
    match
        A regular expression (RE2 syntax) for whole values. Empty cells pass.
    filled
        The least share of filled cells, from 0 to 1.
    rows
        Number of rows that each source gives, or the least and the most.
    sources
        Number of sources in the table, or the least and the most.
    steady
        Step of a time from row to row within each group, such as ``"10 min"`` or ``"1 month"``.
    follow
        Sources of a group follow one another in time: they do not overlap, and gaps are at most this long.
    in_one_source
        No two sources have a row with the same values in these columns; ``"all"``: in all columns except provenance.
    listed
        A CSV file: every value is in a column of it.
    header
        With `listed`: the header of that column; by default the name of the tested column.
    both_ways
        With `listed`: every value of the list is also in the table.

    Raises
    ------
    PlanError
        When it has no test or several, or a value is not of the right kind.

    Examples
    --------
    >>> print(Check(unique=["lake", "time"]))
    unique: lake, time
    >>> print(Check(column="water_temp", range=[0, 35]))
    water_temp: range 0 to 35
    >>> Check(column="water_temp")
    Traceback (most recent call last):
    ...
    integrum.errors.PlanError: check: a check needs one of unique, complete, range, allowed, match, filled, rows, \
sources, steady, follow, in_one_source, listed
    """

    name: str = ""
    severity: Severity = "error"
    column: str = ""
    within: Sequence[str] = ()
    unique: Sequence[str] = ()
    complete: Sequence[str] = ()
    values: Mapping[str, Sequence[str]] = field(default_factory=dict)
    range: Sequence[Any] = ()
    allowed: Sequence[str] = ()
    match: str = ""
    filled: float | None = None
    rows: Any = ()
    sources: Any = ()
    steady: str = ""
    follow: str = ""
    in_one_source: Sequence[str] = ()
    listed: str = ""
    header: str = ""
    both_ways: bool = False

    def __post_init__(self) -> None:
        text(self.name, "name", empty=True)
        one_of(self.severity, SEVERITIES, "severity")
        set_on(self, "listed", as_text(self.listed))
        for name in ("column", "match", "listed", "header", "steady", "follow"):
            text(getattr(self, name), name, empty=True)
        for name in ("within", "unique", "complete", "allowed", "in_one_source"):
            set_on(self, name, texts(getattr(self, name), name, lone=True))
        set_on(self, "values", word_lists(self.values, "values"))
        set_on(self, "range", _bounds(self.range))
        if self.filled is not None:
            set_on(self, "filled", share(self.filled, "filled"))
        for name in ("rows", "sources"):
            set_on(self, name, _numbers(getattr(self, name), name))
        for name in ("steady", "follow"):
            said = getattr(self, name)
            if said and span_of(said) is None:
                units = ", ".join(UNITS)
                raise PlanError(expected(f'a number and a unit of {units}, such as "10 min"', said), name)
        yes_or_no(self.both_ways, "both_ways")
        if "\0" in self.listed:
            raise PlanError("a path cannot have the character NUL in it", "listed")
        self._check_kind()

    def _check_kind(self) -> None:
        said = [name for name in KINDS if getattr(self, name) not in ((), "", None)]
        if not said:
            raise PlanError(f"a check needs one of {', '.join(KINDS)}", "check")
        if len(said) > 1:
            raise PlanError(f"a check has one test; this one has {' and '.join(said)}", said[1])
        needs, may = KINDS[said[0]]
        for name in needs:
            if not getattr(self, name):
                raise PlanError(f'{said[0]} needs a column: column = "NAME"', name)
        for name in ("column", "within", "values", "header", "both_ways"):
            if getattr(self, name) and name not in (*needs, *may):
                raise PlanError(f"cannot be combined with {said[0]}", name)
        for name in self.values:
            if name not in self.complete:
                raise PlanError(f'"{name}" is not one of the columns of complete', "values")

    @property
    def kind(self) -> str:
        """The key that says what kind of check it is."""
        return next(name for name in KINDS if getattr(self, name) not in ((), "", None))

    @property
    def columns(self) -> tuple[str, ...]:
        """The columns that it looks at."""
        some = () if self.in_one_source == (ALL,) else self.in_one_source
        lone = (self.column,) if self.column else ()
        return tuple(dict.fromkeys((*self.unique, *self.complete, *some, *lone, *self.within)))

    @property
    def key(self) -> str:
        """What it is called."""
        return self.name or str(self)

    def __str__(self) -> str:
        said = getattr(self, self.kind)
        if self.kind == "match":
            words = f"match {said}"
        elif self.kind == "listed":
            words = f"listed in {said.rpartition('/')[2]}"
        elif self.kind in ("range", "rows", "sources"):
            low, high = said
            words = f"{self.kind} {low}" if low == high else f"{self.kind} {_between(low, high)}"
        elif isinstance(said, tuple):
            words = f"{self.kind.replace('_', ' ')}: {', '.join(said)}"
        else:
            words = f"{self.kind} {said}"
        within = f" within {', '.join(self.within)}" if self.within else ""
        return (f"{self.column}: {words}" if self.column else words) + within


def _between(low: Any, high: Any) -> str:
    return f"to {high}" if low == "" else f"from {low}" if high == "" else f"{low} to {high}"


def _bounds(value: Any) -> tuple[Any, ...]:
    """The least and the greatest value of a range."""
    if value == ():
        return ()
    fits = isinstance(value, (list, tuple)) and len(value) == 2
    if not fits or any(isinstance(one, bool) or not isinstance(one, (int, float, str)) for one in value):
        raise PlanError(
            f'expected the least and the greatest value, such as [0, 35] or [0, ""], got {value!r}', "range"
        )
    if all(one == "" for one in value):
        raise PlanError("both ends are open", "range")
    low, high = value
    if isinstance(low, str) == isinstance(high, str) and "" not in value and low > high:
        raise PlanError(f"the least value is greater than the greatest: {low!r}, {high!r}", "range")
    return tuple(value)


def _numbers(value: Any, place: str) -> tuple[int, ...]:
    """The least and the most of something that is counted."""
    if value == ():
        return ()
    pair = [value, value] if isinstance(value, int) else value
    fits = isinstance(pair, (list, tuple)) and len(pair) == 2
    if not fits or any(isinstance(one, bool) or not isinstance(one, int) or one < 0 for one in pair):
        raise PlanError(
            f"expected a number, or the least and the most, such as [10, 900], got {value!r}", place
        )
    if pair[0] > pair[1]:
        raise PlanError(f"the least is more than the most: {pair[0]}, {pair[1]}", place)
    return tuple(pair)

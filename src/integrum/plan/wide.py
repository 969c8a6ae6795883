"""What a wide source is like: header cells that are values of one thing, with a column for each."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from integrum.errors import PlanError
from integrum.plan.column import Column
from integrum.plan.fields import EMPTY, EmptyCells, fits, is_pattern, loosened
from integrum.plan.scheme import Scheme
from integrum.plan.validating import one_of, set_on, text, texts
from integrum.plan.wrong_words import fields_answer
from integrum.values.arrays import texts as texts_of
from integrum.values.notation import Conversion
from integrum.values.pipeline import convert
from integrum.values.types import TypeName

# stands for a slash while a header cell is compared with a scheme, which takes slashes for folders
_SLASH = "\u2215"
# this many columns that `wide` takes are those of a draft
_DRAFTED = 3


@fields_answer
@dataclass(frozen=True)
class Wide:
    """Headers of a group that become values of a column: each row of the file gives a row for each of them.

    Parameters
    ----------
    headers
        The headers: names and patterns (``*``, ``?``), one or a list; or one scheme, such as
        ``"{measure} {depth} m"``, whose parts become columns. A part that is called ``month``, ``quarter``, ``year``,
        ``week``, ``date``, ``day`` or ``depth`` has to look like one: ``"{month}"`` fits ``2024-05`` and ``May 2024``.
    name
        The column for the headers; only without a scheme.
    value
        The column for the values. With a scheme it can be a part of it: ``"{measure}"`` gives a column for each measure.
    empty
        An empty cell gives nothing (``"drop"``) or a row without a value (``"keep"``).

    Raises
    ------
    PlanError
        When a value is not of the kind described here.

    Examples
    --------
    >>> Wide("20??-??", "month", "count").read("2024-05")
    ({'month': '2024-05'}, 'count')
    >>> Wide("{measure} {depth} m", value="{measure}").read("oxygen 5 m")
    ({'depth': '5'}, 'oxygen')
    >>> Wide("{month}", value="rain").read("May 2024"), Wide("{month}").read("station")
    (({'month': 'May 2024'}, 'rain'), None)
    """

    headers: Sequence[str]
    name: str = ""
    value: str = "value"
    empty: EmptyCells = "drop"

    def __post_init__(self) -> None:
        set_on(self, "headers", texts(self.headers, "headers", lone=True))
        text(self.name, "name", empty=True)
        text(self.value, "value")
        one_of(self.empty, EMPTY, "empty")
        if not self.headers:
            raise PlanError(
                "expected at least one header cell, pattern or scheme; the list is empty", "headers"
            )
        scheme = None
        if any("{" in each for each in self.headers):
            if len(self.headers) > 1:
                raise PlanError(
                    "a scheme cannot be combined with others; give one scheme, or a list of names and patterns",
                    "headers",
                )
            try:
                scheme = Scheme(self.headers[0].replace("/", _SLASH), known=True)
            except PlanError as error:
                raise PlanError(error.message, "headers") from None
            if self.name:
                raise PlanError("the parts of the scheme name the columns; remove this key", "name")
            strange = [part for part in _parts(self.value) if part not in scheme.names]
            if strange:
                raise PlanError(f'"{strange[0]}" is not a part of the scheme "{self.headers[0]}"', "value")
        elif not self.name:
            raise PlanError("missing; names the column that takes the headers", "name")
        elif _parts(self.value):
            raise PlanError("there are parts in braces, but headers is not a scheme", "value")
        set_on(self, "_scheme", scheme)

    @property
    def names(self) -> tuple[str, ...]:
        """The columns that take header cells, or parts of them."""
        scheme: Scheme | None = getattr(self, "_scheme", None)
        if scheme is None:
            return (self.name,)
        used = _parts(self.value)
        return tuple(name for name in scheme.names if name not in used)

    @property
    def value_column(self) -> str:
        """The column that takes the values; empty where the header cells name it."""
        return "" if _parts(self.value) else self.value

    def read(self, header: str) -> tuple[dict[str, str], str] | None:
        """What a header cell says: the values of `names`, and the header of its values; None when it is not one of them."""
        scheme: Scheme | None = getattr(self, "_scheme", None)
        if scheme is None:
            said = any(header == each or (is_pattern(each) and fits(header, each)) for each in self.headers)
            return ({self.name: header}, self.value) if said else None
        found = scheme.fit(header.replace("/", _SLASH)).values
        if found is None:
            return None
        parts = {name: value.replace(_SLASH, "/").strip() for name, value in found.items()}
        value = self.value
        for name in _parts(self.value):
            value = value.replace(f"{{{name}}}", parts[name])
        return {name: parts[name] for name in self.names}, value


def _parts(value: str) -> list[str]:
    return [piece.partition("}")[0] for piece in value.split("{")[1:]]


def with_wide(columns: Sequence[Column], wides: Sequence[Wide]) -> tuple[Column, ...]:
    """The columns of a table when some of them become rows: those that `wide` takes, and then those that it fills.

    A column of which `wide` takes every header is no column of the table; but where the columns that it fills are listed,
    one or two of these are exceptions, and stay. What `wide` fills and the columns do not name
    stands in the place of the first of them; its type is that of most.

    Examples
    --------
    >>> from integrum.plan.column import Column
    >>> columns = [Column("station"), *(Column(name, "number") for name in ("May 2024", "Jun 2024", "Jul 2024"))]
    >>> [(one.name, one.type) for one in with_wide(columns, [Wide("{month}", value="rain")])]
    [('station', 'text'), ('month', 'month'), ('rain', 'number')]
    """
    taken = {one.name: said for one in columns if (said := _read_all(one, wides))}
    named = {one.name for one in columns}
    if len(taken) < _DRAFTED and all(name in named for wide in wides for name in wide.names):
        return tuple(columns)  # a column that somebody has written beside them stays one
    kept = [one for one in columns if one.name not in taken]
    there = {loosened(header) for one in kept for header in one.headers}
    parts: dict[str, dict[str, None]] = {}
    values: dict[str, list[Column]] = {}
    for one in columns:
        for found, value in taken.get(one.name, ()):
            for name, part in found.items():
                parts.setdefault(name, {})[part] = None
            values.setdefault(value, []).append(one)
    made = [
        Column(name, _type_of(list(texts))) for name, texts in parts.items() if loosened(name) not in there
    ]
    made += [_together(name, some) for name, some in values.items() if loosened(name) not in there]
    first = next((at for at, one in enumerate(columns) if one.name in taken), 0)
    before = [one for one in columns[:first] if one.name not in taken]
    return (*before, *made, *kept[len(before) :])


def _read_all(column: Column, wides: Sequence[Wide]) -> list[tuple[dict[str, str], str]]:
    """What `wide` says of the headers of a column; nothing where it does not take all of them."""
    found = []
    for header in column.headers:
        said = next((said for wide in wides if (said := wide.read(header))), None)
        if said is None or column.name in (*said[0], said[1]):
            return []
        found.append(said)
    return found


def _type_of(values: Sequence[str]) -> TypeName:
    """The type that all parts of headers have."""
    kinds: tuple[TypeName, ...] = ("integer", "number", "month", "date")
    for name in kinds:
        if not len(convert(texts_of(values), Conversion(name)).bad):
            return name
    return "text"


def _together(name: str, some: Sequence[Column]) -> Column:
    """A column for the values of several, with the type of most of them."""
    counts = Counter(one.type for one in some)
    kinds = {kind for kind in counts if kind in ("integer", "number")}
    numbers = sum(counts[kind] for kind in kinds)
    kind = counts.most_common(1)[0][0]
    if 2 * numbers >= len(some):
        kind = "number" if "number" in kinds else "integer"
    units = {one.unit for one in some if one.type == kind}
    orders = {one.date_order for one in some if one.type == kind}
    return Column(
        name,
        kind,
        missing=tuple(dict.fromkeys(code for one in some for code in one.missing)),
        unit=units.pop() if len(units) == 1 else "",
        date_order=orders.pop() if len(orders) == 1 else "",
    )

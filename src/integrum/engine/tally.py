"""Count like findings together: one problem for each source, column and kind, with its first place."""

from __future__ import annotations

import json
from collections.abc import Iterable, Iterator, Mapping

import pyarrow as pa

from integrum.arrow.shelf import Shelf
from integrum.plan.column import Column
from integrum.problems import Problem
from integrum.reading.aside import SetAside
from integrum.reading.left_out import LeftOutRow
from integrum.reading.parts import Part

# so many findings, each of a column in a source, are kept in memory
MOST = 20_000
_KEPT = pa.schema(
    {
        "source": pa.int64(),
        "code": pa.string(),
        "column": pa.string(),
        "count": pa.int64(),
        "row": pa.int64(),
        "raw": pa.string(),
        "whole": pa.bool_(),
        "said": pa.string(),
        "raws": pa.string(),
    }
)
_ROWS = {
    "row-too-long": (
        "more cells than the header",
        "is a text with a delimiter in it not quoted?",
    ),
    "row-too-short": ("fewer cells than the header", "is a text with a line break in it not quoted?"),
    "text-after-quote": (
        "text after a closing quote",
        "write a quote inside a quoted cell twice",
    ),
}
_BLANK, _WHOLE = "left empty", "row set aside"
# so many different bad values are shown
_SAMPLE = 3


class Tally:
    """Collects cells and rows that were set aside.

    Parameters
    ----------
    columns
        The table's columns, by name.
    """

    def __init__(self, columns: Mapping[str, Column]) -> None:
        self._columns = columns
        self._found: dict[tuple[int, str, str], tuple[int, SetAside]] = {}
        self._raws: dict[tuple[int, str, str], dict[str, None]] = {}
        self._like: dict[int, dict[Part, tuple[int, LeftOutRow]]] = {}
        self._away = Shelf(_KEPT)
        self._forgotten: set[tuple[int, str]] = set()

    def add(self, entries: Iterable[SetAside]) -> None:
        """Count these."""
        for one in entries:
            key = (one.source, one.code, one.column)
            count, first = self._found.get(key, (0, one))
            self._found[key] = (count + 1, first)
            if one.code == "bad-value":
                raws = self._raws.setdefault(key, {})
                if len(raws) < _SAMPLE:
                    raws[one.raw] = None
        if len(self._found) > MOST:
            self._put_away()

    def _put_away(self) -> None:
        """Keep what was found so far on the disk."""
        rows = [
            (*key, count, one.row, one.raw, one.whole, one.said, json.dumps([*self._raws.get(key, ())]))
            for key, (count, one) in self._found.items()
        ]
        arrays = [
            pa.array(cells, kind) for cells, kind in zip(zip(*rows, strict=True), _KEPT.types, strict=True)
        ]
        self._away.add(pa.Table.from_arrays(arrays, schema=_KEPT))
        self._found.clear()
        self._raws.clear()

    def _of(self, source: int) -> dict[tuple[str, str], tuple[int, SetAside, dict[str, None]]]:
        """What was found in a source, by code and column."""
        found: dict[tuple[str, str], tuple[int, SetAside, dict[str, None]]] = {}

        def take(count: int, one: SetAside, raws: Iterable[str]) -> None:
            before, first, some = found.get((one.code, one.column), (0, one, {}))
            for raw in raws:
                if len(some) < _SAMPLE:
                    some[raw] = None
            found[one.code, one.column] = (before + count, first, some)

        for row in self._away.of(source).to_pylist() if len(self._away) else ():
            take(
                row["count"],
                SetAside(
                    source, row["row"], row["column"], row["code"], row["raw"], row["whole"], row["said"]
                ),
                json.loads(row["raws"]),
            )
        for key in self._keys().get(source, ()):
            take(*self._found[key], self._raws.get(key, ()))
        return found

    def _keys(self) -> dict[int, list[tuple[int, str, str]]]:
        """The keys of what is in memory, by source."""
        if self._by_source is None or self._by_source[0] != len(self._found):
            made: dict[int, list[tuple[int, str, str]]] = {}
            for key in self._found:
                made.setdefault(key[0], []).append(key)
            self._by_source = (len(self._found), made)
        return self._by_source[1]

    _by_source: tuple[int, dict[int, list[tuple[int, str, str]]]] | None = None

    def bad_values(self) -> Iterator[tuple[int, str, int, tuple[str, ...]]]:
        """The bad values by source and column: how many, and a few different ones."""
        for source in sorted({*self._away.numbers(), *self._keys()}):
            for (code, column), (count, _, raws) in self._of(source).items():
                if code == "bad-value":
                    yield source, column, count, tuple(raws)

    def forget(self, source: int, column: str) -> None:
        """Count the bad values of a column no more, as they are told of otherwise."""
        self._forgotten.add((source, column))

    def add_like_data(self, entries: Iterable[LeftOutRow]) -> None:
        """Count these rows that are left out but read like the data."""
        for one in entries:
            parts = self._like.setdefault(one.source, {})
            count, first = parts.get(one.part, (0, one))
            parts[one.part] = (count + 1, first)

    def problems(self, source: int, name: str) -> list[Problem]:
        """The findings in a source, in order.

        Parameters
        ----------
        source, name
            Its number and its name.
        """
        return [*self._about_left_out(source, name), *self._about_aside(source, name)]

    def _about_left_out(self, source: int, name: str) -> Iterator[Problem]:
        for part, (count, first) in self._like.get(source, {}).items():
            code = "left-out-like-data"
            yield Problem.of(code, name, first.row, "", first.raw, count, part.like_data, part.hint)

    def _about_aside(self, source: int, name: str) -> list[Problem]:
        found = [
            (count, first)
            for (code, column), (count, first, _) in self._of(source).items()
            if code != "bad-value" or (source, column) not in self._forgotten
        ]
        found.sort(key=lambda one: one[1].row or 0)
        return [self._problem(name, count, first) for count, first in found]

    def _problem(self, name: str, count: int, first: SetAside) -> Problem:
        code, column = first.code, first.column
        if code == "beside-the-table":
            message, hint = (
                "left out: the column does not have a header",
                "give the column a header in the source, or set last_column in the layout",
            )
        elif code == "values-differ":
            message, hint = (
                "several headers of this column have different values here; the first one is in the table",
                "fix them in the source, or change the order of `also`",
            )
        elif code == "bad-value":
            wanted = self._columns.get(column)
            what = wanted.kind.wrong if wanted else "not of the type of the column"
            what, hint = (first.said, "fix it in the source") if first.said else (what, _hint(wanted, first))
            message = f"{what}, {_WHOLE if first.whole else _BLANK}"
        else:
            message, hint = _ROWS[code]
            message += ", row set aside"
        return Problem("warning", code, name, first.row, column, first.raw, count, message, hint)


def _hint(column: Column | None, first: SetAside) -> str:
    """What to do about a bad value, by what it looks like."""
    said = column.kind.advice(first.raw, column.given) if column and not first.whole else ""
    return said or "fix it in the source, add it to `missing`, or make the column text"

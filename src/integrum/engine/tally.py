"""Count like findings together: one problem for each source, column and kind, with its first place."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Mapping, Sequence

from integrum.plan.column import Column
from integrum.problems import Problem
from integrum.reading.aside import Aside
from integrum.reading.left_out import LeftOut
from integrum.values.types import TYPES

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
_READS_LIKE_DATA = {
    "preamble": (
        "left out as part of the preamble, but it looks like data",
        "check header_row in the layout",
    ),
    "header": (
        "used as the header, but it looks like data",
        'set header_row = "none" if the source does not have a header',
    ),
    "units": (
        "left out as a row of units, but it looks like data",
        "remove units_row from the layout if it is data",
    ),
    "repeated-header": (
        "left out as a repeated header, but it looks like data",
        "check header_row in the layout",
    ),
    "comment": (
        "left out as a comment, but it looks like data",
        "remove comment_mark from the layout if it is data",
    ),
    "footer": (
        "left out as part of the footer, but it looks like data",
        "check footer_from and last_row in the layout",
    ),
}
_BLANK, _WHOLE = "left empty", "row set aside"
# so many different bad values are shown
_SAMPLE = 3
_ORDERED = re.compile(r"\s*\d{1,2}[-/. ]\d{1,2}[-/. ]\d{2}(\d{2})?\b.*")
_ZONED = re.compile(r".*\d{2}(Z|[+-]\d{2}:?\d{2}|UTC|GMT)\s*")


class Tally:
    """Collects cells and rows that were set aside.

    Parameters
    ----------
    columns
        The table's columns, by name.
    """

    def __init__(self, columns: Mapping[str, Column]) -> None:
        self._columns = columns
        self._found: dict[tuple[int, str, str], tuple[int, Aside]] = {}
        self._raws: dict[tuple[int, str, str], dict[str, None]] = {}
        self._like: dict[tuple[int, str], tuple[int, LeftOut]] = {}

    def add(self, entries: Iterable[Aside]) -> None:
        """Count these."""
        for one in entries:
            key = (one.source, one.code, one.column)
            count, first = self._found.get(key, (0, one))
            self._found[key] = (count + 1, first)
            if one.code == "bad-value":
                raws = self._raws.setdefault(key, {})
                if len(raws) < _SAMPLE:
                    raws[one.raw] = None

    def bad_values(self) -> list[tuple[int, str, int, tuple[str, ...]]]:
        """The bad values by source and column: how many, and a few different ones."""
        return [
            (source, column, self._found[source, code, column][0], tuple(raws))
            for (source, code, column), raws in self._raws.items()
        ]

    def forget(self, source: int, column: str) -> None:
        """Count the bad values of a column no more, as they are told of otherwise."""
        self._found.pop((source, "bad-value", column), None)

    def add_like_data(self, entries: Iterable[LeftOut]) -> None:
        """Count these rows that are left out but read like the data."""
        for one in entries:
            count, first = self._like.get((one.source, one.part), (0, one))
            self._like[one.source, one.part] = (count + 1, first)

    def problems(self, names: Sequence[str]) -> list[tuple[int, Problem]]:
        """The findings with the number of their source, in order."""
        return [*self._about_left_out(names), *self._about_aside(names)]

    def _about_left_out(self, names: Sequence[str]) -> Iterator[tuple[int, Problem]]:
        for (source, part), (count, first) in self._like.items():
            message, hint = _READS_LIKE_DATA[part]
            yield (
                source,
                Problem(
                    "warning",
                    "left-out-like-data",
                    names[source],
                    first.row,
                    "",
                    first.raw,
                    count,
                    message,
                    hint,
                ),
            )

    def _about_aside(self, names: Sequence[str]) -> list[tuple[int, Problem]]:
        keys = sorted(self._found, key=lambda key: (key[0], self._found[key][1].row or 0))
        return [(key[0], self._problem(names, key)) for key in keys]

    def _problem(self, names: Sequence[str], key: tuple[int, str, str]) -> Problem:
        source, code, column = key
        count, first = self._found[key]
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
            what = f"not {TYPES[wanted.type].words}" if wanted else "not of the type of the column"
            what = "an error value of a spreadsheet" if wanted and wanted.type == "text" else what
            what, hint = (first.said, "fix it in the source") if first.said else (what, _hint(wanted, first))
            message = f"{what}, {_WHOLE if first.whole else _BLANK}"
        else:
            message, hint = _ROWS[code]
            message += ", row set aside"
        return Problem("warning", code, names[source], first.row, column, first.raw, count, message, hint)


def _hint(column: Column | None, first: Aside) -> str:
    """What to do about a bad value, by what it looks like."""
    kind = column.type if column else ""
    if column and kind in ("date", "datetime") and not first.whole:
        if _ORDERED.fullmatch(first.raw) and not (column.date_order or column.format):
            return 'set date_order = "dmy" or "mdy" for the column, or set its `format`'
        if _ZONED.fullmatch(first.raw) and not column.zone:
            return 'set zone = "UTC" for the column, or zone = "as-written"'
    if kind in ("number", "integer") and column and not first.whole:
        if first.raw.strip()[:1] in "<>≤≥" and not column.censored:
            return 'set censored = "NAME" for the column: the sign goes into a column of that name'
        if first.raw.strip()[-1:] == "%" and not column.percent:
            return 'set percent = "as-written" or "share" for the column, or unit = "%"'
    return "fix it in the source, add it to `missing`, or make the column text"

"""Count like findings together: one problem for each source, column and kind, with its first place."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Mapping, Sequence

from integrum.plan.column import Column
from integrum.problems import Problem
from integrum.reading.aside import Aside
from integrum.reading.left_out import LeftOut

_ROWS = {
    "row-too-long": (
        "the row has more cells than the header",
        "a text with a delimiter in it may lack its quotes",
    ),
    "row-too-short": ("the row has fewer cells than the header", "a line break may be missing its quotes"),
    "text-after-quote": (
        "text stands behind a closing quote",
        "a quote inside a quoted cell has to be doubled",
    ),
}
_READS_LIKE_DATA = {
    "preamble": (
        "left out as a line of the preamble, but it reads like the data",
        "check header_row in the layout",
    ),
    "header": (
        "taken for the header, but it reads like the data",
        'set header_row = "none" if the source has no header',
    ),
    "units": (
        "left out as a row of units, but it reads like the data",
        "remove units_row from the layout if it is data",
    ),
    "repeated-header": (
        "left out as a repeated header, but it reads like the data",
        "check header_row in the layout",
    ),
    "comment": (
        "left out as a comment, but it reads like the data",
        "remove comment_mark from the layout if it is data",
    ),
    "footer": (
        "left out as part of the footer, but it reads like the data",
        "check footer_from and last_row in the layout",
    ),
}
_BLANK, _WHOLE = "its cell is empty in the table", "its row was set aside"
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
                "no header cell stands over it, so it is left out",
                "give the column a name in its header, or say last_column in the layout",
            )
        elif code == "values-differ":
            message, hint = (
                "several of its header cells have a value here, and they differ; the first is in the table",
                "correct them in the source, or change the order of `also`",
            )
        elif code == "bad-value":
            wanted = self._columns.get(column)
            what = f"not of type {wanted.type}" if wanted else "not of their columns' types"
            what = "an error in a spreadsheet" if wanted and wanted.type == "text" else what
            what, hint = (first.said, "mend it in the source") if first.said else (what, _hint(wanted, first))
            message = f"{what}; {_WHOLE if first.whole else _BLANK}"
        else:
            message, hint = _ROWS[code]
            message += "; it was set aside"
        return Problem("warning", code, names[source], first.row, column, first.raw, count, message, hint)


def _hint(column: Column | None, first: Aside) -> str:
    """What to do about a bad value, by what it looks like."""
    kind = column.type if column else ""
    if column and kind in ("date", "datetime") and not first.whole:
        if _ORDERED.fullmatch(first.raw) and not (column.date_order or column.format):
            return 'say date_order = "dmy" or "mdy" for the column, or give its `format`'
        if _ZONED.fullmatch(first.raw) and not column.zone:
            return 'say zone = "UTC" for the column, or zone = "as-written"'
    if kind in ("number", "integer") and column and not first.whole:
        if first.raw.strip()[:1] in "<>≤≥" and not column.censored:
            return 'say censored = "NAME" for the column: the sign goes to a column of that name'
        if first.raw.strip()[-1:] == "%" and not column.percent:
            return 'say percent = "as-written" or "share" for the column, or unit = "%"'
    return "mend it in the source, list it in `missing`, or make the column text"

"""Count like findings together: one problem for each source, column and kind, with its first place."""

from __future__ import annotations

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
_DONE = {
    "blank": "its cell is empty in the table",
    "set-row-aside": "its row was set aside",
    "set-source-aside": "",
}


class Tally:
    """Collects cells and rows that were set aside.

    Parameters
    ----------
    columns
        The table's columns, by name.
    bad_values
        The plan's rule.
    """

    def __init__(self, columns: Mapping[str, Column], bad_values: str) -> None:
        self._columns = columns
        self._rule = bad_values
        self._found: dict[tuple[int, str, str], tuple[int, Aside]] = {}
        self._like: dict[tuple[int, str], tuple[int, LeftOut]] = {}

    def add(self, entries: Iterable[Aside]) -> None:
        """Count these."""
        for one in entries:
            key = (one.source, one.code, one.column)
            count, first = self._found.get(key, (0, one))
            self._found[key] = (count + 1, first)

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
            message = f"{what}; {_DONE[self._rule]}"
            hint = "mend it in the source, list it in `missing`, or make the column text"
        else:
            message, hint = _ROWS[code]
            message += "; it was set aside"
        return Problem("warning", code, names[source], first.row, column, first.raw, count, message, hint)

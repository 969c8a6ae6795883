"""Cells and rows that are kept out of the table: in the record one by one, and as problems counted by source and column."""

from __future__ import annotations

import json
from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import NamedTuple

import pyarrow as pa

from integrum.dispatch.job import Looked, State, in_order
from integrum.measures.left_out import TOLD
from integrum.measures.measure import Context, Measure, Recalled
from integrum.measures.tables import SET_ASIDE
from integrum.plan.column import Column
from integrum.problems.problem import Problem
from integrum.reading.parts import SetAside
from integrum.values.spill import Spill

# this many findings, each of a column in a source, are kept in memory
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
# of what is found by its code alone: what is said, and what to do
_SAID = {
    "row-too-long": (
        "more cells than the header, row set aside",
        "is a text with a delimiter in it not quoted?",
    ),
    "row-too-short": (
        "fewer cells than the header, row set aside",
        "is a text with a line break in it not quoted?",
    ),
    "row-again": (
        "the same row is in an earlier source, row set aside",
        'set repeated_rows = "report" in [rules] to have it twice',
    ),
    "text-after-quote": (
        "text after a closing quote, row set aside",
        "write a quote inside a quoted cell twice",
    ),
    "beside-the-table": (
        "left out: the column does not have a header",
        "give the column a header in the source, or set last_column in the layout",
    ),
    "values-differ": (
        "several headers of this column have different values here; the first one is in the table",
        "fix them in the source, or change the order of `also`",
    ),
}
_BAD = "bad-value"
_BLANK, _WHOLE = "left empty", "row set aside"
# this many different bad values are shown
_SAMPLE = 3


class SetAsideBatch(NamedTuple):
    """The cells and rows that a job set aside, in order; of sources that are taken over, their problems."""

    entries: Sequence[SetAside]
    told: Mapping[int, Sequence[Problem]] | None = None


class AsideProblems(State[SetAsideBatch]):
    """Counts them: one problem for each source, column and code, with its first place."""

    def __init__(self, context: Context) -> None:
        self._context, self._keep = context, context.keep.aside
        self._columns = {column.name: column for column in context.matched.columns}
        self._found: dict[tuple[int, str, str], tuple[int, SetAside]] = {}
        self._raws: dict[tuple[int, str, str], dict[str, None]] = {}
        self._away = Spill(_KEPT)
        self._by_source: tuple[int, dict[int, list[tuple[int, str, str]]]] | None = None
        self._told: dict[int, list[Problem]] = {}
        self._forgotten: set[tuple[int, str]] = set()

    def add(self, seen: SetAsideBatch) -> None:
        """Keep those of a job, and count them. Those taken over are counted already."""
        if seen.entries:
            self._keep(seen.entries)
        if seen.told is not None:
            for number, problems in seen.told.items():
                self._told[number] = list(problems)
            return
        for one in seen.entries:
            key = (one.source, one.code, one.column)
            count, first = self._found.get(key, (0, one))
            self._found[key] = (count + 1, first)
            if one.code == _BAD:
                raws = self._raws.setdefault(key, {})
                if len(raws) < _SAMPLE:
                    raws[one.raw] = None
        if len(self._found) > MOST:
            self._put_away()

    def finish(self) -> None:
        """Keep an entry for each source that is set aside as a whole."""
        self._keep(
            [
                SetAside(number, None, "", summary.reason, "")
                for number, summary in enumerate(self._context.summaries)
                if not summary.is_assembled
            ]
        )

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
            place = (source, row["row"], row["column"], row["code"], row["raw"])
            take(row["count"], SetAside(*place, row["whole"], row["said"]), json.loads(row["raws"]))
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

    def bad_values(self) -> Iterator[tuple[int, str, int, str]]:
        """The bad values by source and column: how many, and the first."""
        for source in sorted({*self._away.numbers(), *self._keys()}):
            for (code, column), (count, _, raws) in self._of(source).items():
                if code == _BAD:
                    yield source, column, count, next(iter(raws))

    def forget(self, source: int, column: str) -> None:
        """Report the bad values of a column no more; another problem covers them."""
        self._forgotten.add((source, column))

    def problems(self, number: int) -> list[Problem]:
        """What was found in a source, in the order of its rows."""
        found = [
            (count, first)
            for (code, column), (count, first, _) in self._of(number).items()
            if code != _BAD or (number, column) not in self._forgotten
        ]
        found.sort(key=lambda one: one[1].row or 0)
        return self._told.get(number, []) + [
            self._problem(self._context.summaries[number].source, *one) for one in found
        ]

    def _problem(self, name: str, count: int, first: SetAside) -> Problem:
        if first.code == _BAD:
            wanted = self._columns.get(first.column)
            what, hint = (
                wanted.kind.wrong if wanted else "not of the type of the column",
                _hint(wanted, first),
            )
            if first.said:
                what, _, hint = first.said.partition("\n")
            hint = hint.replace("{source}", name) or "fix it in the source"
            message = f"{what}, {_WHOLE if first.whole else _BLANK}"
        else:
            message, hint = _SAID[first.code]
        return Problem.of(first.code, name, first.row, first.column, first.raw, count, message, hint)


def _hint(column: Column | None, first: SetAside) -> str:
    """What to do about a bad value, by what it looks like."""
    said = column.kind.advice(first.raw, column.given) if column and not first.whole else ""
    return said or "fix it in the source, add it to `missing`, or make the column text"


class AsideRows(Measure[Looked, SetAsideBatch, AsideProblems]):
    """The measure of cells and rows that are kept out of the table."""

    begin = AsideProblems

    def look(self, rows: Looked) -> SetAsideBatch:
        """Those of a job."""
        return SetAsideBatch(in_order(rows.aside))

    def recall(self, earlier: Recalled) -> SetAsideBatch:
        """The entries of the record, and what was said of them."""
        told = {number: list(filter(_is_here, earlier.problems(number))) for number in earlier.was}
        return SetAsideBatch(list(earlier.entries(SET_ASIDE)), told)


def _is_here(one: Problem) -> bool:
    """Whether a problem is one of rows that was found here; of identifiers and sheets there are some of these codes, too."""
    return (
        one.kind.scope == "rows" and one.severity != "note" and one.row is not None and one.code not in TOLD
    )


ASIDE = AsideRows()

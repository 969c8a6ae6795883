"""Values out of a list in another file, and the other way round."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import partial
from pathlib import Path

import pyarrow as pa
import pyarrow.compute as pc
import pyarrow.csv as pacsv

from integrum.checking.allowed import not_among
from integrum.checking.kind import CheckState, Kind
from integrum.checking.per_value import PerValue, Wrong
from integrum.checking.rows import TableRows
from integrum.engine.ledger import SourceSummary
from integrum.errors import PlanError
from integrum.plan.check import Check
from integrum.plan.validating import nearest
from integrum.problems import Problem


@dataclass(frozen=True)
class Listed(Kind):
    """The check that a plan describes."""

    column: str
    # the name of the file, and the distinct values in it
    file: str
    values: tuple[str, ...]
    both_ways: bool  # whether all of them have to be in the table

    @property
    def _strays(self) -> PerValue:
        return PerValue(
            self.column,
            "not-in-list",
            f"not in the list {self.file}",
            "if it is another spelling, add it to `values` of the column; if it is right, add it to the list",
            partial(not_among, column=self.column, values=self.values),
        )

    def look(self, rows: TableRows) -> tuple[list[Wrong], tuple[str, ...]]:
        """The values that are not in the list, and those that are there."""
        there: tuple[str, ...] = ()
        if self.both_ways:
            values = set(pc.unique(rows.texts(self.column)).to_pylist())
            # one by one, as each is named as it is in the list
            there = tuple(
                one for one in self.values if values & set(rows.wanted(self.column, [one]).to_pylist())
            )
        return self._strays.look(rows), there

    def begin(self) -> _Both:
        """A state that has seen nothing."""
        return _Both(self, self._strays.begin())


class _Both(CheckState):
    def __init__(self, of: Listed, strays: CheckState) -> None:
        self._of, self._strays = of, strays
        self._absent = dict.fromkeys(of.values)

    def add(self, seen: tuple[list[Wrong], tuple[str, ...]]) -> None:
        self._strays.add(seen[0])
        for value in seen[1]:
            self._absent.pop(value, None)

    def findings(self, sources: Sequence[SourceSummary]) -> Iterator[Problem]:
        yield from self._strays.findings(sources)
        if self._of.both_ways and self._absent:
            first = next(iter(self._absent))
            yield Problem.of(
                "listed-but-missing",
                column=self._of.column,
                raw=first,
                count=len(self._absent),
                message=f"in the list {self._of.file}, but not in the table",
                hint="is a source missing, or is the list out of date?",
            )


def listed(check: Check) -> Listed:
    """The check that a plan describes; its list is read here.

    Raises PlanError when there is no such file, or no such column in it.
    """
    place, header = f'check "{check.key}", key listed', check.header or check.column
    try:
        # all columns as texts
        names = pacsv.open_csv(check.listed).schema.names
        table = pacsv.read_csv(
            check.listed, convert_options=pacsv.ConvertOptions(column_types=dict.fromkeys(names, pa.string()))
        )
    except (OSError, pa.ArrowInvalid) as error:
        raise PlanError(f"{check.listed} cannot be read as CSV: {error}", place) from None
    if header not in names:
        said = ", ".join(names)
        raise PlanError(
            f'{check.listed} has no column "{header}"{nearest(header, names)}; it has {said}', place
        )
    values = tuple(one.strip() for one in pc.unique(table[header]).to_pylist() if one and one.strip())
    return Listed(check.column, Path(check.listed).name, values, check.both_ways)

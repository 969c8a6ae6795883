"""All measures of a run: a file and a line each. A run, its record and its re-use are loops over them."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import Any, TypeVar, cast

from integrum.dispatch.engine import FoundBySource
from integrum.dispatch.job import State, TaskResult
from integrum.measures.accounts import ACCOUNTS, SPANS
from integrum.measures.categories import CATEGORY_COUNTS
from integrum.measures.checks import PreparedCheck, TableChecks
from integrum.measures.codebook import UNITS
from integrum.measures.ends import TABLE_ENDS
from integrum.measures.filled import BAD_SHARES, DATE_ORDERS, FILLED, HEADS
from integrum.measures.left_out import LEFT
from integrum.measures.measure import Context, Measure
from integrum.measures.missing_codes import MISSING_CODES, SIGNS
from integrum.measures.repeated_rows import REPEATED_ROWS, ROW_RUNS
from integrum.measures.set_aside import ASIDE
from integrum.measures.tables import (
    BLOCKS,
    CATEGORIES,
    CHECKS,
    COLUMNS,
    ENDS,
    HEADERS,
    LEFT_OUT,
    METHODS,
    PAGES,
    PLAN,
    PREAMBLE,
    PROBLEMS,
    ROWS,
    SET_ASIDE,
    VARIANTS,
    sources_table,
    values_table,
)
from integrum.measures.values import VALUES as SKETCHES
from integrum.problems.problem import Problem
from integrum.record.run_file import MANIFEST, NAME
from integrum.record.table import RecordTable

Collected = TypeVar("Collected", bound=State[Any])
AnyMeasure = Measure[Any, Any, Any]

# problems of a source are told in this order, and so are the columns that measures have in the record
MEASURES: tuple[AnyMeasure, ...] = (
    ACCOUNTS,
    SPANS,
    BAD_SHARES,
    LEFT,
    ASIDE,
    SKETCHES,
    UNITS,
    MISSING_CODES,
    SIGNS,
    DATE_ORDERS,
    CATEGORY_COUNTS,
    FILLED,
    TABLE_ENDS,
    ROW_RUNS,
    HEADS,
    REPEATED_ROWS,
)


def measures_of(checks: Sequence[PreparedCheck]) -> tuple[AnyMeasure, ...]:
    """The measures of a run, with the checks of its plan."""
    return (*MEASURES, TableChecks(checks))


class States(Sequence[State[Any]]):
    """The states of the measures of a run, in their order."""

    def __init__(self, measures: Sequence[AnyMeasure], context: Context) -> None:
        self.measures = measures
        self._states = [measure.begin(context) for measure in measures]

    def __len__(self) -> int:
        return len(self._states)

    def __getitem__(self, at: Any) -> Any:
        """The state at a position."""
        return self._states[at]

    def of(self, measure: Measure[Any, Any, Collected]) -> Collected:
        """The state of a measure."""
        return cast(Collected, self._states[self.measures.index(measure)])

    def take(self, done: TaskResult) -> None:
        """Take what the measures saw on a worker."""
        for state, seen in zip(self._states, done.seen, strict=True):
            state.add(seen)

    def finish(self) -> None:
        """Note that all rows have been seen."""
        for state in self._states:
            state.finish()

    def problems(self, found: FoundBySource) -> Iterator[Problem]:
        """All problems: of the search and the columns, then source by source, then of the table as a whole."""
        yield from found.of_all
        telling = [state for state in self._states if type(state).problems is not State.problems]
        for number, (before, after) in enumerate(found.of_sources):
            yield from before
            for state in telling:
                yield from state.problems(number)
            yield from after
        for state in self._states:
            yield from state.findings()

    def entries(self) -> Mapping[RecordTable[Any], Iterable[Any]]:
        """The files of the record that they fill, with their entries."""
        return {table: some for state in self._states for table, some in state.entries()}


SOURCES = sources_table([one.source_column for one in MEASURES if one.source_column])
VALUES = values_table([one.value_column for one in MEASURES if one.value_column])
TABLES: tuple[RecordTable[Any], ...] = (
    SOURCES,
    PROBLEMS,
    SET_ASIDE,
    LEFT_OUT,
    COLUMNS,
    VALUES,
    CATEGORIES,
    CHECKS,
    ENDS,
    HEADERS,
    PREAMBLE,
    VARIANTS,
    BLOCKS,
    ROWS,
)
# what an overview shows
SHOWN: tuple[RecordTable[Any], ...] = (SOURCES, COLUMNS, CATEGORIES, CHECKS, ENDS)
FILES = (PLAN, NAME, MANIFEST, METHODS, *PAGES, *(one.file for one in TABLES))


# the first schema of which every record has a manifest
MANIFEST_SINCE = 8


def files_since(schema: int) -> list[str]:
    """The files that every record of a schema has."""
    manifest = [MANIFEST] if schema >= MANIFEST_SINCE else []
    return [PLAN, NAME, *manifest, *(one.file for one in TABLES if 0 < one.since <= schema)]

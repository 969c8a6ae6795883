"""What a measure is, what a check is, and the rows that they look at."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, Generic, NamedTuple, Protocol, TypeVar

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from integrum.columns.table_schema import TableSchema, as_numbers, as_texts
from integrum.dispatch.job import Looked, State
from integrum.intake.inspecting import Inspection
from integrum.intake.ledger import SourceSummary
from integrum.intake.matched import Matched
from integrum.measures.items import Cells
from integrum.plan.column import Column
from integrum.plan.rules import Provenance
from integrum.problems.problem import Problem
from integrum.reading.parts import LeftOutRow, SetAside
from integrum.record.table import RecordColumn, RecordTable
from integrum.values.arrays import Floats, Ints, in_one, ints, texts, wholes
from integrum.values.sketch import numbers_of

Item = TypeVar("Item")
Rows = TypeVar("Rows", bound=Looked, contravariant=True)
Seen = TypeVar("Seen")
Collected = TypeVar("Collected", bound=State[Any], covariant=True)
# where the rows of a source are in a payload: its number, how many rows, and how many bytes in CSV
Span = tuple[int, int, int]


@dataclass(frozen=True)
class TableRows:
    """Some rows of the table, source by source."""

    columns: Mapping[str, pa.Array]  # the columns by name: canonical texts, or Arrow types
    about: Mapping[str, Column]  # what the plan says of them; those of provenance are not there
    # the number of the source of each row, and its row there
    source: Ints
    row: Ints

    def numbers(self, name: str) -> Floats:
        """A column of numbers, dates or times as numbers; those of times are microseconds, NaN where a cell is empty."""
        array = self.columns[name]
        numbers = numbers_of(as_numbers(array, self.about[name]) if pa.types.is_string(array.type) else array)
        assert numbers is not None
        return numbers

    def texts(self, name: str) -> pa.Array:
        """A column as texts that are the same for the same value, whatever the output takes."""
        array, about = self.columns[name], self.about.get(name)
        if about is None:
            return array if pa.types.is_string(array.type) else pc.cast(array, pa.string())
        return as_texts(array, about)

    def codes(self, name: str) -> tuple[Ints, list[str]]:
        """A column as numbers into a list of its distinct values as texts; -1 where a cell is empty."""
        found = self.texts(name).dictionary_encode()
        return wholes(found.indices), found.dictionary.to_pylist()

    def wanted(self, name: str, values: Sequence[str]) -> pa.Array:
        """Values that a plan or a list names, as the same texts; what is not of the column's type stays as it is."""
        about = self.about.get(name)
        if about is None or about.type == "text":
            return texts(list(values))
        parsed = [about.kind.parse(value.strip()) for value in values]
        good = as_texts(texts([one for one in parsed if one is not None]), about)
        others = [value for value, one in zip(values, parsed, strict=True) if one is None]
        return pa.concat_arrays([good, texts(others)])

    def groups(self, names: tuple[str, ...]) -> tuple[Ints, list[tuple[str, ...]]]:
        """The rows as numbers into a list of the distinct combinations of values; an empty cell is an empty text."""
        coded = [self.codes(name) for name in names]
        whole = np.zeros(len(self.row), np.int64)
        for codes, values in coded:
            whole = whole * (len(values) + 1) + codes + 1
        distinct, first, groups = np.unique(whole, return_index=True, return_inverse=True)
        said = [
            tuple(values[codes[at]] if codes[at] >= 0 else "" for codes, values in coded)
            for at in first.tolist()
        ]
        return groups.reshape(-1), said[: len(distinct)]


@dataclass(frozen=True)
class FamilyTable:
    """The columns of the table from the rows of one family, after their conversion."""

    columns: Sequence[pa.Array]
    # by the number of a column that the sources have: its values as Arrow types, where they were cast
    # anyway
    typed: Mapping[int, pa.Array | None]
    source: Ints  # the number of the source of each row


@dataclass
class TableBatch(Looked):
    """Rows of the table, on the worker that made them."""

    schema: TableSchema
    table: pa.RecordBatch  # the rows, with the columns of provenance
    columns: Sequence[pa.Array]  # the columns but those of provenance
    converted: Sequence[FamilyTable]  # the same before identifiers came in, by family
    # the number of the source of each row, and its row there
    source: Ints
    row: Ints
    left_out: Sequence[LeftOutRow]  # rows of sources that are not in the table, in the order of their places
    # how often each missing code was met, by source, column and code
    missing: Mapping[tuple[int, str, str], int]
    # and how often each sign was read in numbers, though no plan tells of it
    signs: Mapping[tuple[int, str, str], int]
    # and how many dates could only be read in another order than that of the plan, by that order
    other_orders: Mapping[tuple[int, str, str], int]
    spans: Sequence[Span]  # where the rows of each source are in the payload

    @property
    def rows_for_checks(self) -> TableRows:
        """The rows as a check sees them."""
        columns = dict(zip(self.schema.names, self.table.columns, strict=True))
        about = {column.name: column for column in self.schema.columns}
        return TableRows(columns, about, self.source, self.row)


class ValueLines(NamedTuple):
    """Lines of ``values.csv``, by column of the table and then by source."""

    columns: Ints
    sources: Ints
    cells: pa.Table  # as texts

    def column(self, name: str) -> pa.Array:
        """The cells of a column of the file."""
        return in_one(self.cells[name])

    def whole(self, name: str) -> Ints:
        """The same of whole numbers."""
        return wholes(pc.cast(self.column(name), pa.int64()))

    def said(self, name: str) -> Iterator[tuple[int, int, str]]:
        """The cells that are not empty, with the number of the column of the table, and that of the source."""
        if not len(self.sources):
            return
        array = self.column(name)
        at = np.flatnonzero(wholes(pc.binary_length(array)) > 0)
        places = (each[at].tolist() for each in (self.columns, self.sources))
        yield from zip(*places, array.take(ints(at)).to_pylist(), strict=True)

    def place(self, column: int, source: int) -> int | None:
        """The line of a column and a source; None where there is none."""
        start, end = np.searchsorted(self.columns, (column, column + 1))
        at = int(start + np.searchsorted(self.sources[start:end], source))
        return at if at < end and self.sources[at] == source else None


class Recalled(Protocol):
    """Rows that are taken over from an earlier output, with what its record knows of their sources."""

    @property
    def schema(self) -> TableSchema:
        """The columns of the table."""

    @property
    def first(self) -> int:
        """The number of the first source in this run."""

    @property
    def was(self) -> Mapping[int, SourceSummary]:
        """The summary of each source in the earlier run."""

    @property
    def identifiers(self) -> Mapping[int, Mapping[str, str | None]]:
        """The identifiers of each source."""

    @property
    def output(self) -> str:
        """The output that the rows go to."""

    @property
    def spans(self) -> Sequence[Span]:
        """Where the rows of each source are in the payload."""

    @property
    def values(self) -> ValueLines:
        """Their lines of ``values.csv``."""

    def problems(self, number: int) -> Sequence[Problem]:
        """What was said of a source."""

    def entries(self, table: RecordTable[Item]) -> Iterator[Item]:
        """Their entries of a file of the record, in order; each with the number of its source."""

    def ends(self) -> tuple[list[Cells], list[Cells]]:
        """The first and the last rows."""

    def table_rows(self, names: Sequence[str] | None) -> Iterator[TableRows]:
        """All rows of the sources that begin here, in batches; some columns of them, or all."""


@dataclass(frozen=True)
class RecordSink:
    """Takes the rows and cells that are not in the table, source by source for each output."""

    # takes cells, rows and sources that are kept out of the table
    aside: Callable[[Sequence[SetAside]], None]
    # takes the rows that are not in the table; blank ones are only counted
    left_out: Callable[[Sequence[LeftOutRow]], None]
    # takes the source rows of the rows of the table, where the table does not name them
    rows: Callable[[Sequence[Any]], None]


def _keep_nothing(some: Sequence[object]) -> None:
    """Drop them."""


KEEP_NOTHING = RecordSink(_keep_nothing, _keep_nothing, _keep_nothing)


@dataclass(frozen=True)
class Context:
    """What is known of a run before its rows come."""

    matched: Matched  # the sources, matched to the columns of the table
    # what becomes of each source, and what its inspection finds; these fill up while the run goes on
    summaries: list[SourceSummary]
    inspections: Mapping[int, Inspection]
    # the columns of the table; none in a survey
    schema: TableSchema = field(default_factory=lambda: TableSchema((), Provenance(False, False, False)))
    keep: RecordSink = KEEP_NOTHING  # what takes what is kept apart
    begun: Mapping[str, int] = field(default_factory=dict)  # by output the bytes that stand before its rows

    @property
    def columns(self) -> Sequence[Column]:
        """The columns of the table but those of provenance."""
        return self.schema.columns


class Measure(ABC, Generic[Rows, Seen, Collected]):
    """One thing that a run finds out. It is sent to workers, so it holds nothing that grows.

    Attributes
    ----------
    begin
        Gives the state that collects what was seen.
    source_column, value_column
        Its column in ``sources.csv``, or in ``values.csv``, where it has one; its state gives the cells.
    is_kept
        Whether the record keeps it; what is not kept matters to the rows that a run reads, and to no others.
    """

    begin: Callable[[Context], Collected]
    source_column: RecordColumn | None = None
    value_column: RecordColumn | None = None
    is_kept = True

    @abstractmethod
    def look(self, rows: Rows) -> Seen:
        """Look at the rows of a job, on a worker."""

    @abstractmethod
    def recall(self, earlier: Recalled) -> Seen:
        """The same as `look` for rows that are taken over: from the record, or from the rows; runs on a worker, too."""


class OfSources(Measure[Looked, None, Collected]):
    """A measure of sources that is known before their rows are read."""

    def look(self, rows: Looked) -> None:
        """There is nothing to look at."""

    def recall(self, earlier: Recalled) -> None:
        """Heads and inspections have it."""


class CheckState(ABC):
    """What a check has seen so far.

    Attributes
    ----------
    found
        How much does not hold, where the counts of the problems do not say it.
    """

    found = 0

    @abstractmethod
    def add(self, seen: Any) -> None:
        """Take what `Kind.look` gave of some rows."""

    @abstractmethod
    def findings(self, sources: Sequence[SourceSummary]) -> Iterator[Problem]:
        """What does not hold, when all rows were seen."""


class Kind(ABC):
    """A kind of check. It is sent to workers, so it holds nothing that grows.

    Attributes
    ----------
    needs_rows
        Whether it looks at rows; else at what became of the sources alone.
    """

    needs_rows = True

    @abstractmethod
    def look(self, rows: TableRows) -> Any:
        """Look at some rows, on a worker."""

    @abstractmethod
    def begin(self) -> CheckState:
        """Give a fresh state."""

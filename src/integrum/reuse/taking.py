"""What is taken over from an earlier run: for each source that is what it was, all that the run established of it."""

from __future__ import annotations

import os
from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from concurrent.futures import Executor
from pathlib import Path
from typing import Any

import numpy as np
import pyarrow as pa

from integrum.columns.identifiers import Identified
from integrum.intake.inspecting import Inspection
from integrum.intake.intake import CannotTake
from integrum.intake.ledger import SourceSummary
from integrum.intake.matched import families_of
from integrum.measures.ends import ROWS
from integrum.measures.measures import VALUES
from integrum.measures.tables import ENDS, STREAMED
from integrum.plan.layout import Layout
from integrum.plan.plan import Plan
from integrum.problems.problem import SourceFault
from integrum.publish.write import UnchangedOutput, WrittenOutput
from integrum.reading.cutting import PIECE
from integrum.reading.head import Head, format_of
from integrum.reading.parts import Part
from integrum.reading.pieces import Blocks
from integrum.record.table import table_of
from integrum.results.read import Record
from integrum.reuse.previous_run import PreviousRun, contents
from integrum.reuse.recall import Reused, ReusedPiece, ReusedRows
from integrum.sources.source import Source
from integrum.values.arrays import ints
from integrum.writing.formats import format_of as output_format
from integrum.writing.output import CSV, suffix_of
from integrum.writing.typed import RowBlocks


class ReuseSearch:
    """Finds the sources whose rows can be taken over.

    Attributes
    ----------
    heads
        By number the heads of sources that are what they were.
    """

    def __init__(
        self,
        previous: PreviousRun,
        plan: Plan,
        sources: Sequence[Source],
        layouts: Sequence[Layout],
        executor: Executor,
    ) -> None:
        assert previous.record
        self._record, self._plan, self._sources, self._layouts = previous.record, plan, sources, layouts
        self._was = {one.source: one for one in self._record.sources}
        outputs = {one.path: one for one in self._record.outputs}
        said = dict.fromkeys(one.output for one in self._record.sources if one.output)
        places = {name: Path(os.path.normpath(self._record.folder / name)) for name in said}
        self._outputs = {name: outputs[place] for name, place in places.items() if place in outputs}
        likely = [number for number in range(len(sources)) if self._may_be_same(number)]
        self._numbers = [
            number
            for number, same in zip(
                likely,
                self._are_same([sources[number] for number in likely], previous.trusts_times, executor),
                strict=True,
            )
            if same
        ]
        headers = {one.number: one.header for one in self._record.variants}
        preambles = _by_source(self._record.preamble, self._was)
        self.heads: dict[int, Head] = {}
        for number in self._numbers:
            was, source = self._was[sources[number].name], sources[number]
            self.heads[number] = Head(
                headers[was.header_number],
                format_of(source, layouts[number]),
                was.header_row,
                was.header_row + was.ledger.units + 1,
                0,
                tuple(one._replace(source="") for one in preambles.get(source.name, ())),
                parts=_counted(was, "head"),
            )

    def _may_be_same(self, number: int) -> bool:
        source, was = self._sources[number], self._was.get(self._sources[number].name)
        return (
            was is not None
            and was.is_assembled
            and was.table_rows > 0
            and bool(was.header_number)
            and source.fault is None
            and was.group == source.group
            and was.sheet == source.sheet_name
            and was.layout == self._layouts[number]
            and was.output in self._outputs
        )

    def _are_same(self, sources: Sequence[Source], trusts_times: bool, executor: Executor) -> list[bool]:
        if trusts_times:
            states = {name: (one.bytes, one.modified) for name, one in self._record.run.source_files.items()}
            return [states.get(one.file) == one.state for one in sources]
        was = [self._was[one.name] for one in sources]
        # what has another size is read anyway
        some = [
            at
            for at, (one, before) in enumerate(zip(sources, was, strict=True))
            if one.packing or one.size == before.size
        ]
        found = dict(zip(some, contents([sources[at] for at in some], executor), strict=True))
        return [found.get(at, "") == before.content for at, before in enumerate(was)]

    def over(
        self, heads: Sequence[Head | SourceFault], identified: Sequence[Identified], copies: bool = True
    ) -> ReusedRows | None:
        """What is taken over, given the names of the sources and what their headers mean now.

        Raises CannotTake when the header cells of other sources change which columns the headers are for.
        """
        numbers = [number for number in self._numbers if self._is_named_as_before(number, identified[number])]
        if not numbers:
            return None
        if self._means_something_else(heads, numbers):
            raise CannotTake("new header cells change which columns the old ones are for")
        of = {self._sources[number].name: number for number in numbers}
        record = self._record
        problems = _by_source(record.problems, of)
        entries = {table.file: _by_source(record.all_of(table), of) for table in STREAMED}
        columns = [(one.name, one.type) for one in record.run.columns]
        taken = {}
        for name, number in of.items():
            was, told = self._was[name], problems.get(name, ())
            nul = any(one.code == "nul-bytes" for one in told)
            taken[number] = Reused(
                was,
                _inspected(number, was, record.blocks.get(name, Blocks()), nul),
                was.identifiers,
                told,
                {file: [one.of(number) for one in some.get(name, ())] for file, some in entries.items()},
                list(_pieces(number, was, self._outputs[was.output], len(columns))),
            )
        whole = self._whole(numbers) if copies else None
        return ReusedRows(taken, _values(record, of), columns, record.is_guarded, copies, whole)

    def _whole(self, numbers: Sequence[int]) -> UnchangedOutput | None:
        """The earlier output, if all of it is taken over in order and no new source comes in; else None."""
        record, of = self._record, set(numbers)
        if len(record.outputs) != 1 or len(self._outputs) != 1:
            return None
        before = [one for one in record.sources if one.table_rows]
        before.sort(key=lambda one: one.first_table_row)
        if [one.source for one in before] != [self._sources[number].name for number in numbers]:
            return None
        states = {name: (one.bytes, one.modified) for name, one in record.run.source_files.items()}
        for number, source in enumerate(self._sources):
            if number not in of and states.get(source.file) != source.state:
                return None
        (output,) = record.outputs
        if output_format(output.path).has_tables:  # they may say something else now
            return None
        ends = list(record.all_of(ENDS))
        first = [one.cells for one in ends if one.row <= ROWS]
        last = [one.cells for one in ends if one.row > output.rows - ROWS]
        return UnchangedOutput(output, before[0].first_byte, first, last)

    def _is_named_as_before(self, number: int, identified: Identified) -> bool:
        source = self._sources[number]
        was = self._was[source.name]
        labels = self._plan.group(source.group).labels
        label = labels.get(source.name, labels.get(source.file, source.file))
        return (
            not identified.refused and was.label == label and dict(was.identifiers) == dict(identified.values)
        )

    def _means_something_else(self, heads: Sequence[Head | SourceFault], numbers: Sequence[int]) -> bool:
        """Whether new sources change to which columns the headers belong."""
        before = {name for one in self._record.variants for name in one.header.names}
        now = {name for head in heads if isinstance(head, Head) for name in head.header.names}
        if before == now:
            return False
        some, of = [self._sources[at] for at in numbers], [heads[at] for at in numbers]
        return families_of(self._plan, some, of, before) != families_of(self._plan, some, of, now)


def _counted(was: SourceSummary, when: str) -> dict[Part, int]:
    """The rows of the parts that are counted with the head or in the inspection."""
    return {part: count for part, count in was.ledger.counts.items() if part.counted == when}


def _inspected(number: int, was: SourceSummary, blocks: Blocks, nul: bool) -> Inspection:
    ledger = was.ledger
    return Inspection(
        number,
        ledger.rows,
        was.size,
        was.content,
        _counted(was, "inspection"),
        ends_closed=was.is_closed,
        nul=nul,
        blocks=blocks,
        again=True,  # that it has rows is known
    )


def _pieces(number: int, was: SourceSummary, output: WrittenOutput, columns: int) -> Iterator[ReusedPiece]:
    """The parts of an output with the rows of a source, each of some 4 MB."""
    if suffix_of(output.path) == CSV:
        for start in range(was.first_byte, was.end_byte, PIECE):
            end, first = min(start + PIECE, was.end_byte), start == was.first_byte
            yield ReusedPiece(
                number, output.path, start, end, was.table_rows if first else 0, first, end - start
            )
        return
    # the blocks of the file as they are, so that none is read twice
    weight, step = 8 * columns, RowBlocks(columns).most
    at = was.first_table_row - 1
    for start in range(at // step * step, was.last_table_row, step):
        begin, end = max(start, at), min(start + step, was.last_table_row)
        size = end - begin
        yield ReusedPiece(number, output.path, begin, end, size, begin == at, size * weight)


def _values(record: Record, of: Mapping[str, int]) -> pa.Table:
    """The entries of ``values.csv`` of some sources, with their numbers."""
    table = table_of(record.folder / VALUES.file, record.is_guarded)
    sheets = table["sheet"].to_pylist()
    names = [
        f"{source}/{sheet}" if sheet else source
        for source, sheet in zip(table["source"].to_pylist(), sheets, strict=True)
    ]
    numbers = np.array([of.get(name, -1) for name in names], np.int64)
    at = np.flatnonzero(numbers >= 0)
    some = table.take(ints(at))
    return some.set_column(some.schema.names.index("source"), "source", ints(numbers[at]))


def _by_source(entries: Iterable[Any], wanted: Collection[str]) -> dict[str, list[Any]]:
    found: dict[str, list[Any]] = {}
    for one in entries:
        if one.source in wanted:
            found.setdefault(one.source, []).append(one)
    return found

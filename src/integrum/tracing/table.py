"""The rows of an output, read back in batches: some by their numbers, or those that fit a condition."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
import pyarrow as pa

from integrum.arrow.arrays import ints
from integrum.errors import OutputError
from integrum.recording.read import Record
from integrum.recording.write import WrittenOutput
from integrum.tracing.where import Condition
from integrum.writing.formats import format_of

_NUMBER = "\0row"


@dataclass(frozen=True)
class TableRow:
    """A row of an output."""

    number: int  # its number, from 1
    values: dict[str, Any]


def some_rows(record: Record, output: WrittenOutput, numbers: Iterable[int]) -> list[TableRow]:
    """Rows by their numbers, in the order in which they were asked for.

    Raises OutputError when there is no such row, or the output cannot be read.
    """
    wanted = list(numbers)
    found: dict[int, TableRow] = {}
    most = max(wanted, default=0)
    for before, batch in _batches(record, output):
        here = [number for number in set(wanted) if before < number <= before + batch.num_rows]
        for number in here:
            found[number] = TableRow(number, batch.slice(number - before - 1, 1).to_pylist()[0])
        if before + batch.num_rows >= most:
            break
    absent = [number for number in wanted if number not in found]
    if absent:
        raise OutputError(
            f"{output.path} does not have a row {absent[0]:,}; it has {output.rows:,}, counted from 1"
        )
    return [found[number] for number in wanted]


def rows_that_fit(
    record: Record, output: WrittenOutput, where: Condition, most: int
) -> tuple[list[TableRow], int]:
    """The first rows that fit a condition, and how many there are in all."""
    found: list[TableRow] = []
    count = 0
    for before, batch in _batches(record, output):
        table = pa.Table.from_batches([batch])
        numbers = ints(np.arange(before + 1, before + batch.num_rows + 1))
        fits = table.append_column(_NUMBER, numbers).filter(where.expression)
        count += len(fits)
        if len(found) < most:
            for values in fits.slice(0, most - len(found)).to_pylist():
                number = values.pop(_NUMBER)
                found.append(TableRow(number, values))
    return found, count


def _batches(record: Record, output: WrittenOutput) -> Iterator[tuple[int, pa.RecordBatch]]:
    """The batches of an output, each with the number of rows before it."""
    before = 0
    try:
        for batch in format_of(output.path).batches(output.path, record.table_schema, record.is_guarded):
            if batch.num_rows:
                yield before, batch
            before += batch.num_rows
    except (OSError, pa.ArrowInvalid, ValueError, KeyError) as error:
        raise OutputError(f"{output.path} cannot be read as the run left it: {error}") from error

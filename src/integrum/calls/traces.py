"""Trace rows of a table back to the lines that they came from."""

from __future__ import annotations

import os
from collections.abc import Sequence
from dataclasses import replace
from functools import partial
from pathlib import Path

from integrum.calls.common import AllowCode, found_for, home_of, with_code, workers
from integrum.errors import ConditionError, NothingFound, OutputError
from integrum.plan.plan import Plan
from integrum.plan.toml import moved
from integrum.plan.wrong_words import answers_wrong_words, nearest
from integrum.problems.problem import near
from integrum.publish.places import is_of
from integrum.publish.write import WrittenOutput
from integrum.remote.addresses import joined
from integrum.results.read import Record, looking_at, read_record
from integrum.results.rows_found import TableRow, condition, rows_that_fit, some_rows
from integrum.results.traced import Trace
from integrum.results.tracer import Tracer
from integrum.sources.own import OwnWork
from integrum.sources.sheets import Scratch
from integrum.sources.source import Source
from integrum.writing.parquet_folder import content_of

MOST = 5
# this many tables are named in a message
_NAMED = 5


@answers_wrong_words
def trace(
    out: str | os.PathLike[str],
    rows: int | Sequence[int] = (),
    *,
    where: str = "",
    columns: str | Sequence[str] = (),
    most: int = MOST,
    allow_code: AllowCode = False,
) -> Trace:
    """Trace rows of a table back to the very lines that they came from.

    Parameters
    ----------
    out
        The table: a file that a run has written, with its record beside it. Or the record, or a folder with several
        tables: a condition is then looked for in all of them.
    rows
        The numbers of rows in the table, from 1; its header is not counted.
    where
        Instead of numbers a condition, such as ``"water_temp > 40 and lake == 'Ambermere'"``: comparisons of columns with
        values, joined by ``and``, ``or``, ``not``. A name that is not a plain word stands in braces: ``{Temp (°C)} > 40``.
    columns
        The columns that are asked about; those of the condition when left out. Their cells are marked.
    most
        With a condition: so many rows are traced, and the others are only counted.
    allow_code
        Whether functions of your own that the plan names may be run again; as for `assemble`.

    Returns
    -------
    Trace

    Raises
    ------
    OutputError
        When there is no record, no such row, or no such column.
    ConditionError
        When the condition cannot be understood.

    Examples
    --------
    >>> import integrum as ig, tempfile, pathlib
    >>> folder = pathlib.Path(tempfile.mkdtemp())
    >>> _ = (folder / "2021.csv").write_text("lake;depth\\nAmbermere;3,20\\nVessel Lake;14,1\\n")
    >>> _ = ig.assemble(folder, to=folder / "out" / "lakes.csv")
    >>> print(trace(folder / "out" / "lakes.csv", where="depth > 10"))  # doctest: +ELLIPSIS
    row 2 of ...lakes.csv is from 2021.csv, row 3
    <BLANKLINE>
      header | lake;depth
           3 | Vessel Lake;14,1
                           ^^^^
    <BLANKLINE>
      column  in the table  in the source  what was done
      lake    Vessel Lake   Vessel Lake    as written
      depth   14.1          14,1           "," is the decimal mark
    """
    record = read_record(out)
    with looking_at(record):
        return _traced(record, Path(os.path.abspath(out)), rows, where, columns, most, allow_code)


def _traced(
    record: Record,
    out: Path,
    rows: int | Sequence[int],
    where: str,
    columns: str | Sequence[str],
    most: int,
    allow_code: AllowCode,
) -> Trace:
    """Trace rows; as `trace`."""
    outputs = _outputs_of(record, out)
    schema = record.table_schema
    asked = [columns] if isinstance(columns, str) else list(columns)
    for name in asked:
        if name not in schema.names:
            raise OutputError(f'the table has no column "{name}"{nearest(name, schema.names)}')
    if isinstance(rows, str):
        raise ConditionError(f'rows are given by their numbers; give a condition by its name: where="{rows}"')
    numbers = [rows] if isinstance(rows, int) else list(rows)
    if bool(numbers) == bool(where):
        raise OutputError("give row numbers or a condition, not both")
    found: list[tuple[WrittenOutput, list[TableRow]]] = []
    count = 0
    if where:
        wanted = condition(where, schema)
        for output in outputs:
            rest = most - sum(len(some) for _, some in found)
            some, here = rows_that_fit(record, output, wanted, rest)
            found.append((output, some))
            count += here
        asked = asked or list(wanted.columns)
    else:
        if len(outputs) > 1:
            raise OutputError(
                f"row numbers are counted in each table; give one of the {len(outputs):,}: {_named(outputs)}"
            )
        found.append((outputs[0], some_rows(record, outputs[0], numbers)))
        count = len(numbers)
    remarks = [
        f"{near(output.path)} has changed since the run; its rows may have moved"
        for output in outputs
        if not output.path.exists() or content_of(output.path) != output.content
    ]
    plan, _ = moved(record.plan, {}, partial(joined, record.folder))
    plan, unread = (with_code(plan, allow_code, home_of(record)), {}) if allow_code else _without_code(plan)
    with Scratch() as scratch, workers(None) as pool:

        def find(plan: Plan) -> list[Source]:
            try:
                return list(found_for(plan, record.folder, OwnWork(), pool, scratch).sources)
            except NothingFound:
                return []

        traced = [
            row
            for output, some in found
            if some
            for row in Tracer(record, output, plan, unread, asked).trace(some, find)
        ]
    return Trace(tuple(traced), count, tuple(remarks))


def _outputs_of(record: Record, place: Path) -> list[WrittenOutput]:
    """The outputs that are asked for: one, or all of a record or a folder."""
    if place == record.folder:
        return list(record.outputs)
    found = [one for one in record.outputs if is_of(one.path, place)]
    if not found:
        raise OutputError(
            f"{near(place)} is not an output of the run recorded in {record.folder}; that run wrote "
            f"{_named(record.outputs)}"
        )
    return found


def _named(outputs: Sequence[WrittenOutput]) -> str:
    more = ", …" if len(outputs) > _NAMED else ""
    return ", ".join(near(one.path) for one in outputs[:_NAMED]) + more


def _without_code(plan: Plan) -> tuple[Plan, dict[str, str]]:
    """The plan without functions of the analyst's own, and their names by column."""
    named = {
        column.name: os.path.basename(str(column.read)) for column in plan.columns if column.read is not None
    }
    return replace(plan, columns=[replace(column, read=None) for column in plan.columns]), named

"""Compare a run with the one before: which sources are new, gone, renamed or changed, and which of their rows."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator, Mapping
from dataclasses import astuple, dataclass
from pathlib import Path
from typing import Any

import numpy as np
import pyarrow as pa

from integrum.assembling.run import RunResult
from integrum.columns.header import Header
from integrum.errors import IntegrumError
from integrum.intake.ledger import SourceSummary
from integrum.problems.found import Entries
from integrum.problems.problem import Problem, quoted
from integrum.reading.pieces import Blocks
from integrum.results.changes import CHANGED, GONE, NEW, RENAMED, CellChange, Changes, NewHeader, SourceChange
from integrum.results.read import Record
from integrum.reuse.previous_run import PreviousRun
from integrum.reuse.rows import (
    align,
    hashes_of,
    kept,
    numbers_of,
    picked,
    place_by_place,
    rows_of,
    same_bytes,
)
from integrum.writing.output import CSV, suffix_of
from integrum.writing.parts import forget_groups

# the formats whose rows can be compared before they are in their place
COMPARED = (CSV, ".parquet", ".arrow", ".sqlite")
_MOST_CELLS = 10
# sources of this few rows are read once; larger ones batch by batch, each time
_AT_ONCE = 300_000
_NOTHING = {"moved": 0, "changed": 0, "added": 0, "removed": 0, "at_end": False, "cells": ()}


@dataclass(frozen=True)
class CurrentRun:
    """A run whose table is written, but not yet in its place."""

    made: RunResult
    # the table in which the rows of a source lie, and the number of rows in it before them
    place: Callable[[SourceSummary], tuple[Path, int]]
    suffix: str  # what the names of its tables end with
    taken: frozenset[int] = frozenset()  # the numbers of the sources whose rows were taken over
    is_quick: bool = False  # whether large sources whose content is the same are only looked at as a whole


def compared(previous: PreviousRun, now: CurrentRun) -> tuple[Changes | None, str]:
    """Compare a run with the previous one, if the record of that is whole.

    Returns what has changed; or None, and why that cannot be told.
    """
    if not previous.has_record:
        return None, previous.why_not
    try:
        return compare(previous, now), ""
    except (IntegrumError, OSError, ValueError, KeyError, TypeError, pa.ArrowException) as error:
        return None, f"the earlier run cannot be compared with: {error}"


def compare(previous: PreviousRun, now: CurrentRun) -> Changes:
    """Compare a run with the previous one.

    `previous`: the run before; it has a record.
    """
    record, made = previous.record, now.made
    assert record
    was = {one.source: one for one in record.sources}
    there = {one.source for one in made.sources}
    gone = {one.source: one for one in record.sources if one.source not in there}
    by_content: dict[tuple[str, int], list[SourceSummary]] = {}
    for one in gone.values():
        by_content.setdefault((one.content, one.size), []).append(one)
    comparer = _Comparer(record, now, previous)
    changes: list[SourceChange] = []
    unchanged = 0
    for number, one in enumerate(made.sources):
        before = was.get(one.source)
        if before is None:
            same = by_content.get((one.content, one.size)) if one.content else None
            if same:
                old = same.pop(0)
                del gone[old.source]
                changes.append(
                    SourceChange(
                        one.source, RENAMED, old.source, one.table_rows, old.table_rows, reason=one.reason
                    )
                )
            else:
                changes.append(SourceChange(one.source, NEW, rows=one.table_rows, reason=one.reason))
            continue
        change = None if number in now.taken else comparer.change(before, one)
        if change is None:
            unchanged += 1
        else:
            changes.append(change)
    changes += [SourceChange(one.source, GONE, rows_before=one.table_rows) for one in gone.values()]
    forget_groups()
    before_names = record.run.column_names
    now_names = made.schema.names
    return Changes(
        record.folder,
        record.run.started,
        Entries(changes, SourceChange),
        unchanged,
        sum(made.rows.values()),
        sum(one.rows for one in record.outputs),
        tuple(name for name in now_names if name not in before_names),
        tuple(name for name in before_names if name not in now_names),
        Entries(_new_headers(record, made), NewHeader),
        Entries((one for one in made.problems if one.kind.is_absence), Problem),
    )


def _new_headers(record: Record, made: RunResult) -> Iterator[NewHeader]:
    before = {one.header for one in record.headers}
    for one in made.headers:
        if one.header not in before:
            yield NewHeader(*astuple(one))


class _Comparer:
    """Compares the sources that are in both runs."""

    def __init__(self, record: Record, now: CurrentRun, previous: PreviousRun) -> None:
        self._record, self._now, self._basis = record, now, previous
        self._before: Mapping[int, Header] = {one.number: one.header for one in record.variants}
        self._after: Mapping[int, Header] = {one.number: one.header for one in now.made.variants}

    def change(self, was: SourceSummary, one: SourceSummary) -> SourceChange | None:
        """The changes in a source; None where there are none."""
        made = self._now.made
        same_content = was.content == one.content and bool(one.content)
        is_same = (
            same_content
            and was.status == one.status
            and was.label == one.label
            and dict(was.identifiers) == dict(one.identifiers)
        )
        if is_same and (self._basis.same_plan or not one.is_assembled):
            return None
        said: dict[str, Any] = {}
        if one.is_assembled and was.is_assembled:
            if was.content != one.content:
                said["header"] = tuple(self._header_lines(was, one))
            said |= self._compared(was, one) or {}
            if was.label != one.label:
                said |= {"changed": one.table_rows, "header": (f'label: "{was.label}" → "{one.label}"',)}
        elif not was.is_assembled and one.is_assembled:
            said |= {"changed": 0, "added": one.table_rows, "removed": 0}
        elif was.is_assembled:
            said |= {"changed": 0, "added": 0, "removed": was.table_rows}
        else:
            said |= {"changed": 0, "added": 0, "removed": 0}
        if "changed" not in said and not same_content and (before := self._record.blocks.get(was.source)):
            said["from_line"] = before.first_difference(made.blocks.get(one.source, Blocks()))
        counts = [said.get(key) for key in ("changed", "added", "removed", "moved")]
        if same_content and was.status == one.status and not any(counts) and None not in counts:
            return None
        return SourceChange(
            one.source, CHANGED, "", one.table_rows, was.table_rows, reason=one.reason, **said
        )

    def _header_lines(self, was: SourceSummary, one: SourceSummary) -> Iterator[str]:
        before, after = self._before.get(was.header_number), self._after.get(one.header_number)
        if before is None or after is None or before == after:
            return
        old, new = before.names, after.names
        more, less = [name for name in new if name not in old], [name for name in old if name not in new]
        if more:
            yield f"new in the header: {quoted(more)}"
        if less:
            yield f"no longer in the header: {quoted(less)}"
        if not more and not less and old != new:
            yield "the header cells are in another order"
        units, others = (dict(zip(each.names, each.units, strict=False)) for each in (before, after))
        for name in new:
            if name in units and units.get(name, "") != others.get(name, ""):
                yield f'unit of "{name}": {units[name] or "none"} → {others.get(name) or "none"}'

    def _compared(self, was: SourceSummary, one: SourceSummary) -> dict[str, Any] | None:
        """The rows that differ; None when the rows of one table cannot be read."""
        schema, before = self._now.made.schema.arrow, self._record.schema
        old_place = Path(os.path.normpath(self._record.folder / was.output)) if was.output else Path()
        new_place, skipped = self._now.place(one)
        suffix = self._now.suffix
        if suffix not in COMPARED or suffix_of(old_place) != suffix or not self._basis.has_table:
            return None
        plan = self._record.plan
        own = set(plan.provenance.names)
        names = [name for name in schema.names if name in before.names and name not in own]
        if not names:
            return None
        try:
            return self._by_row(was, one, (old_place, new_place), skipped, suffix, names)
        except (OSError, pa.ArrowException, ValueError, KeyError):
            return None  # a table that cannot be read is told of elsewhere

    def _by_row(
        self,
        was: SourceSummary,
        one: SourceSummary,
        places: tuple[Path, Path],
        skipped: int,
        suffix: str,
        names: list[str],
    ) -> dict[str, Any] | None:
        schema, before = self._now.made.schema.arrow, self._record.schema
        row_name = self._record.plan.provenance.source_row
        guarded = self._record.is_guarded
        if suffix == CSV and schema.names == before.names and same_bytes(places, was, one):
            return dict(_NOTHING)
        few = max(was.table_rows, one.table_rows) <= _AT_ONCE
        if self._now.is_quick and was.content == one.content and not few:
            return None
        has_row = row_name is not False and row_name in schema.names and row_name in before.names
        wanted = [*names, str(row_name)] if has_row else names
        old = rows_of(places[0], suffix, was, was.first_table_row - 1, before, guarded, wanted)
        new = rows_of(places[1], suffix, one, skipped, schema, guarded, wanted)
        if few:
            old, new = kept(old), kept(new)
        in_place = was.content == one.content and was.table_rows == one.table_rows
        if in_place:
            aligned = place_by_place(old, new, len(names))
        else:
            aligned = align(hashes_of(old, len(names)), hashes_of(new, len(names)))
        changed = aligned.changed
        pairs = changed[:_MOST_CELLS]
        before_rows = picked(old, [at for at, _ in pairs], self._record.table_schema)
        after_rows = picked(new, [at for _, at in pairs], self._now.made.schema)
        cells = [
            CellChange(int(after.get(str(row_name)) or 0) or None, name, then[name], after[name])
            for then, after in zip(before_rows, after_rows, strict=True)
            for name in names
            if then[name] != after[name]
        ]
        last = one.table_rows - len(aligned.added)
        moved = 0
        if has_row and not in_place:
            stay = (
                np.delete(numbers_of(old), [*aligned.removed, *(at for at, _ in changed)]),
                np.delete(numbers_of(new), [*aligned.added, *(at for _, at in changed)]),
            )
            moved = int(np.count_nonzero(stay[0] != stay[1]))
        return {
            "moved": moved,
            "changed": len(changed),
            "added": len(aligned.added),
            "removed": len(aligned.removed),
            "at_end": bool(aligned.added) and aligned.added[0] >= last,
            "cells": tuple(cells[:_MOST_CELLS]),
        }

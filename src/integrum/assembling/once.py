"""What only a whole run shows: rows that are in several sources, and dates in another order than the plan says."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence, Set
from concurrent.futures import Executor
from dataclasses import dataclass, replace

import numpy as np

from integrum.columns.binding import Binding
from integrum.columns.header import Header
from integrum.intake.intake import Intake
from integrum.intake.matched import match
from integrum.measures.repeated_rows import overlaps_of
from integrum.measures.row_marks import Marks, lines_of, marks_of, wide_hash
from integrum.plan.layout import Layout
from integrum.problems.problem import SourceFault
from integrum.reading.cutting import cut
from integrum.reading.head import Format, Head
from integrum.reading.parsing import Rows, parse
from integrum.reading.pieces import load
from integrum.sources.source import Source
from integrum.values.arrays import Ints
from integrum.values.joining import convert_joined
from integrum.values.notation import Conversion
from integrum.values.pipeline import convert
from integrum.workers.pool import ahead


class EarlierLost(Exception):
    """Sources whose rows were skipped as repeated elsewhere are not in the table after all."""

    def __init__(self, numbers: Set[int]) -> None:
        super().__init__(numbers)
        self.numbers = frozenset(numbers)


@dataclass(frozen=True)
class ReadableSource:
    """A source and what is needed to read it."""

    number: int
    source: Source
    head: Head
    layout: Layout

    @property
    def header(self) -> Header:
        """Its header."""
        return self.head.header

    @property
    def form(self) -> Format:
        """How it is written."""
        return self.head.format

    def rows(self) -> Iterator[Rows]:
        """Its rows, piece by piece."""
        for piece in cut(self.source, self.number, 1, self.head, self.layout, keep=True):
            yield parse([load(piece, self.source, self.layout)], self.header, self.form)


def taken_once(intake: Intake, executor: Executor, without: Set[int]) -> Intake:
    """Find the rows of each source that an earlier source has, too.

    `without`: sources whose rows are not in the table, so that other sources keep theirs.
    """
    readable = read_sources(intake, {*range(len(intake.sources))} - without)
    family_of = match(intake).family_of
    each = list(ahead(executor, _marks, list(readable.values())))
    marks = {one.number: found for one, found in zip(readable.values(), each, strict=True) if found}
    earlier: dict[int, set[int]] = {}
    for one in overlaps_of(marks):
        first, later = sorted((one.source, one.other))
        if family_of[first] and family_of[later]:
            earlier.setdefault(later, set()).add(first)
        if one.kind == "together":  # the marks show only some of the others
            for number in marks:
                if number != one.other and family_of[number]:
                    earlier.setdefault(max(number, one.other), set()).add(min(number, one.other))
    if not earlier:
        return replace(intake, again={})
    wanted = sorted({*earlier, *(number for some in earlier.values() for number in some)})
    hashes = dict(zip(wanted, ahead(executor, _hashes, [readable[number] for number in wanted]), strict=True))
    again: dict[int, Ints] = {}
    for later in sorted(earlier):
        rows, mine = hashes[later]
        known = {one for number in earlier[later] for one in hashes[number][1]}
        found = np.array([row for row, one in zip(rows, mine, strict=True) if one in known], np.int64)
        if len(found):
            again[later] = found
    return replace(intake, again=again, earlier={number: frozenset(earlier[number]) for number in again})


def read_sources(intake: Intake, numbers: Set[int]) -> dict[int, ReadableSource]:
    """Read the heads of sources; those that cannot be read are left out."""
    return {
        number: ReadableSource(number, source, head, layout)
        for number, (source, head, layout) in enumerate(
            zip(intake.sources, intake.heads, intake.layouts, strict=True)
        )
        if isinstance(head, Head) and number in numbers
    }


def check_earlier(intake: Intake, statuses: Sequence[tuple[bool, str]]) -> None:
    """Make sure that the sources whose rows count elsewhere are in the table.

    Raises EarlierLost when a source that has them is set aside.

    `statuses`: for each source whether it is in the table, and why not.
    """
    needed = {number for some in intake.earlier.values() for number in some}
    lost = {number for number in needed if not statuses[number][0] and statuses[number][1] != "same-content"}
    if lost:
        raise EarlierLost(lost)


def _marks(one: ReadableSource) -> Marks | None:
    result = Marks.none()
    try:
        for rows in one.rows():
            columns = [rows.columns[at] for at in one.header.named]
            comma = one.form.decimal_mark == ","
            for marks in marks_of(
                columns, rows.source, rows.row, {one.number: one.source.size}, comma
            ).values():
                result = result.with_more(marks)
    except SourceFault:  # it is told where it is read for the table
        return None
    return result


def _hashes(one: ReadableSource) -> tuple[list[int], list[bytes]]:
    """The number and the hash of each row."""
    numbers: list[int] = []
    hashes: list[bytes] = []
    try:
        for rows in one.rows():
            lines = lines_of([rows.columns[at] for at in one.header.named], one.form.decimal_mark == ",")
            numbers += rows.row.tolist()
            hashes += map(wide_hash, lines)
    except SourceFault:
        return [], []
    return numbers, hashes


class OrdersContrary(Exception):
    """Ends an attempt: all dates of some columns have another order than the plan says."""

    def __init__(self, found: Mapping[int, Mapping[str, str]]) -> None:
        super().__init__(found)
        self.found = found


def check_orders(intake: Intake, found: Mapping[tuple[int, str, str], int]) -> None:
    """Raise OrdersContrary if all dates of a source have another order, so that none is swapped.

    Raises OrdersContrary for sources of which every date can be read in another order, and not every one in the plan's.

    `found`: by source, column and order how many dates can only be read in that order.
    """
    if not found:
        return
    matched, plan_of = match(intake), read_sources(intake, {number for number, _, _ in found})
    contrary: dict[int, dict[str, str]] = {}
    for number, column, order in found:
        family = matched.family(number)
        binding = (
            next((one for one in family.bound.bindings if one.column == column), None) if family else None
        )
        if binding is None or number not in plan_of or column in contrary.get(number, {}):
            continue
        notation = replace(binding.conversion.notation, date_order=order)
        how = replace(binding.conversion, notation=notation, spelling="", allowed=(), contrary="")
        try:
            fits = all(_fits(binding, rows, how) for rows in plan_of[number].rows())
        except SourceFault:  # it is told where it is read for the table
            fits = False
        if fits:
            contrary.setdefault(number, {})[column] = order
    if contrary:
        raise OrdersContrary(contrary)


def _fits(binding: Binding, rows: Rows, how: Conversion) -> bool:
    """Whether all dates of some rows can be read in an order."""
    if any(at >= len(rows.columns) for at in binding.positions):
        return False
    cells = [rows.columns[at] for at in binding.positions]
    some = [convert_joined(cells, how)[0]] if binding.joined else [convert(each, how) for each in cells]
    return not any(len(one.bad) for one in some)

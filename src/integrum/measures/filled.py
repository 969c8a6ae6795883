"""Counts by source and column: filled cells, orders of dates, heads, shares of bad values."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import Any

import numpy as np

from integrum.dispatch.job import Looked, State
from integrum.intake.ledger import SourceSummary
from integrum.intake.matched import Matched
from integrum.measures.items import BlockEntry, HeaderEntry, VariantEntry
from integrum.measures.measure import Context, Measure, OfSources, Recalled, TableBatch
from integrum.measures.set_aside import AsideProblems
from integrum.measures.tables import BLOCKS, HEADERS, PREAMBLE, VARIANTS
from integrum.measures.values import ValuesBySource
from integrum.problems.problem import Problem
from integrum.reading.head import Head, PreambleEntry
from integrum.record.table import RecordTable

# by source, column and order
Orders = Mapping[tuple[int, str, str], int]
_CODE = "bad-share"
Told = Mapping[int, Sequence[Problem]]


class FilledCells(State[Sequence[int]]):
    """Adds up filled cells.

    Attributes
    ----------
    counts
        For each column but those of provenance.
    """

    def __init__(self, context: Context) -> None:
        self.counts = [0] * len(context.columns)

    def add(self, seen: Sequence[int]) -> None:
        """Add the counts of one job."""
        self.counts = [before + count for before, count in zip(self.counts, seen, strict=True)]


class FilledByColumn(Measure[TableBatch, Sequence[int], FilledCells]):
    """The measure of how many cells of each column have a value."""

    begin = FilledCells

    def look(self, rows: TableBatch) -> Sequence[int]:
        """Count those of a job."""
        return [len(column) - column.null_count for column in rows.columns]

    def recall(self, earlier: Recalled) -> Sequence[int]:
        """The counts of the record; an identifier fills all rows of its source, or none."""
        lines, counts = earlier.values, np.zeros(len(earlier.schema.columns), np.int64)
        filled = lines.whole("filled")
        np.add.at(counts, lines.columns, filled)
        for at, column in enumerate(earlier.schema.columns):
            for source, given in earlier.identifiers.items():
                if column.name in given:
                    place = lines.place(at, source)
                    counts[at] -= filled[place] if place is not None else 0
                    counts[at] += earlier.was[source].table_rows if given[column.name] is not None else 0
        return counts.tolist()


FILLED = FilledByColumn()


class OtherOrders(State[Orders]):
    """Collects dates in another order than that of the plan.

    Attributes
    ----------
    found
        By source, column and order how many there are.
    """

    def __init__(self, context: Context) -> None:  # noqa: ARG002
        self.found: Counter[tuple[int, str, str]] = Counter()

    def add(self, seen: Orders) -> None:
        """Add the counts of one job."""
        self.found.update(seen)


class DateOrders(Measure[TableBatch, Orders, OtherOrders]):
    """The measure of dates in another order. Where all dates of a source are, the run begins again without reading them."""

    begin = OtherOrders
    is_kept = False

    def look(self, rows: TableBatch) -> Orders:
        """Give what the conversion has met."""
        return rows.other_orders

    def recall(self, earlier: Recalled) -> Orders:  # noqa: ARG002
        """Nothing: the earlier run has dealt with it."""
        return {}


DATE_ORDERS = DateOrders()


def header_entries(matched: Matched, summaries: Sequence[SourceSummary]) -> list[HeaderEntry]:
    """The header cells of the sources that come in; one in several states, or for several columns, is there for each."""
    found: dict[tuple[str, str, str], tuple[int, str]] = {}
    for family, numbers in matched.by_family(summaries).items():
        for cell in matched.families[family].bound.cells:
            key = (cell.name, cell.state, cell.column)
            count, first = found.get(key, (0, summaries[numbers[0]].source))
            found[key] = (count + len(numbers), first)
    return [HeaderEntry(*key, *said) for key, said in found.items()]


class HeadFiles(State[None]):
    """Collects what the record says of headers and preambles."""

    def __init__(self, context: Context) -> None:
        self._context = context

    def entries(self) -> Iterator[tuple[RecordTable[Any], Iterable[Any]]]:
        """The entries of each of these files."""
        yield HEADERS, header_entries(self._context.matched, self._context.summaries)
        yield PREAMBLE, self._preamble()
        yield VARIANTS, self._variants()
        yield BLOCKS, self._blocks()

    def _preamble(self) -> Iterator[PreambleEntry]:
        for summary, head in zip(self._context.summaries, self._context.matched.intake.heads, strict=True):
            for one in head.preamble if isinstance(head, Head) else ():
                yield one._replace(source=summary.source)

    def _variants(self) -> Iterator[VariantEntry]:
        matched = self._context.matched
        variant_of = dict(zip(matched.header_of, matched.variants.of_source, strict=True))
        for number, header in enumerate(matched.headers, 1):
            yield VariantEntry(number, variant_of[number], header)

    def _blocks(self) -> Iterator[BlockEntry]:
        for number, summary in enumerate(self._context.summaries):
            if number in self._context.inspections:
                blocks = self._context.inspections[number].blocks
                for at, content in enumerate(blocks.hashes):
                    yield BlockEntry(summary.source, at * blocks.lines + 1, blocks.lines, content)


class Heads(OfSources[HeadFiles]):
    """The measure of headers, preambles and hashes of lines."""

    begin = HeadFiles


HEADS = Heads()


class Shares(State[Told]):
    """Collects the sources with too many bad values."""

    def __init__(self, context: Context) -> None:
        self._context = context
        self._told: dict[int, list[Problem]] = {}

    def add(self, seen: Told) -> None:
        """Add what was said of sources that are taken over."""
        for number, problems in seen.items():
            self._told[number] = list(problems)

    def check(self, aside: AsideProblems, values: ValuesBySource) -> None:
        """Compare the bad values of each source with the good ones."""
        matched = self._context.matched
        shares = {
            family: {one.column: one.bad_share for one in found.bound.bindings if one.bad_share < 1}
            for family, found in matched.families.items()
        }
        filled = {column: values.filled(column) for some in shares.values() for column in some}
        for number, column, count, raw in aside.bad_values() if filled else ():
            most = shares[matched.family_of[number]].get(column, 1.0)
            total = count + filled.get(column, {}).get(number, 0)
            if most < 1 and count > most * total:
                aside.forget(number, column)
                self._told.setdefault(number, []).append(
                    Problem.of(
                        _CODE,
                        self._context.summaries[number].source,
                        column=column,
                        raw=raw,
                        count=count,
                        message=f"{count / total:.0%} of its {total:,} values cannot be read",
                        hint="is it another column with the same name, or another notation? set-aside.csv "
                        "lists them all",
                    )
                )

    def problems(self, number: int) -> Sequence[Problem]:
        """The problem of a source."""
        return self._told.get(number, ())


class BadShares(Measure[Looked, Told, Shares]):
    """The measure of sources with too many bad values in a column."""

    begin = Shares

    def look(self, rows: Looked) -> Told:  # noqa: ARG002
        """Nothing: only all rows of a source show it."""
        return {}

    def recall(self, earlier: Recalled) -> Told:
        """The problem from the record."""
        return {
            number: [one for one in earlier.problems(number) if one.code == _CODE] for number in earlier.was
        }


BAD_SHARES = BadShares()

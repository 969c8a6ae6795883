"""What the page says of each column of the table."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
from markupsafe import Markup

from integrum.arrow.arrays import Floats, Ints, in_one, wholes
from integrum.measures.items import ColumnEntry
from integrum.previewing.samples import Samples
from integrum.previewing.views import Sample
from integrum.recording.overview import share
from integrum.reporting.column_figures import filled_figure, ranges_figure
from integrum.values.types import TYPES, Type

# so many columns get a picture
MOST = 200


@dataclass(frozen=True)
class ColumnCard:
    """What there is to see of a column."""

    entry: ColumnEntry  # its line in the codebook
    share: str  # the share of filled cells, in words
    picture: Markup  # an SVG element; empty when there is none
    counted: tuple[tuple[str, int], ...]  # its most frequent values with their counts
    more: int  # how many values it has besides
    from_sources: str  # in how many sources it is, in words
    samples: tuple[Sample, ...] = ()  # some values as they are written, and as they are in the table


class ColumnValues:
    """The values of the columns by source, as the record has them.

    Parameters
    ----------
    table
        The lines of ``values.csv``, as texts.
    """

    def __init__(self, table: pa.Table, numbers: Mapping[tuple[str, str], int]) -> None:
        pairs = zip(table["source"].to_pylist(), table["sheet"].to_pylist(), strict=True)
        self._source = np.array([numbers.get(pair, -1) for pair in pairs], np.int64)
        coded = in_one(table["column"]).dictionary_encode()
        self._codes = wholes(coded.indices)
        self._names = {name: at for at, name in enumerate(coded.dictionary.to_pylist())}
        self._table = table

    def rows_of(self, name: str) -> Ints:
        """The rows of a column in the table."""
        return np.flatnonzero(self._codes == self._names.get(name, -2))

    def presence(self, name: str) -> tuple[Ints, Ints]:
        """The numbers of the sources that have a column, and how many filled cells it has in each."""
        at = self.rows_of(name)
        return self._source[at], self._whole("filled", at)

    def picture(self, entry: ColumnEntry, sources: int) -> Markup:
        """A small picture of a column."""
        at = self.rows_of(entry.column)
        if not len(at):
            return Markup("")
        kind = TYPES[entry.type]
        if kind.has_order and entry.least:
            least, median, greatest = (
                self._numbers(part, kind, at) for part in ("least", "median", "greatest")
            )
            there = ~np.isnan(least)
            at, least, median, greatest = at[there], least[there], median[there], greatest[there]
            if len(at):
                return ranges_figure(entry.column, sources, self._source[at], least, median, greatest)
        return filled_figure(
            entry.column, sources, self._source[at], self._whole("filled", at), self._whole("empty", at)
        )

    def _whole(self, part: str, at: Ints) -> Ints:
        return wholes(self._column(part, at).cast(pa.int64()))

    def _numbers(self, part: str, kind: Type, at: Ints) -> Floats:
        texts = self._column(part, at)
        return kind.numbers_in(pc.if_else(pc.equal(texts, ""), None, texts))

    def _column(self, part: str, at: Ints) -> pa.Array:
        return in_one(self._table[part].take(pa.array(at)))


def cards_of(
    entries: Sequence[ColumnEntry],
    values: ColumnValues,
    categories: Mapping[str, Mapping[str, int]],
    rows: int,
    assembled: int,
    sources: int,
    samples: Mapping[str, Samples],
) -> list[ColumnCard]:
    """A card for each column.

    Parameters
    ----------
    categories
        By column, where there are only a few, its values with their counts.
    assembled, sources
        How many sources are in the table, and how many there are.
    samples
        By column what some sources have of it.
    """
    cards = []
    for number, entry in enumerate(entries):
        some = list(categories.get(entry.column, {}).items())
        cards.append(
            ColumnCard(
                entry,
                share(entry.filled, rows),
                values.picture(entry, sources) if number < MOST else Markup(""),
                tuple(some[:8]),
                max(len(some) - 8, 0),
                "in every source"
                if entry.sources == assembled
                else f"in {entry.sources:,} of {assembled:,} sources",
                tuple(samples[entry.column].shown) if entry.column in samples else (),
            )
        )
    return cards

"""The columns of a table, as the report and the codebook show them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
from markupsafe import Markup

from integrum.measures.items import ColumnEntry
from integrum.measures.tables import CODEBOOK, CODEBOOK_TEXT
from integrum.pages.grid import Sample
from integrum.pages.page import MOST, drawn, filled_picture, part_of_page, ranges_picture
from integrum.pages.samples import Samples
from integrum.pages.signed_page import write_page
from integrum.problems.problem import counted
from integrum.reporting.figures import buckets
from integrum.results.overview import share
from integrum.results.read import Record
from integrum.values.arrays import Floats, Ints, in_one, wholes
from integrum.values.types import TYPES, Type

# this many columns get a picture
_MOST_CARDS = 200


def ranges_figure(
    column: str, sources: int, at: Ints, least: Floats, median: Floats, greatest: Floats
) -> Markup:
    """The ranges of a column of numbers, dates or times.

    Returns an SVG element: a bar from the least to the greatest value of each source, and a mark at the median.
    """
    starts = buckets(sources, MOST)
    bucket = np.searchsorted(starts, at, side="right") - 1
    order = np.argsort(bucket, kind="stable")
    bucket, least, median, greatest = bucket[order], least[order], median[order], greatest[order]
    first = np.flatnonzero(np.diff(bucket, prepend=-1))
    low, high = np.minimum.reduceat(least, first), np.maximum.reduceat(greatest, first)
    middle = [float(np.median(some)) for some in np.split(median, first[1:])]
    ranges = zip(bucket[first].tolist(), low.tolist(), middle, high.tolist(), strict=True)
    said = f"the values of {column} by source, from the least to the greatest"
    return ranges_picture(said, len(starts), list(ranges))


def filled_figure(column: str, sources: int, at: Ints, filled: Ints, empty: Ints) -> Markup:
    """The share of filled cells of a column by source.

    `column`, `sources`, `at`: as for `ranges_figure`.
    """
    starts = buckets(sources, MOST)
    bucket = np.searchsorted(starts, at, side="right") - 1
    has = np.bincount(bucket, weights=filled, minlength=len(starts))
    lacks = np.bincount(bucket, weights=empty, minlength=len(starts))
    shares = has / np.maximum(has + lacks, 1)
    return filled_picture(f"the share of filled cells of {column} by source", shares.tolist())


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
                values.picture(entry, sources) if number < _MOST_CARDS else Markup(""),
                tuple(some[:8]),
                max(len(some) - 8, 0),
                "in every source"
                if entry.sources == assembled
                else f"in {entry.sources:,} of {assembled:,} sources",
                tuple(samples[entry.column].shown) if entry.column in samples else (),
            )
        )
    return cards


def make_codebook(record: Record, replace: bool = False) -> list[Path]:
    """Make both pages, and put them into the record.

    Raises OutputError when a page cannot be written, or another one is in its place.

    `replace`: whether a page that was not made by Integrum, or was changed since, may be written over.
    """
    names = ", ".join(one.path.name for one in record.outputs[:3]) or "a table"
    of = record.plan.dataset
    page = {
        "title": f"{of.title or names}: codebook",
        "description": of.description,
        "said": f"{names}: {counted(record.run.rows, 'row')}, {counted(len(record.run.columns), 'column')}, "
        f"from {counted(record.run.sources.get('assembled', 0), 'source')}.",
        "columns": record.codebook,
        "made_by": f"Made by Integrum {record.run.version} from the record {record.folder.name}, seal {record.seal}.",
    }
    texts = {
        CODEBOOK: drawn("codebook.html.jinja", page=page, style=part_of_page("base.css")),
        CODEBOOK_TEXT: drawn("codebook.md.jinja", page=page) + "\n",
    }
    return [write_page(record.folder / name, text, replace) for name, text in texts.items()]

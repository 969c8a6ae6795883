"""What is known of sources before their rows are read: header cells, headers, preambles, and the hashes of their lines."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from typing import Any

from integrum.engine.ledger import SourceSummary
from integrum.engine.matched import Matched
from integrum.engine.state import State
from integrum.measures.items import BlockEntry, HeaderEntry, VariantEntry
from integrum.measures.measure import Context, OfSources
from integrum.measures.tables import BLOCKS, HEADERS, PREAMBLE, VARIANTS
from integrum.reading.head import Head
from integrum.reading.preamble import PreambleEntry
from integrum.record.table import RecordTable


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
    """The files of the record that tell of it."""

    def __init__(self, context: Context) -> None:
        self._context = context

    def entries(self) -> Iterator[tuple[RecordTable[Any], Iterable[Any]]]:
        """A file each."""
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
    """Header cells, headers, preambles and hashes of lines."""

    begin = HeadFiles


HEADS = Heads()

"""The heads of many sources, read on the workers."""

from __future__ import annotations

from collections.abc import Sequence
from concurrent.futures import Executor
from dataclasses import dataclass, replace

from integrum.problems import SourceFault
from integrum.reading.head import Head, read_head
from integrum.sources.source import Source
from integrum.workers import ahead

_TOGETHER = 64


def read_heads(sources: Sequence[Source], executor: Executor) -> list[Head | SourceFault]:
    """Read the head of every source.

    Parameters
    ----------
    sources
        The sources.
    executor
        Where the work is done.

    Returns
    -------
    list
        One entry per source: its head, or why it has none.
    """
    groups = [sources[at : at + _TOGETHER] for at in range(0, len(sources), _TOGETHER)]
    return [head for heads in ahead(executor, _read_some, groups) for head in heads]


def _read_some(sources: Sequence[Source]) -> list[Head | SourceFault]:
    heads: list[Head | SourceFault] = []
    for source in sources:
        try:
            heads.append(read_head(source))
        except SourceFault as fault:
            heads.append(fault)
    return heads


def without_place(head: Head) -> Head:
    """A head without what differs between sources of the same variant."""
    return replace(head, data_at=0)


@dataclass(frozen=True)
class Numbered:
    """The header variants of a run.

    Attributes
    ----------
    heads
        By number, from 1 in the order in which they come.
    of_source
        The number of each source's variant; 0 where it has none.
    """

    heads: dict[int, Head]
    of_source: list[int]


def number_variants(heads: Sequence[Head | SourceFault]) -> Numbered:
    """Number the distinct headers."""
    numbers: dict[Head, int] = {}
    of_source = [
        numbers.setdefault(without_place(head), len(numbers) + 1) if isinstance(head, Head) else 0
        for head in heads
    ]
    return Numbered({number: head for head, number in numbers.items()}, of_source)

"""The heads of many sources, read on the workers."""

from __future__ import annotations

from collections.abc import Sequence
from concurrent.futures import Executor
from dataclasses import replace

from integrum.columns.header import Header
from integrum.plan.layout import Layout
from integrum.problems import SourceFault, unforeseen
from integrum.reading.head import Head, read_head
from integrum.sources.source import Source
from integrum.workers.pool import ahead

_TOGETHER = 64


def read_heads(
    sources: Sequence[Source], layouts: Sequence[Layout], executor: Executor
) -> list[Head | SourceFault]:
    """Read the head of every source."""
    pairs = list(zip(sources, layouts, strict=True))
    groups = [pairs[at : at + _TOGETHER] for at in range(0, len(pairs), _TOGETHER)]
    # sources have few different headers, and each of these is kept once
    known: dict[Header, Header] = {}
    return [
        replace(head, header=known.setdefault(head.header, head.header)) if isinstance(head, Head) else head
        for heads in ahead(executor, _read_some, groups)
        for head in heads
    ]


def as_marked(layouts: Sequence[Layout], heads: Sequence[Head | SourceFault]) -> list[Layout]:
    """The layouts of some sources with the encodings that their byte order marks say."""
    return [
        replace(layout, encoding=head.encoding) if isinstance(head, Head) and head.encoding else layout
        for layout, head in zip(layouts, heads, strict=True)
    ]


def _read_some(pairs: Sequence[tuple[Source, Layout]]) -> list[Head | SourceFault]:
    heads: list[Head | SourceFault] = []
    for source, layout in pairs:
        try:
            heads.append(read_head(source, layout))
        except SourceFault as fault:
            heads.append(fault)
        except Exception as error:
            heads.append(unforeseen(error))
    return heads

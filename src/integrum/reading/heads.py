"""The heads of many sources, read on the workers."""

from __future__ import annotations

from collections.abc import Sequence
from concurrent.futures import Executor
from dataclasses import dataclass, replace

from integrum.columns.header import Header
from integrum.plan.layout import Layout, is_ascii_like
from integrum.problems.problem import SourceFault, unforeseen
from integrum.reading.head import Head, read_head
from integrum.sources.own import START, kind_of_file
from integrum.sources.source import Source, read_full
from integrum.workers.pool import ahead

_TOGETHER = 64
# sources that begin with the same bytes have the same head; this many of these are kept, of this many bytes at the most
_MOST_KNOWN, _LONGEST = 8, 32 << 10
# after this many sources that begin in other ways it is not tried any more
_MOST_NEW = 6


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


@dataclass(frozen=True)
class _Known:
    """A head, and the bytes that determine it."""

    start: bytes
    layout: Layout
    head: Head

    @classmethod
    def of(cls, head: Head | SourceFault, start: bytes, layout: Layout) -> _Known | None:
        """Make it of a source; None where more than the plain bytes above its data determine its head."""
        if not isinstance(head, Head) or head.header.spare or not head.header_row or layout.on_its_side:
            return None
        above = start[: head.data_at]
        if len(start) == len(above):  # where the source ends there, `first_row` may lie behind its end
            return None
        is_plain = above.isascii() and is_ascii_like(layout.encoding) and above.endswith(b"\n")
        return cls(above, layout, head) if is_plain and len(above) == head.data_at else None

    def is_that_of(self, start: bytes, layout: Layout) -> bool:
        """Whether a source that begins with these bytes has this head."""
        return start.startswith(self.start) and (layout is self.layout or layout == self.layout)


def _start_of(source: Source) -> bytes:
    """The first bytes of a local file; empty for all else, and for files of another kind."""
    if source.sheet or source.packing or source.remote or source.fault:
        return b""
    try:
        with source.open() as file:
            start = read_full(file.read, min(_LONGEST, max(source.size, 1)))
    except OSError:
        return b""
    return b"" if kind_of_file(start[:START]) else start


def as_marked(layouts: Sequence[Layout], heads: Sequence[Head | SourceFault]) -> list[Layout]:
    """The layouts of some sources with the encodings that their byte order marks say."""
    return [
        replace(layout, encoding=head.encoding) if isinstance(head, Head) and head.encoding else layout
        for layout, head in zip(layouts, heads, strict=True)
    ]


def _read_some(pairs: Sequence[tuple[Source, Layout]]) -> list[Head | SourceFault]:
    heads: list[Head | SourceFault] = []
    known: list[_Known] = []
    new = 0  # of so many sources in a row none was known
    for source, layout in pairs:
        try:
            start = _start_of(source) if known and new < _MOST_NEW else b""
            like = next((one.head for one in known if one.is_that_of(start, layout)), None)
            heads.append(like or read_head(source, layout))
            new = 0 if like else new + 1
            if (
                not like
                and new <= _MOST_NEW
                and (one := _Known.of(heads[-1], start or _start_of(source), layout))
            ):
                known = [one, *known[: _MOST_KNOWN - 1]]
        except SourceFault as fault:
            heads.append(fault)
        except Exception as error:
            heads.append(unforeseen(error))
    return heads

"""The contents of sources as they are now, by their hashes."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from concurrent.futures import Executor

from integrum.sources.source import Source
from integrum.workers.pool import ahead

_FEW, _MOST = 64, 16 << 20


def contents(sources: Sequence[Source], executor: Executor) -> list[str]:
    """The content hash of each source; empty where it cannot be read, or changed meanwhile.

    Returns BLAKE3, 256 bits, in hexadecimal; of a sheet that of its cells.
    """
    return [one for some in ahead(executor, _contents, _handfuls(sources)) for one in some]


def _handfuls(sources: Sequence[Source]) -> Iterator[list[Source]]:
    some: list[Source] = []
    size = 0
    for source in sources:
        if some and (len(some) >= _FEW or size + source.size > _MOST):
            yield some
            some, size = [], 0
        some.append(source)
        size += source.size
    if some:
        yield some


def _contents(sources: Sequence[Source]) -> list[str]:
    return [_content(source) for source in sources]


def _content(source: Source) -> str:
    try:
        content = source.content()
    except Exception:  # the run that follows says what is wrong with it
        return ""
    return "" if source.has_changed() else content

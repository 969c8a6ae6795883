"""Which sources have the same content, found without reading more than is needed."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from concurrent.futures import Executor

from integrum.problems import SourceFault
from integrum.sources.source import Source
from integrum.workers.pool import ahead

_TOGETHER = 256
_CHUNK = 1 << 20


def same_as_earlier(sources: Sequence[Source], executor: Executor) -> dict[int, int]:
    """Find sources with the same content as an earlier one.

    Only those whose size another has are read, once each; packed ones are compared by what is in them.

    Returns the number of a source to that of the first one with the same content. Sources that cannot be read are
    left out; a run says why they cannot.
    """
    sizes: dict[int, int] = {}
    for source in sources:
        sizes[source.size] = sizes.get(source.size, 0) + 1
    any_packed = any(source.packing and source.member < 0 for source in sources)
    doubtful = [at for at, source in enumerate(sources) if any_packed or sizes[source.size] > 1]
    groups = [
        [sources[at] for at in doubtful[start : start + _TOGETHER]]
        for start in range(0, len(doubtful), _TOGETHER)
    ]
    hashes = [each for some in ahead(executor, _hash_some, groups) for each in some]
    first: dict[str, int] = {}
    return {
        at: twin
        for at, content in zip(doubtful, hashes, strict=True)
        if content and (twin := first.setdefault(content, at)) != at
    }


def _hash_some(sources: Sequence[Source]) -> list[str]:
    return [_hash(source) for source in sources]


def _hash(source: Source) -> str:
    hasher = hashlib.blake2b(digest_size=32)
    try:
        with source.open() as file:
            while data := file.read(_CHUNK):
                hasher.update(data)
    except (OSError, SourceFault):
        return ""
    return hasher.hexdigest()

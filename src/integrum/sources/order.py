"""The order of sources, and which have the same content."""

from __future__ import annotations

import hashlib
import re
import unicodedata
from collections.abc import Sequence
from concurrent.futures import Executor
from functools import lru_cache
from typing import Any

from integrum.problems.problem import SourceFault
from integrum.sources.source import Source
from integrum.workers.pool import ahead

_MONTH_NAMES = (
    ("jan", "january"),
    ("feb", "february"),
    ("mar", "march"),
    ("apr", "april"),
    ("may",),
    ("jun", "june"),
    ("jul", "july"),
    ("aug", "august"),
    ("sep", "sept", "september"),
    ("oct", "october"),
    ("nov", "november"),
    ("dec", "december"),
)
_MONTHS = {name: number for number, names in enumerate(_MONTH_NAMES, 1) for name in names}
_PARTS = re.compile(rf"(\d+|(?<![a-z])(?:{'|'.join(sorted(_MONTHS, key=len, reverse=True))})(?![a-z]))")
_MOST_DIGITS = 4_000  # the language itself refuses to read longer numbers
_YEAR_LAST = re.compile(r"(?<!\d)(?:(\d{1,2})([-._ ]))?(\d{1,2})[-._ ]((?:19|20)\d\d)(?!\d)")
_TOGETHER = 256
_CHUNK = 1 << 20


def natural_key(name: str) -> tuple[Any, ...]:
    """A sort key for a path with ``/`` between its parts.

    Folder by folder, runs of digits count as numbers, capitals do not count, and a name comes before the
    same name with something added. Dates come in the order of time also where the year stands last
    (``03-2024``, ``31.12.2023``) or the month is an English word. Equal names are told apart by their exact text.

    Examples
    --------
    >>> sorted(["site10.csv", "Site2.csv", "site2_b.csv", "site1/z.csv"], key=natural_key)
    ['site1/z.csv', 'Site2.csv', 'site2_b.csv', 'site10.csv']
    >>> sorted(["in_quillon_1.csv", "in_brindlemere_1.csv", "in_amber_1.csv"], key=natural_key)
    ['in_amber_1.csv', 'in_brindlemere_1.csv', 'in_quillon_1.csv']
    >>> sorted(["01-2024.csv", "12-2023.csv"], key=natural_key), sorted(["2024_Dec", "2024_feb"], key=natural_key)
    (['12-2023.csv', '01-2024.csv'], ['2024_feb', '2024_Dec'])
    """
    return tuple(_part_key(part) for part in name.split("/")), name


@lru_cache(maxsize=65536)
def _part_key(part: str) -> tuple[Any, ...]:
    stem, dot, suffix = part.rpartition(".")
    if not stem:
        stem, suffix = dot + suffix, ""
    return _chunks(stem), _chunks(suffix)


def _chunks(text: str) -> tuple[tuple[int, int, str], ...]:
    folded = text.lower() if text.isascii() else unicodedata.normalize("NFC", text).casefold()
    if "19" in folded or "20" in folded:
        folded = _YEAR_LAST.sub(_year_first, folded)
    return tuple(
        (0, int(chunk), "")
        if chunk.isdecimal() and len(chunk) <= _MOST_DIGITS
        else (0, _MONTHS[chunk], "")
        if chunk in _MONTHS
        else (1, 0, chunk)
        for chunk in _PARTS.split(folded)
        if chunk
    )


def _year_first(found: re.Match[str]) -> str:
    day, _, month, year = found.groups()
    if int(month) > 12 or (day and int(day) > 31):
        return found[0]
    return f"{year}-{month}-{day}" if day else f"{year}-{month}"


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

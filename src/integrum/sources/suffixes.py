"""What a file is, by its name and its first bytes: data, or something that cannot be."""

from __future__ import annotations

import os
from collections import Counter
from collections.abc import Iterator, Sequence
from contextlib import suppress
from dataclasses import dataclass, field

from integrum.problems.problem import Problem, counted
from integrum.sources.packing import PACKED
from integrum.sources.source import Source

DELIMITED = (".csv", ".tsv", ".tab")
WORKBOOKS = (".xlsx", ".xlsm", ".xls", ".xlsb", ".ods")
DATA = (*DELIMITED, *WORKBOOKS)
ARCHIVE = ".zip"
_PACKINGS = (*PACKED, ARCHIVE)

_TEMPORARY = (".tmp", ".temp", ".part", ".partial", ".crdownload", ".swp", ".bak", ".lock", ".lck")
_PICTURES = (
    ".png",
    ".jpg",
    ".jpeg",
    ".gif",
    ".tif",
    ".tiff",
    ".bmp",
    ".svg",
    ".heic",
    ".webp",
    ".ico",
    ".raw",
)
_DOCUMENTS = (
    ".pdf",
    ".doc",
    ".docx",
    ".odt",
    ".rtf",
    ".ppt",
    ".pptx",
    ".odp",
    ".md",
    ".html",
    ".htm",
    ".eml",
    ".msg",
)
_DELIMITERS = (b",", b";", b"\t", b"|")
# this much of a file is looked at, this many of the files that are read, and this many lines that may be a header
_START, _SIBLINGS, _LINES = 4096, 24, 40
# other suffixes that tables have
_TABLES = frozenset({".txt", ".dat", ".asc", ".prn", ".out", ".log", ".data", ".ascii", ".tbl", ".text"})
# this many lines make a table
_FEWEST = 3
_ASCII_SPACE = b" \t\r\n\"'\xef\xbb\xbf"
BY_SUFFIX = "skipped: not a delimited file or workbook, by its suffix"


def never_data(name: str) -> str:
    """Why a file cannot hold data, or ``""``.

    Examples
    --------
    >>> never_data("~$may.csv"), never_data("shore.JPG"), never_data("may.csv")
    ('lock or temporary file', 'picture', '')
    """
    lower = name.lower()
    if lower.startswith(("~$", ".~lock")) or lower.endswith(("~", "#", *_TEMPORARY)):
        return "lock or temporary file"
    if lower.startswith("."):
        return "hidden file"
    if lower.endswith(_PICTURES):
        return "picture"
    if lower.endswith(_DOCUMENTS):
        return "document"
    return ""


def packing_of(name: str) -> str:
    """How a file is packed, by its name: ``""``, or the suffix that says so.

    Examples
    --------
    >>> packing_of("may.csv.GZ"), packing_of("may.csv")
    ('.gz', '')
    """
    lower = name.lower()
    if not lower.endswith(_PACKINGS):
        return ""
    return next(suffix for suffix in _PACKINGS if lower.endswith(suffix))


def unpacked_name(name: str) -> str:
    """A name without the suffix that says how the file is packed."""
    packing = packing_of(name)
    return name[: -len(packing)] if packing and packing != ARCHIVE else name


def is_data(name: str) -> bool:
    """Whether a name in a folder is taken for a delimited text or a workbook.

    Examples
    --------
    >>> is_data("may.CSV"), is_data("may.tsv.xz"), is_data("may.xlsx"), is_data("notes.txt")
    (True, True, True, False)
    """
    return _plain(name).endswith(DATA)


def is_workbook(name: str) -> bool:
    """Whether a file is a workbook, by its name."""
    return _plain(name).endswith(WORKBOOKS)


def is_delimited(name: str) -> bool:
    """Whether a file is a delimited text, by its name."""
    return _plain(name).endswith(DELIMITED)


def _plain(name: str) -> str:
    """A name without what says that it is packed."""
    lower = name.lower()
    packing = packing_of(lower)
    return lower.removesuffix(packing) if packing != ARCHIVE else ""


@dataclass(frozen=True)
class _Skipped:
    """A file that was skipped for its suffix."""

    name: str
    path: str
    place: str


@dataclass
class OtherSuffixes:
    """Collects files that were skipped for their suffix."""

    skipped: list[_Skipped] = field(default_factory=list)

    def add(self, name: str, path: str, place: str) -> None:
        """Remember a skipped file."""
        self.skipped.append(_Skipped(name, path, place))

    def problems(self, sources: Sequence[Source]) -> Iterator[Problem]:
        """A problem for each suffix whose files begin like the sources.

        `sources`: those that are read; what one place skips and another one reads is not told of.
        """
        taken = {source.path for source in sources}
        left = [one for one in self.skipped if one.path not in taken]
        if not left:
            return
        headers = _headers(sources)
        alike: dict[str, list[_Skipped]] = {}
        for one in left:
            if headers and headers & _lines(one.path):
                alike.setdefault(os.path.splitext(one.name)[1].lower(), []).append(one)
            else:
                yield Problem.of("passed-over", one.name, message=BY_SUFFIX)
        for suffix, some in sorted(alike.items()):
            yield _told(suffix, some)


def _told(suffix: str, some: Sequence[_Skipped]) -> Problem:
    first = some[0]
    said = f'with the suffix "{suffix}"' if suffix else "without a suffix"
    begin = "begins" if len(some) == 1 else "begin"
    folder = first.place.rstrip("/")
    pattern = f'"{folder}/**/*{suffix}"' if suffix else f'"{folder}/{os.path.basename(first.name)}"'
    return Problem.of(
        "tables-skipped",
        first.name if len(some) == 1 else "",
        count=len(some),
        message=f"{counted(len(some), 'file')} {said} {begin} like the files that are read, and "
        f"{'is' if len(some) == 1 else 'are'} not read"
        + (f"; the first is {first.name}" if len(some) > 1 else ""),
        hint=f"add a place for them: find = [{_quoted(first.place)}, {pattern}]; or exclude them",
    )


def _quoted(text: str) -> str:
    return f'"{text}"'


def _headers(sources: Sequence[Source]) -> frozenset[bytes]:
    """The lines with delimiters with which some of the sources begin."""
    local = [one for one in sources if not one.packing and one.remote is None and is_delimited(one.name)]
    step = max(1, len(local) // _SIBLINGS)
    found: set[bytes] = set()
    for source in local[::step]:
        lines = _lines(source.path, most=1)
        found |= lines
    return frozenset(found)


def _lines(path: str, most: int = _LINES) -> frozenset[bytes]:
    """The first lines of a file that have a delimiter and a letter, without case and outer blanks and quotes."""
    with suppress(OSError), open(path, "rb") as file:
        start = file.read(_START)
        lines = [line.strip(_ASCII_SPACE).lower() for line in start.splitlines()[:_LINES]]
        some = [line for line in lines if any(mark in line for mark in _DELIMITERS) and _has_letters(line)]
        return frozenset(some[:most])
    return frozenset()


def _has_letters(line: bytes) -> bool:
    return any(97 <= byte <= 122 or byte > 127 for byte in line)


def only_other(folder: str) -> str:
    """The suffix of the tables of a folder in which no file has one of the usual suffixes; empty where there are none.

    Of several suffixes the one that most tables have; empty when that is not clear.
    """
    counts: Counter[str] = Counter()
    for place, folders, names in os.walk(folder):
        folders[:] = [name for name in folders if not name.startswith(".")]
        for name in names:
            if name.lower().endswith((*DATA, *PACKED, ARCHIVE)):
                return ""
            suffix = os.path.splitext(name)[1].lower()
            if suffix in _TABLES and not never_data(name) and _begins_like_a_table(os.path.join(place, name)):
                counts[suffix] += 1
    some = counts.most_common(2)
    return some[0][0] if len(some) == 1 or (some and some[0][1] > some[1][1]) else ""


def _begins_like_a_table(path: str) -> bool:
    """Whether some lines of the beginning of a file have as many of one delimiter."""
    with suppress(OSError), open(path, "rb") as file:
        start = file.read(_START)
        if start[:2] in (b"\xff\xfe", b"\xfe\xff"):
            start = start.decode("utf-16", "replace").encode()
        if b"\0" in start:
            return False
        lines = [line for line in start.splitlines()[:_LINES] if line.strip()]
        counts = (Counter(line.count(mark) for line in lines if mark in line) for mark in _DELIMITERS)
        return any(max(each.values(), default=0) >= _FEWEST for each in counts)
    return False

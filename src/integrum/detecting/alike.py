"""Recognise a source that is like one whose layout is known, so that it need not be guessed anew."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TypeVar

from integrum.detecting.detect import Detected
from integrum.detecting.endings import is_note, is_summary
from integrum.detecting.sample import Sample
from integrum.values.cells import is_value

_LINES = 4
Guess = TypeVar("Guess", bound=Detected)
_MARKS = tuple(
    end + mark
    for end in (b"\n", b"\r")
    for mark in (b"\n", b"\r", b"#", b"%", b"//")
    if end + mark != b"\r\n"
)


class Guessed:
    """A sample and what was guessed for it."""

    def __init__(self, sample: Sample, detected: Detected) -> None:
        layout = detected.layout
        self._delimiter = layout.delimiter.encode()
        self._top = b""
        plain = layout.quote == '"' and not (
            layout.footer_from or layout.comment_mark or layout.thousands_mark
        )
        simple = layout.encoding == "utf-8" and layout.delimiter != " " and detected.confidence >= 0.95
        alone = not (
            layout.first_column or layout.last_column or detected.second_table or detected.second_column
        )
        simple = simple and alone and detected.is_table
        if plain and simple and isinstance(layout.header_row, int) and not _surprises(sample.head):
            rows = layout.header_row + layout.header_rows - 1 + layout.rows_below
            lines = sample.head.split(b"\n", rows)
            if len(lines) > rows:
                self._top = b"\n".join(lines[:rows]) + b"\n"
                self._first = self._shape(lines[rows].split(b"\n", 1)[0])
                self._blank = b"\n" + self._delimiter * self._first[0] + b"\n"
                if self._blank in sample.head:
                    self._top = b""
        self._ascii = sample.head.isascii()

    def fits(self, sample: Sample) -> bool:
        """Whether a sample begins with the same bytes up to its data, and its rows look like those of this one.

        Only the plainest sources are recognised; whatever is doubtful is guessed anew.
        """
        head = sample.head
        if (
            not self._top
            or not head.startswith(self._top)
            or head.isascii() != self._ascii
            or _surprises(head)
            or self._blank in head
            or self._blank in sample.tail
        ):
            return False
        start, end = head[len(self._top) : len(self._top) + 4_000], (sample.tail or head)[-4_000:]
        rows = [*start.split(b"\n", _LINES)[:_LINES], *[line for line in end.split(b"\n") if line][-_LINES:]]
        if not sample.whole:
            rows = rows[:-1]
        if not self._ascii:
            try:
                (head if sample.whole else head[: head.rfind(b"\n")]).decode("utf-8")
            except UnicodeDecodeError:
                return False
        return all(self._shape(row) == self._first for row in rows if row)

    def _shape(self, line: bytes) -> tuple[int, bool, bool, bool, bool]:
        first = line.split(self._delimiter, 1)[0].decode("latin-1")
        comma = self._delimiter != b"," and b"," in line
        ends = is_summary(first) or is_note(first)
        return line.count(self._delimiter), is_value(first), comma, b'"' in line, ends


def _surprises(head: bytes) -> bool:
    some = head if len(head) < 8_000 else head[:5_000] + b"," + head[-3_000:]
    return any(mark in some for mark in _MARKS)


def detect_alike(samples: Sequence[Sample], detect: Callable[[Sample], Guess]) -> list[Guess]:
    """Guess the layouts of samples, each kind of source once.

    Returns one guess per sample.
    """
    known: list[tuple[Guessed, Guess]] = []
    found: list[Guess] = []
    for sample in samples:
        like = next((guess for one, guess in known if one.fits(sample)), None)
        if like is None:
            like = detect(sample)
            known = [(Guessed(sample, like), like), *known[:15]]
        found.append(like)
    return found

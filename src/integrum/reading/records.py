"""Where the records of a delimited text end, with quotes taken into account."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from integrum.plan.layout import SPACES
from integrum.values.arrays import Bytes, Ints, each_once

LF, CR = 0x0A, 0x0D
# this many places of a text are looked at one by one
_FEW = 500
# this many texts are looked for one by one
_FEW_TEXTS = 16


@dataclass(frozen=True)
class Dialect:
    """How cells are separated and quoted; one ASCII character each, or none."""

    delimiter: str = ","  # between cells; a space stands for runs of spaces and tabs
    quote: str = '"'  # around cells that need it
    # before a quote inside a quoted cell, where it is not doubled; anywhere else it is a letter like others
    escape: str = ""
    comment: str = ""  # what rows of comment begin with; quotes in them are letters like others

    @property
    def borders(self) -> bytes:
        """The characters that may stand on both sides of a cell."""
        return (
            self.delimiter.encode() + b"\t" if self.delimiter == SPACES else self.delimiter.encode()
        ) + b"\r\n"


@dataclass(frozen=True)
class Records:
    """The records in a stretch of bytes that begins at the start of a record."""

    count: int  # whole records in it
    end: int  # offset just behind the last whole record
    # when the stretch ends inside quotes: the number of the record, from 0, in which they opened
    open_record: int | None = None
    # records, from 0, that have text behind a closing quote, with the offsets of each: start and end
    broken: tuple[tuple[int, int, int], ...] = ()


def find_records(data: bytes | bytearray, dialect: Dialect, last: bool) -> Records:
    r"""Count the records in a stretch of bytes and find the end of the last whole one.

    A record ends at LF, CR LF or a lone CR outside quotes. Quotes open a cell only at its very start;
    elsewhere they are ordinary letters. Quoted cells double their inner quotes (RFC 4180).

    `last`: whether the source ends here; then a last record needs no line end.

    Examples
    --------
    >>> find_records(b'1,a\n2,"b\nc"\n3', Dialect(), last=False)
    Records(count=2, end=12, open_record=None, broken=())
    >>> find_records(b'1,a\n2,"b\nc', Dialect(), last=True).open_record
    1
    """
    if CR not in data and not (dialect.quote and dialect.quote.encode() in data):
        count = int(np.count_nonzero(np.frombuffer(data, np.uint8) == LF))
        return _closed(count, data.rfind(b"\n") + 1, len(data), last)
    ends, quotes, after = _ends_and_quotes(data, dialect, last)
    count, end = len(ends), int(ends[-1]) + 1 if len(ends) else 0
    if len(quotes) % 2:
        return Records(count, end, int(np.searchsorted(ends, quotes[-1])), _broken(ends, after, end))
    records = _closed(count, end, len(data), last)
    if after and records.end > end:
        ends = np.append(ends, records.end - 1)
    return Records(records.count, records.end, None, _broken(ends, after, records.end))


def bounds(data: bytes, dialect: Dialect, last: bool) -> tuple[Ints, Ints]:
    r"""Starts and ends of all whole records, line ends included.

    Examples
    --------
    >>> starts, ends = bounds(b'"a\nb",c\n1,2\n3', Dialect(), last=True)
    >>> starts.tolist(), ends.tolist()
    ([0, 8, 12], [8, 12, 13])
    """
    found, quotes, _ = _ends_and_quotes(data, dialect, last)
    ends = found.astype(np.int64) + 1
    if last and len(quotes) % 2 == 0 and (ends[-1] if len(ends) else 0) < len(data):
        ends = np.append(ends, len(data))
    return np.concatenate([ends[:0], [0], ends[:-1]]).astype(np.int64)[: len(ends)], ends


def spans(data: bytes, dialect: Dialect, last: bool) -> list[tuple[int, int]]:
    r"""Start and end of each whole record, for stretches that are not long.

    Examples
    --------
    >>> spans(b'"a\nb",c\n1,2\n3', Dialect(), last=True)
    [(0, 8), (8, 12), (12, 13)]
    """
    starts, ends = bounds(data, dialect, last)
    return list(zip(starts.tolist(), ends.tolist(), strict=True))


def records_beginning(data: bytes, dialect: Dialect, texts: Sequence[str]) -> list[tuple[int, int, int]]:
    r"""Records that begin with one of some texts: number, start and end of each.

    `texts`: the texts, none of them empty.

    Examples
    --------
    >>> records_beginning(b'1,2\n#x\n#y,3\n', Dialect(), ["#"])
    [(1, 4, 7), (2, 7, 12)]
    """
    marks = [text.encode() for text in texts]
    if not any(mark in data for mark in marks):
        return []
    return _beginning(data, dialect, marks, b"")


def first_with_cell(data: bytes, dialect: Dialect, texts: Sequence[str]) -> tuple[int, int] | None:
    r"""The number and the start of the first record whose first filled cell is one of some texts.

    A colon or an equals sign, and what follows it in the cell, do not count.

    `texts`: the texts, none of them empty.

    Examples
    --------
    >>> first_with_cell(b'Totals,2\n,"Total: 3",3\n', Dialect(), ["Total"])
    (1, 9)
    """
    before = (" \t" + dialect.quote + dialect.delimiter).encode()
    marks = [text.encode().lstrip(before) or text.encode() for text in texts]
    wanted = frozenset(text.strip() for text in texts)
    if len(marks) <= _FEW_TEXTS and not any(mark in data for mark in marks):
        return None
    if len(marks) > _FEW_TEXTS:
        candidates: Iterable[tuple[int, int, int]] = _beginning_with_some(
            data, dialect, frozenset(marks), before
        )
    else:
        behind = rb"(?=[ \t]*(?:[:=\r\n" + re.escape(before) + rb"]|\Z))"
        candidates = _beginning(data, dialect, marks, before, behind)
    for number, start, end in candidates:
        if _first_cell(data[start:end], dialect) & wanted:
            return number, start
    return None


def _first_cell(record: bytes, dialect: Dialect) -> frozenset[str]:
    """The first filled cell of a record, whole and up to a colon or an equals sign."""
    text = record.decode("utf-8", "replace").rstrip("\r\n")
    separators, quote = dialect.borders.decode().rstrip("\r\n"), dialect.quote
    at, cell = 0, ""
    while at < len(text) and not cell:
        start = at
        if quote and text.startswith(quote, at):
            at = text.find(quote, at + 1)
            while at >= 0 and text.startswith(quote, at + 1):  # a doubled one stands for itself
                at = text.find(quote, at + 2)
            at = len(text) if at < 0 else at
            cell = text[start + 1 : at].replace(quote * 2, quote).strip()
            start = at = at + 1
        while at < len(text) and text[at] not in separators:
            at += 1
        cell = (cell + text[start:at]).strip()
        at += 1
    return frozenset({cell, _BEHIND_NAME.split(cell, maxsplit=1)[0].strip()})


_BEHIND_NAME = re.compile("[:=]")


def _beginning(
    data: bytes,
    dialect: Dialect,
    marks: Sequence[bytes],
    before: bytes,
    behind: bytes = b"",
) -> list[tuple[int, int, int]]:
    """Records that begin with some bytes, perhaps behind others, and with something behind them."""
    if sum(map(data.count, marks)) <= _FEW:
        ends = re.compile(behind)
        found = {
            _line_start(data, at, before)
            for mark in marks
            for at in _places_of(data, mark)
            if not behind or ends.match(data, at + len(mark))
        }
        places = np.array(sorted(found - {-1}), np.int64)
    else:
        lead = b"[" + re.escape(before) + b"]*" if before else b""
        wanted = re.compile(
            rb"(?:\A|[\r\n])(" + lead + b"(?:" + b"|".join(map(re.escape, marks)) + b"))" + behind
        )
        places = np.array([one.start(1) for one in wanted.finditer(data)], np.int64)
    if not len(places):
        return []
    starts, ends_at = bounds(data, dialect, last=True)
    at = np.searchsorted(starts, places)
    real = at < len(starts)
    real[real] = starts[at[real]] == places[real]
    return [(number, int(starts[number]), int(ends_at[number])) for number in at[real].tolist()]


def _beginning_with_some(
    data: bytes, dialect: Dialect, marks: frozenset[bytes], before: bytes
) -> Iterator[tuple[int, int, int]]:
    """The same for many texts: each record is looked up, not each text."""
    lengths = sorted(set(map(len, marks)))
    for number, (start, end) in enumerate(spans(data, dialect, last=True)):
        record = data[start:end].lstrip(before)
        if any(record[:length] in marks for length in lengths):
            yield number, start, end


def _places_of(data: bytes, mark: bytes) -> Iterator[int]:
    at = data.find(mark)
    while at >= 0:
        yield at
        at = data.find(mark, at + 1)


def _line_start(data: bytes, at: int, before: bytes) -> int:
    """Where the line begins in which only some letters stand before a place; -1 when there are others."""
    while at and data[at - 1] in before:
        at -= 1
    return at if not at or data[at - 1] in (LF, CR) else -1


def _ends_and_quotes(data: bytes | bytearray, dialect: Dialect, last: bool) -> tuple[Ints, Ints, list[int]]:
    """Line ends outside quotes, the quotes that open and close, and where text follows a closing one."""
    view = np.frombuffer(data, np.uint8)
    ends = _line_ends(view, last)
    quotes = np.flatnonzero(view == ord(dialect.quote)) if dialect.quote else ends[:0]
    after: list[int] = []
    if len(quotes):
        if dialect.escape and dialect.escape.encode() in data:
            quotes = _not_escaped(data, quotes, ord(dialect.escape))
        comments = _with_comments(view, ends, quotes, dialect.comment.encode())
        if comments or _irregular(view, quotes, dialect):
            quotes, after = _walk_quotes(data, ends, quotes, dialect, comments)
        ends = ends[np.searchsorted(quotes, ends) % 2 == 0]
    return ends, quotes, after


def _not_escaped(data: bytes | bytearray, quotes: Ints, escape: int) -> Ints:
    kept = []
    for at in quotes.tolist():
        run = at
        while run and data[run - 1] == escape:
            run -= 1
        if (at - run) % 2 == 0:
            kept.append(at)
    return np.array(kept, np.int64)


def _closed(count: int, end: int, size: int, last: bool) -> Records:
    return Records(count + 1, size) if last and end < size else Records(count, end)


def _line_ends(view: Bytes, last: bool) -> Ints:
    feeds = np.flatnonzero(view == LF)
    returns = np.flatnonzero(view == CR)
    if not len(returns):
        return feeds
    following = np.minimum(returns + 1, len(view) - 1)
    lone = returns[view[following] != LF]
    if len(lone) and lone[-1] == len(view) - 1 and not last:
        lone = lone[:-1]  # its LF may come with the next bytes
    return np.sort(np.concatenate([feeds, lone])) if len(lone) else feeds


def _with_comments(view: Bytes, ends: Ints, quotes: Ints, mark: bytes) -> set[int]:
    """The numbers of the lines that begin like a comment and have quotes in them."""
    if not mark:
        return set()
    lines = each_once(np.searchsorted(ends, quotes))
    starts = np.where(lines > 0, ends[np.maximum(lines, 1) - 1] + 1, 0) if len(ends) else lines * 0
    likely = view[starts] == mark[0]
    return {
        line
        for line, start in zip(lines[likely].tolist(), starts[likely].tolist(), strict=True)
        if view[start : start + len(mark)].tobytes() == mark
    }


def _irregular(view: Bytes, quotes: Ints, dialect: Dialect) -> bool:
    """Whether some quote neither opens a cell, nor closes one, nor is doubled inside one."""
    border = np.zeros(256, bool)
    border[np.frombuffer(dialect.borders, np.uint8)] = True
    first, second = quotes[0::2], quotes[1::2]
    opens = (first == 0) | border[view[np.maximum(first - 1, 0)]]
    doubled = np.zeros(len(first), bool)
    doubled[1:] = second[: len(first) - 1] == first[1:] - 1
    if not bool(np.all(opens | doubled)):
        return True
    after = view[np.minimum(second + 1, len(view) - 1)]
    closes = (second == len(view) - 1) | border[after] | (after == ord(dialect.quote))
    # a closing quote with a quote behind it must be a doubled one: the next pair starts right there,
    # which holds by construction; what remains is text behind a closing quote
    return not bool(np.all(closes))


def _walk_quotes(
    data: bytes | bytearray, ends: Ints, quotes: Ints, dialect: Dialect, comments: set[int]
) -> tuple[Ints, list[int]]:
    """Walk over the quotes: which open and close cells, and where text follows a closing quote."""
    border, quote = frozenset(dialect.borders), ord(dialect.quote)
    lines = np.searchsorted(ends, quotes).tolist() if comments else [-1] * len(quotes)
    real: list[int] = []
    after: list[int] = []
    inside, skip = False, -1
    size = len(data)
    for at, line in zip(quotes.tolist(), lines, strict=True):
        if at == skip:
            continue
        if not inside:
            if line not in comments and (at == 0 or data[at - 1] in border):
                inside = True
                real.append(at)
        elif at + 1 < size and data[at + 1] == quote:
            skip = at + 1
        else:
            inside = False
            comments.discard(line)  # it begins inside a quoted cell
            real.append(at)
            if at + 1 < size and data[at + 1] not in border:
                after.append(at)
    return np.array(real, np.int64), after


def _broken(ends: Ints, after: list[int], end: int) -> tuple[tuple[int, int, int], ...]:
    records = sorted({int(np.searchsorted(ends, at)) for at in after if at < end})
    return tuple(
        (number, int(ends[number - 1]) + 1 if number else 0, int(ends[number]) + 1) for number in records
    )

"""Guess the layout of one source, with the evidence and how sure it is."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import partial
from itertools import pairwise
from typing import Any

from integrum.detecting.body import Body
from integrum.detecting.dialect import Marks, Separated, decimal_sign, detect_dialect
from integrum.detecting.encoding import Encoding, detect_encoding
from integrum.detecting.footers import footer_text
from integrum.detecting.headers import has_name, is_name
from integrum.detecting.sample import Row, Sample
from integrum.detecting.shape import Reader, Shape
from integrum.detecting.statistics import Above, above_in_source
from integrum.detecting.vocabulary import leading
from integrum.plan.layout import SPACES, Layout
from integrum.reading.plain import split_cells
from integrum.reading.records import Dialect, spans
from integrum.sources.source import Source
from integrum.values.cells import kind_of

_COMMENTS = ("#", "%", "//")
# rows and columns that can be judged, and how many of the first are looked at
_LEAST_ROWS, _LEAST_COLUMNS, _LOOKED_AT = 2, 3, 40
_NAMED, _PURE = 0.7, 0.8


@dataclass(frozen=True)
class Detected:
    """The guess for one source."""

    layout: Layout
    confidence: float = 1.0  # from 0 to 1
    evidence: tuple[str, ...] = ()  # why, a line each
    # keys of the layout about which the source says nothing, so that it fits others that say something
    free: frozenset[str] = frozenset()
    second_table: int = 0  # the row of another header further down; 0 when there is none
    second_column: str = ""  # in a sheet: the first column of another table beside the first one
    is_table: bool = True  # whether there is a table at all; a cover page or notes in a sheet are none
    doubt: str = ""  # what else it could be, in words; empty when nothing else comes near


UNCLEAR_ENCODING = "the encoding is uncertain"
UNREADABLE = Detected(Layout(), 0.0, ("it cannot be read",))


def detect_sample(sample: Sample) -> Detected:
    """Guess the layout of a sample: from a few of its rows where these leave no doubt, else from all of them."""
    every = sample.head + sample.middle + sample.tail if sample.head[:2] not in _MARKS else sample.head
    encoding = detect_encoding(every)
    head = _decoded(sample.head, encoding)
    parts = [
        _inner_lines(_decoded(part, encoding), part is sample.tail)
        for part in (sample.middle, sample.tail)
        if part
    ]
    if not _may_surprise(head):
        few = _from_few(encoding, head, parts, sample)
        if few is not None and few.confidence >= _SURE:
            return few
    lines = head.splitlines()
    if not sample.whole and lines:
        lines = lines[:-1]
    written = detect_dialect([*lines, *(line for part in parts for line in part)])
    return _guess(
        encoding, written, head, sample.whole, parts[:-1], parts[-1] if parts else [], sample.source
    )


_SURE = 0.95
_FEW_LETTERS, _FEW_LINES = 2_000, 12
_MOST_ROWS = 3_000
_SURPRISES = tuple(
    f"{end}{mark}" for end in ("\n", "\r") for mark in ("\n", "\r", "#", "%", "//") if end + mark != "\r\n"
)


def _may_surprise(head: str) -> bool:
    """Whether all rows have to be looked at: there are blank lines, comments or escaped quotes."""
    if '\\"' in head or "\\'" in head:
        return True
    return head.startswith(_COMMENTS) or any(each in head for each in _SURPRISES)


def _from_few(encoding: Encoding, head: str, parts: list[list[str]], sample: Sample) -> Detected | None:
    """Guess from the first, the last and some middle rows; None where these leave a doubt."""
    if len(head) < 2 * _FEW_LETTERS:
        return None
    end = max(head.rfind("\n", 0, _FEW_LETTERS), head.rfind("\r", 0, _FEW_LETTERS)) + 1
    if not end:
        return None
    rest = head[-_FEW_LETTERS // 2 :].splitlines()[1:]
    tail = (parts[-1] if parts else rest if sample.whole else rest[:-1])[-_FEW_LINES:]
    middle = head[len(head) // 2 : len(head) // 2 + _FEW_LETTERS // 3].splitlines()[1:-1]
    first = head[:end]
    written = detect_dialect([*first.splitlines(), *middle, *tail])
    if written.score < 1.0:
        return None
    return _guess(encoding, written, first, False, [middle[:_FEW_LINES]], tail, sample.source)


def _guess(
    encoding: Encoding,
    written: Separated,
    head: str,
    whole: bool,
    inner: Sequence[Sequence[str]],
    tail: Sequence[str],
    source: Source | None,
) -> Detected:
    dialect = Dialect(written.delimiter, written.quote, written.escape)
    rows = _rows(head, written, dialect, whole)[1 if written.said else 0 :]
    others = [Row(0, _cells(line, written, dialect), line) for part in inner for line in part]
    last = [Row(0, _cells(line, written, dialect), line) for line in tail]

    def above(start: int, end: Row, marks: Marks, comment: str = "") -> Above:
        """The numbers of a source that is too large to be looked at as a whole."""
        if source is None:
            return Above(marks)
        layout = Layout(
            header_row="none",
            first_row=start,
            footer_from=[leading(end.first) or end.first],
            comment_mark=comment,
            encoding=encoding.name,
            delimiter=written.delimiter,
            quote=written.quote,
            escape=written.escape,
        )
        return above_in_source(source, layout, marks)

    shape = Reader(rows, others, last, written.delimiter, above).shape()
    every = [*rows, *others, *last]
    comment = next((mark for mark in _marks(rows) if _are_comments(mark, shape, every)), "")
    plain, more, end = (_without(comment, some) for some in (rows, others, last))
    if comment:
        reader = Reader(plain, more, end, written.delimiter, partial(above, comment=comment))
        shape = _header_in_comment(reader.shape(), rows, comment)
    return _detected(encoding, written, shape, comment, plain, [*more, *end])


_MARKS = (b"\xff\xfe", b"\xfe\xff")


def _decoded(data: bytes, encoding: Encoding) -> str:
    name = encoding.name
    if name == "utf-16":
        name = "utf-16-be" if data.startswith(b"\xfe\xff") else "utf-16-le"
    text = data.decode(name, "replace")
    return text.removeprefix("\ufeff")


def _inner_lines(text: str, is_tail: bool) -> list[str]:
    """Whole lines of a part that begins anywhere."""
    lines = text.splitlines()[1:]
    return lines if is_tail else lines[:-1]


def _rows(head: str, written: Separated, dialect: Dialect, whole: bool) -> list[Row]:
    if written.delimiter == SPACES:
        return [
            Row(number, _cells(line, written, dialect), line)
            for number, line in enumerate(head.splitlines(), 1)
        ]
    data = head.encode("utf-8", "replace")
    found = spans(data, dialect, last=whole)
    return [
        Row(number, split_cells(text, dialect), text)
        for number, (start, end) in enumerate(found[:_MOST_ROWS], 1)
        for text in (data[start:end].decode("utf-8", "replace"),)
    ]


def whole_lines(part: bytes) -> list[str]:
    """Whole lines of the end of a text in UTF-8."""
    return _inner_lines(part.decode("utf-8", "replace"), True)


def _cells(line: str, written: Separated, dialect: Dialect) -> list[str]:
    if written.delimiter == SPACES:
        return re.split(r" +", line.strip()) if line.strip() else []
    return split_cells(line, dialect)


def _marks(rows: Sequence[Row]) -> list[str]:
    """What comments may begin with here; that of the first row first."""
    # a header cell that is nothing but the sign stands above the numbers of the rows
    some = [
        row
        for row in rows
        if not (len(row.cells) > 1 and row.cells[0].strip() in _COMMENTS and row.cells[1].strip())
    ]
    found = dict.fromkeys(mark for row in some for mark in _COMMENTS if row.start.startswith(mark))
    return list(found)


def _without(mark: str, rows: Sequence[Row]) -> list[Row]:
    return [row for row in rows if not (mark and row.start.startswith(mark))]


def _are_comments(mark: str, shape: Shape, rows: Sequence[Row]) -> bool:
    """Whether rows with a comment mark are comments: none looks like data or units."""
    body = Body([row for row in rows if not row.number or row.number >= max(shape.data_row, 1)], shape.width)
    below = shape.header_row + shape.header_rows if shape.header_row else 1
    marked = [row for row in rows if row.start.startswith(mark) and not 0 < row.number < below]
    rows_below = shape.describing_rows + shape.units_row
    if any(below <= row.number < below + rows_below for row in marked):
        return False
    return not any(body.reads_like_data(row) for row in marked)


def _header_in_comment(shape: Shape, rows: Sequence[Row], comment: str) -> Shape:
    """A header may itself stand behind the sign of a comment, right above the data."""
    if shape.header_row or not comment or not shape.data_row or shape.data_row < 2:
        return shape
    above, data = rows[shape.data_row - 2], rows[shape.data_row - 1]
    if above.cells and above.cells[0].startswith(comment) and len(above.cells) == len(data.cells):
        return replace(shape, header_row=above.number, header_rows=1, units_row=False, describing_rows=0)
    return shape


def _detected(
    encoding: Encoding,
    written: Separated,
    shape: Shape,
    comment: str,
    plain: Sequence[Row],
    others: Sequence[Row],
) -> Detected:
    data = [row for row in plain if shape.data_row and row.number >= shape.data_row]
    some = [*data[:20], *data[20 :: max(1, len(data) // 100)], *others[:100]]
    cells = [cell for row in some for cell in row.cells if "," in cell or "." in cell]
    decimal_mark, thousands_mark = decimal_sign(cells, written.delimiter)
    layout = Layout(
        **places(shape, data),
        comment_mark=comment,
        encoding=encoding.name,
        delimiter=written.delimiter,
        quote=written.quote,
        escape=written.escape,
        decimal_mark=decimal_mark or ".",
        thousands_mark=thousands_mark,
    )
    free = {
        name
        # what is valid UTF-8 is read as that whatever a layout says
        for name, is_free in (("encoding", encoding.name == "utf-8"), ("decimal_mark", not decimal_mark))
        if is_free
    }
    free |= {"first_column", "last_column"}
    if written.quote == '"':
        free.add("quote")
    evidence = [
        f"encoding {encoding.name}: {encoding.evidence}{'' if encoding.certain else ', but this is uncertain'}"
    ]
    evidence += about_header(shape)
    confidence = min(
        1.0, shape.confidence * (1.0 if encoding.certain else 0.8) * min(1.0, 0.5 + written.score)
    )
    doubt = shape.doubt if encoding.certain else UNCLEAR_ENCODING
    return Detected(
        layout, round(confidence, 2), tuple(evidence), frozenset(free), shape.second_table, doubt=doubt
    )


def places(shape: Shape, data: Sequence[Row]) -> dict[str, Any]:
    """The keys of a layout that say where its parts lie."""
    footer = footer_text(shape.footer, data) if shape.footer else ""
    below = next((row for row in data if row.number == shape.second_table), None)
    # another table below ends this one
    second = footer_text(below, data) if below else ""
    return {
        "header_row": shape.header_row or "none",
        "header_rows": shape.header_rows,
        "header_from_column": shape.header_from,
        "units_row": shape.units_row,
        "describing_rows": shape.describing_rows,
        "first_row": shape.data_row if not shape.header_row and shape.data_row > 1 else None,
        "footer_from": [text for text in dict.fromkeys((second, footer)) if text],
    }


def about_header(shape: Shape) -> list[str]:
    """The evidence for a header, when there is one."""
    if not shape.header_row:
        return []
    return [f"header in row {shape.header_row}{f'; {shape.doubt}' if shape.doubt else ''}"]


def is_on_its_side(header: Sequence[str], rows: Sequence[Sequence[str]]) -> bool:
    """Whether rows hold one kind each and columns do not, or the names of variables stand in the first column.

    Examples
    --------
    >>> rows = [["lake", "Amber", "Vessel", "Amber"], ["ph", "7.1", "7.2", "7.0"], ["day", "2024-05-01", "2024-05-02", ""]]
    >>> is_on_its_side(["sample", "S1", "S2", "S3"], rows)
    True
    >>> is_on_its_side(["lake", "ph", "temp"], [["Amber", "7.1", "12"], ["Vessel", "7.2", "11"]])
    False
    """
    rows = [list(row) for row in rows[:_LOOKED_AT] if any(cell.strip() for cell in row)]
    if len(rows) < _LEAST_ROWS or len(header) < _LEAST_COLUMNS:
        return False
    names = [row[0].strip() for row in rows if row]
    if not all(names) or len(set(names)) < len(names) or any(kind_of(name) != "text" for name in names):
        return False
    others = [cell for cell in header[1:] if cell.strip()]
    if 2 * sum(map(is_name, others)) > len(others):
        return False
    kinds = [[kind for cell in row[1:] if (kind := kind_of(cell))] for row in rows]
    pure = [set(some).pop() for some in kinds if len(some) > 1 and len(set(some)) == 1]
    if len(pure) < _PURE * len(rows):
        return False
    named = sum(map(has_name, names)) >= _NAMED * len(names)
    return (len(set(pure)) > 1 and (named or len(set(pure) - {"text"}) > 1 or _alternates(pure))) or (
        named and set(pure) <= {"number"} and not any(map(is_name, others))
    )


def _alternates(kinds: Sequence[str]) -> bool:
    """Whether rows of texts and rows of values alternate."""
    changes = sum(one != other for one, other in pairwise(kinds))
    return changes > 1

"""Which rows at the end of a table are no data, and tables among the rows that are left out."""

from __future__ import annotations

import math
import re
from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Sequence

from integrum.detecting.body import Body, mask_of
from integrum.detecting.headers import has_name, is_name
from integrum.detecting.sample import Row
from integrum.detecting.statistics import Above
from integrum.detecting.vocabulary import NO_NAMES, is_note, is_summary, leading
from integrum.values.cells import is_absent

# this many words make a sentence, where keys have half as many at most
_SENTENCE, _TOLD, _SHORT = 4, 2, 2
_WORD = re.compile(r"[^\W\d_]{2,}|[AaIi](?![^\W_])")
# what a keeper of notes does, which is no name of a place or a thing
_DONE = re.compile(
    r"(signed|signature|checked|printed|generated|exported|created|compiled|approved|prepared|eof|end of)\b",
    re.IGNORECASE,
)
# how likely the last rows of a table would read like statistics of the rows above, and be none
_CHANCE, _TOGETHER = 0.05, 0.2  # several of them are hardly ever data
_RUN = re.compile(r"\d+")
_MARKED = re.compile(r"[*†‡¹²³—(]|--|.*:\s")

# gives the numbers above a row that may be the first of a footer
AboveRow = Callable[[Row], Above]
_LEAST, _PAIRS, _LONGEST = 2, 2, 60


def footer_of(rows: Sequence[Row], body: Body, above: AboveRow) -> Row | None:
    """The index of the first row of the footer; None where there is none.

    It is a note, or a statistic of the rows above it; every row below it is one, too.

    Parameters
    ----------
    rows
        The last rows, blank ones too; the first of them is data.
    body
        What the data is like; it may contain these rows.
    """
    ends = _ends(rows, body)
    if not ends or not any(map(body.reads_like_data, rows)):
        return None
    summing = [row for row, note in ends if not note]
    for at, (row, _) in enumerate(ends):
        left = [one for one, note in ends[at:] if not note]
        if not left:
            return row
        if len(left) == len(summing) and at and ends[at - 1][1]:
            continue  # a note was above it, which changes no number
        numbers = above(row)
        chances = [numbers.chance(one.cells) or 1.0 for one in left]
        if max(chances) < 1 and math.prod(chances) * _TOGETHER ** (len(left) - 1) <= _CHANCE:
            return row
    return None


def _ends(rows: Sequence[Row], body: Body) -> list[tuple[Row, bool]]:
    """The rows at the end that may be a footer, and whether each is a note."""
    keys = [row for row in body.fitting or body.rows if not is_summary(row.first)]
    found: list[tuple[Row, bool]] = []
    for at in range(len(rows) - 1, 0, -1):
        row = rows[at]
        if not row.filled:
            continue
        note = is_note_row(
            row, body, [one for one in keys if one.cells != row.cells], not rows[at - 1].filled
        )
        if not note and not (is_summary(row.first) and not _is_code(row, keys)):
            break
        found.append((row, note))
    return found[::-1]


def _is_code(row: Row, keys: Sequence[Row]) -> bool:
    """Whether the first cell of a row is a code like the other keys."""
    masks = {mask_of(one.first) for one in keys if one.cells != row.cells and one.first}
    return masks == {mask_of(row.first)} and len(row.first) <= _SHORT


def footer_text(footer: Row, data: Sequence[Row]) -> str:
    """The words by which a plan finds a footer; empty when a row of data begins with them, too.

    Examples
    --------
    >>> footer_text(Row(9, ["Total:", "3"]), [Row(8, ["Meander", "3"])])
    'Total'
    >>> footer_text(Row(9, ["A", ""]), [Row(8, ["A", "3"])])
    ''
    """
    until = [row for row in data if not footer.number or row.number < footer.number]
    begin = {text for row in until for text in (row.first, leading(row.first))}
    return next((text for text in (leading(footer.first), footer.first) if text and text not in begin), "")


def is_note_row(row: Row, body: Body, keys: Iterable[Row], apart: bool = False) -> bool:
    """Whether a row is a remark: words alone, unlike the first cells of the rows of data.

    `apart`: whether an empty row stands above it.

    Examples
    --------
    >>> rows = [Row(at, [f"lake {at}", "3.1", "4"]) for at in range(1, 5)]
    >>> body = Body(rows, 3)
    >>> cells = (["Measured with the old probe", "", ""], ["* estimated"], ["lake 5", "", ""], ["lost", "", ""])
    >>> [is_note_row(Row(5, each), body, rows) for each in cells]
    [True, True, False, False]
    """
    first = row.first
    if not _WORD.search(first) or is_absent(first) or first.casefold() in NO_NAMES or row.values[_place(row)]:
        return False
    said = [at for at in body.typed if at < len(row.cells) and row.kinds[at]]
    if any(row.kinds[at] == body.kinds[at] for at in said):
        return False
    place = _place(row)
    typed = place in body.typed
    words = len(_WORD.findall(first))
    others = [one.cells[place].strip() for one in keys if place < len(one.cells)]
    if not typed and _goes_on(first, others):
        return False
    told = is_note(first) and not any(map(is_note, others))
    marked = _MARKED.match(first) is not None and not any(map(_MARKED.match, others))
    if body.width == 1:
        if typed:
            return told or words >= _TOLD
        return told and marked and apart
    if row.filled > 1 and row.fits(body.width):
        return told and marked and not (said and not marked)
    longest = max((len(_WORD.findall(one)) for one in others), default=0)
    is_sentence = words >= _SENTENCE and (typed or 2 * longest <= words)
    if row.filled > 1:
        return told or (is_sentence and not row.fits(body.width))
    if typed:
        return told or words >= _TOLD
    is_done = told and _DONE.match(first) is not None
    return (
        is_done
        or (told and (marked or apart or len(row.cells) == 1))
        or is_sentence
        or (apart and words > _TOLD)
    )


def _place(row: Row) -> int:
    """The position of the first cell with text."""
    return next((at for at, cell in enumerate(row.cells) if cell.strip()), 0)


def _goes_on(first: str, keys: Sequence[str]) -> bool:
    """Whether a key continues a series: it differs from one above in its last word or its digits."""
    shapes = {_RUN.sub("0", key.casefold()) for key in keys}
    begins = {tuple(key.casefold().split()[:-1]) for key in keys} - {()}
    return _RUN.sub("0", first.casefold()) in shapes or tuple(first.casefold().split()[:-1]) in begins


def tables_in(rows: Sequence[Row]) -> Iterator[tuple[Row, Row]]:
    """The header and the last row of each table among some rows; empty ones end a table.

    Examples
    --------
    >>> cells = (["Survey of May", ""], ["lake", "ph"], ["Amber", "7.1"], ["Vessel", "7.2"], ["", ""])
    >>> [(first.number, last.number) for first, last in tables_in([Row(at, one) for at, one in enumerate(cells, 1)])]
    [(2, 4)]
    >>> pairs = (["Site", "Amber"], ["Depth", "2.5"], ["Serial", "1234"])
    >>> list(tables_in([Row(at, one) for at, one in enumerate(pairs, 1)]))
    []
    """
    at = 0
    while at < len(rows) - _LEAST:
        below = _below(rows, at)
        if len(below) >= _LEAST and _is_header(rows[at], below):
            yield rows[at], below[-1]
            at += len(below)
        at += 1


def _written(value: str) -> str:
    """How a value is written: its digits behind the mark, or its mask."""
    whole, mark, rest = value.replace(",", ".").rpartition(".")
    return f"{len(rest)}" if mark and rest.isdecimal() and whole.strip("+-").isdecimal() else mask_of(value)


def are_names(cells: Sequence[str]) -> bool:
    """Whether most of some cells are words that columns are often named by.

    Examples
    --------
    >>> are_names(["lake", "region", "keeper"]), are_names(["Amber", "north", "Ada"])
    (True, False)
    """
    return 2 * sum(map(has_name, cells)) > len(cells)


def _below(rows: Sequence[Row], at: int) -> list[Row]:
    """The rows below a row that are at least as wide."""
    found: list[Row] = []
    for row in rows[at + 1 :]:
        if row.filled < 2 or row.reach > rows[at].reach or row.number != rows[at].number + len(found) + 1:
            break
        found.append(row)
    return found


def _is_header(row: Row, below: Sequence[Row]) -> bool:
    """Whether the cells of a row name the columns below it, of which one at least has numbers or times alone."""
    names = [cell.strip() for cell in row.cells[: row.reach]]
    if row.filled < 2 or any(row.values) or len(set(names)) < len(names):
        return False
    if any(len(name) > _LONGEST or name.endswith((":", "=")) for name in names):
        return False
    kinds = [
        {one.kinds[at] if at < len(one.kinds) else "" for one in below} - {""} for at in range(row.reach)
    ]
    typed = [at for at, some in enumerate(kinds) if some in ({"number"}, {"time"})]
    if not typed:
        return are_names(names)
    if row.reach > _PAIRS:
        full = Counter(one.filled for one in below)
        return max(full) > _PAIRS
    if 0 in typed or all(map(has_name, names)):
        return True
    # a key and its value, line by line, are no table; in a table all values are written alike
    keys = [one.cells[0] for one in below]
    values = [one.cells[1].strip() for one in below if len(one.cells) > 1]
    return 2 * sum(map(is_name, keys)) < len(keys) and len({_written(value) for value in values}) == 1

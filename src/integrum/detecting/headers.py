"""How much a row reads like a header, a row of units, or one that describes the columns."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise
from typing import Literal

from integrum.detecting import body as costs
from integrum.detecting.body import Body, mask_of
from integrum.detecting.sample import Row
from integrum.detecting.vocabulary import HEADER_WORDS, NO_NAMES, PROCESSING
from integrum.values.cells import is_increasing, is_series, kind_of
from integrum.values.units import in_name, is_unit

_PART = re.compile(r"[^\W\d_]+")
_LONG = 60
# this many of the cells of a header are different
_OWN = 0.6
# a key and what it says are no name
_PAIR, _PAIRED = re.compile(r"\S\s*[:=]\s+\S"), 1.5
# groups of columns have this few words, and stand over this many columns
_GROUP_WORDS, _LEAST_GROUPED = 2, 3
# this many numbers may be the names of columns; this many of them have to be away from this many values below
_LEAST_PLACES, _AWAY, _LEAST_BELOW, _LOOKED_AT = 2, 0.6, 2, 50
_DIGITS = re.compile(r"\d")
_SIGNS = frozenset({"-", "–", "--", "n/a", "none", "na"})
# what loggers write below the names of their clock and their counter
_NEUTRAL = frozenset({"ts", "rn", "date", "time", "text", "number", "no.", "iso"})
_SHARE = 0.6
_LONGEST = 24
# a value in brackets, such as a loss "(2.34)" or "(<5)"
_VALUE = re.compile(r"\s*[<>≤≥~±+-]?\s*[\d.,]+\s*%?\s*$")
Kind = Literal["units", "processing", "other", ""]
_MOST = 4
# what a row of kinds of processing speaks for it, and any other between known ones
_PROCESSING, _OTHER = 2.0, 0.3


def header_score(cells: list[str], body: Body) -> float:
    """How much some cells look like the names of the columns of a body; positive if they do.

    Examples
    --------
    >>> body = Body([Row(2, ["A", "3.1"]), Row(3, ["B", "3.2"])], 2)
    >>> header_score(["site", "temp"], body) > 0 > header_score(["C", "3.0"], body)
    True
    """
    said = [cell.strip() for cell in cells]
    names = [cell for cell in said if cell]
    score = 1.0 - 0.5 * sum(count - 1 for count in Counter(names).values())
    series = _series(said, body)
    own_word = any(
        body.kinds[at] == "boolean" and cell and cell not in body.texts(at)
        for at, cell in enumerate(said[: body.width])
    )
    for at, cell in enumerate(said[: body.width]):
        score += _cell_score(at, cell, body, at in series)
    score -= sum(1.0 for cell in names if len(cell) > _LONG)
    score -= sum(1.0 for cell in names if cell.endswith(":"))
    score -= _PAIRED * (len(names) == 1 and _PAIR.search(names[0]) is not None)
    if len(names) == 1 and body.width > 1 and not (body.width == 2 and said[1] and body.present[0]):
        score -= 3.0
    score -= sum(2.5 for cell in names if cell.casefold() in NO_NAMES)
    if body.rows and not series and not own_word and body.reads_like_data(Row(0, said)):
        score -= costs.DROPPED_DATA / 4 if body.typed else 0.0
    return score


def _series(said: list[str], body: Body) -> set[int]:
    """Positions of cells that are years or depths side by side, and so may be names."""
    at = [at for at, cell in enumerate(said[: body.width]) if kind_of(cell) == "number"]
    numbers = [said[each] for each in at]
    if any(_is_like_its_column(each, cell, body) for each, cell in enumerate(said[: body.width])):
        return set()
    beside_index = len(at) == body.width - 1 and not said[0] and bool(body.present[0])
    if is_series(numbers) or (beside_index and is_increasing(numbers)) or are_places(at, said, body):
        return set(at)
    return set()


def _is_like_its_column(at: int, cell: str, body: Body) -> bool:
    """Whether a short text or a code is like all those of its column, so that the row is one of the data."""
    if body.kinds[at] != "text" or not cell or has_name(cell):
        return False
    return body.codes.get(at) == mask_of(cell)


def are_places(at: Sequence[int], said: Sequence[str], body: Body) -> bool:
    """Whether numbers are depths, wavelengths or plots that columns are named by: unlike the numbers below them.

    They differ, go up or are far from their columns, and a name stands beside them or none is a value of its column.
    """
    try:
        numbers = [float(said[each]) for each in at]
    except ValueError:
        return False
    if len(numbers) < _LEAST_PLACES or len(set(numbers)) < len(numbers) or not body.fitting:
        return False
    if any(body.kinds[each] not in ("number", "") for each in at):
        return False
    named = any(
        has_name(cell) or (body.kinds[each] in ("time", "number") and kind_of(cell) == "text")
        for each, cell in enumerate(said[: body.width])
        if cell and each not in at
    )
    away = sum(_is_away(number, each, body) for number, each in zip(numbers, at, strict=True))
    if away >= _AWAY * len(at) and (named or len(at) == body.width):
        return True
    goes_up = numbers == sorted(numbers)
    rows = [[row.plain[each] for each in at] for row in body.fitting[:_LOOKED_AT]]
    return goes_up and named and not any(is_increasing(row) for row in rows)


def _is_away(number: float, at: int, body: Body) -> bool:
    """Whether a number lies outside the range of its column by more than that range."""
    below = []
    for row in body.fitting[:_LOOKED_AT]:
        try:
            below.append(float(row.cells[at]))
        except ValueError:
            continue
    if len(below) < _LEAST_BELOW:
        return False
    least, greatest = min(below), max(below)
    gap = max(greatest - least, abs(greatest) * 1e-3)
    return number < least - gap or number > greatest + gap


def _cell_score(at: int, cell: str, body: Body, in_series: bool) -> float:
    kind, here = body.kinds[at], body.present[at]
    if not cell:
        return -(costs.NAMELESS_FIRST if at == 0 else costs.NAMELESS) if here else 0.0
    score = 0.6 * _has_header_word(cell) + 1.0 * bool(in_name(cell)[1])
    own = kind_of(cell)
    if not body.rows:
        return score + (0.5 if own == "text" else 0.0 if in_series else -1.6)
    if kind == "":
        return score + (0.2 if own == "text" else -0.3)
    if kind != "text":
        sure = min(1.0, 0.5 + 0.25 * here)
        if own == kind == "boolean" and cell not in body.texts(at):
            return score + sure
        if own == kind:
            return score + (0.0 if in_series else -3.0 * sure)
        if own == "number" and not in_series:  # days stand below names, and seldom below numbers
            return score - 1.0
        return score + (2.0 * sure if own in ("text", "boolean") else 0.5 if own else -0.5)
    texts = body.texts(at)
    if cell in texts:
        return score - 2.0
    if own in ("number", "time") and not in_series:
        return score - 0.5
    if _DIGITS.search(cell) and _has_mask(mask_of(cell), texts):
        return score - 1.5
    return score + 0.3


def _has_mask(mask: str, texts: Iterable[str]) -> bool:
    """Whether some of these texts have digits and letters in the same places."""
    return any(len(text) == len(mask) and mask_of(text) == mask for text in texts)


def has_name(cell: str) -> bool:
    """Whether a cell has a word that columns are often named by, or a unit."""
    return _has_header_word(cell) or bool(in_name(cell)[1])


@lru_cache(1 << 12)
def _has_header_word(cell: str) -> bool:
    return any(word.lower() in HEADER_WORDS for word in _PART.findall(cell))


def is_full_of_words(row: Row, width: int) -> bool:
    """Whether every column has a word in a row, most their own, as in a header; two columns may be a key and its value."""
    words = {cell.strip() for cell in row.cells}
    full = width > 2 and row.filled == width and len(words) >= _OWN * width
    return full and set(row.kinds) == {"text"}


def is_name(cell: str) -> bool:
    """Whether a whole cell is a word that columns are often named by."""
    return cell.strip().casefold() in HEADER_WORDS


def _spans(names: list[str]) -> bool:
    """Whether a cell names several columns: an empty cell or the same text follows it."""
    return any(cell and after in ("", cell) for cell, after in pairwise(names))


def is_group_row(row: Row, below: Row, body: Body) -> bool:
    """Whether a row right above a header names groups of its columns: some cells of it are empty, or repeated.

    `below`: the header that it stands over. Numbers, such as years, are groups where names come again below them; a title
    with a note beside it is none.

    Examples
    --------
    >>> body = Body([Row(3, ["Amber", "12", "7.1", "13", "7.2"])], 5)
    >>> below = Row(2, ["lake", "temp", "ph", "temp", "ph"])
    >>> is_group_row(Row(1, ["", "2022", "", "2023", ""]), below, body)
    True
    >>> is_group_row(Row(1, ["Survey of May", "", "", "", "draft"]), Row(2, ["lake", "temp", "ph", "wind", "note"]), body)
    False
    """
    names = [cell.strip() for cell in row.cells[: body.width]]
    under = [cell.strip().casefold() for cell in below.cells[: body.width]]
    again = len({name for name in under if name}) < sum(map(bool, under))
    least = body.width - 1 if again or not names[:1] or not names[0] else body.width
    if row.reach > body.width or len(row.cells) < least:
        return False
    names += [""] * (body.width - len(names))
    filled = [cell for cell in names if cell]
    if body.width < _LEAST_GROUPED or len(filled) < 2 or not _spans(names) or not any(names[2:]):
        return False
    if any(cell.endswith((":", "=")) for cell in filled):
        return False
    if any(row.values):
        return again and all(kind in ("number", "text", "") for kind in row.kinds)
    if again or not names[0]:
        return True
    starts = [at for at, cell in enumerate(names) if cell and (at == 0 or names[at - 1] != cell)]
    spans = [end - start for start, end in pairwise([*starts, body.width])]
    short = all(len(cell.split()) <= _GROUP_WORDS for cell in filled)
    return short and min(spans) > 1


def unit_score(row: Row, body: Body) -> float:
    """How much a row reads like the units of a body; 0 when it does not: known ones, over numbers, not found again below.

    Examples
    --------
    >>> body = Body([Row(3, ["A", "3.1", "7"]), Row(4, ["B", "3.2", "8"])], 3)
    >>> unit_score(Row(2, ["", "kg", "litres"]), body)
    2.0
    >>> people = Body([Row(3, ["y", "f", "s"]), Row(4, ["z", "m", "t"])], 3)
    >>> unit_score(Row(2, ["x", "m", "s"]), people)
    0.0
    """
    if row.reach > body.width or not body.rows:
        return 0.0
    said, units = _units_in(row)
    if not units:
        return 0.0
    if any(row.kinds[at] not in ("text", "") for at in said if at not in units):
        return 0.0
    real = [at for at in units if said[at].lower() not in _SIGNS]
    if any(said[at] in body.texts(at) for at in said if at not in units or at in real):
        return 0.0
    if all(is_name(said[at]) for at in real):
        return 0.0
    over_values = sum(body.kinds[at] not in ("text", "") for at in real)
    over_texts = sum(body.kinds[at] == "text" for at in real)
    bracketed = any(_is_bracketed(said[at]) for at in real)
    if (over_values > 0 and over_values >= over_texts) or (bracketed and not body.typed):
        return 1.0 + 0.5 * min(len(real), 3)
    return 0.0


@lru_cache(64)
def _units_in(row: Row) -> tuple[dict[int, str], list[int]]:
    """The cells of a row with text, and where units stand; none where most are something else."""
    said = {at: cell for at, cell in enumerate(row.plain) if cell}
    units = [at for at, cell in said.items() if is_unit(cell) or _is_bracketed(cell)]
    neutral = sum(cell.casefold() in _NEUTRAL for cell in said.values())
    return said, units if len(units) >= _SHARE * (len(said) - neutral) else []


def _is_bracketed(cell: str) -> bool:
    return cell[:1] + cell[-1:] in ("[]", "()") and 2 < len(cell) <= _LONGEST and not _VALUE.match(cell[1:-1])


@dataclass(frozen=True)
class Described:
    """Some rows right below a header."""

    rows: int = 0
    units: bool = False  # whether one of them gives the units
    score: float = 0.0  # how much they read so

    @property
    def describing(self) -> int:
        """How many of them do not give the units."""
        return self.rows - int(self.units)


def described_below(rows: Sequence[Row], body_below: Callable[[int], Body]) -> Iterator[Described]:
    """The ways to take the first of some rows for a description of the columns.

    Parameters
    ----------
    rows
        The rows right below a header, without a blank one between them.
    body_below
        Gives the data, if it begins below so many of them.
    """
    # an odd row alone may be a row of data in which nothing could be measured; a known one goes before it
    if not rows or not (are_processing(rows[0]) or any(is_unit(cell) for cell in rows[0].plain if cell)):
        return
    for count in range(1, min(len(rows), _MOST) + 1):
        body = body_below(count)
        kinds, scores = zip(*(_kind(row, body) for row in rows[:count]), strict=True)
        if all(kinds) and kinds[0] != "other" and kinds.count("units") < 2:
            yield Described(count, "units" in kinds, sum(scores))


def are_processing(row: Row) -> bool:
    """Whether all cells of a row are words for what a logger does with its readings.

    Examples
    --------
    >>> are_processing(Row(4, ["", "", "Avg", "Max"])), are_processing(Row(4, ["", "low", "Avg"]))
    (True, False)
    """
    return row.filled > 0 and all(cell.casefold() in PROCESSING for cell in row.plain if cell)


def _kind(row: Row, body: Body) -> tuple[Kind, float]:
    units = unit_score(row, body)
    if units:
        return "units", units
    if not body.rows or row.reach > body.width:
        return "", 0.0
    if are_processing(row) and not _is_keyed(row, body):
        words = {cell for cell in row.plain if cell}
        there = any(words & body.texts(at) for at in range(body.width))
        return ("", 0.0) if there else ("processing", _PROCESSING)
    return ("other", _OTHER) if _is_odd(row, body) else ("", 0.0)


def _is_keyed(row: Row, body: Body) -> bool:
    """Whether a row has a value where the key of the data stands."""
    return bool(body.kinds) and body.kinds[0] in ("time", "number") and row.kinds[:1] == (body.kinds[0],)


def _is_odd(row: Row, body: Body) -> bool:
    """Whether a row has different words in columns of values, and no key."""
    if body.names_columns(row):
        return True
    is_keyless = not row.plain[0] or (0 in body.typed and row.kinds[0] == "text")
    if not is_keyless or any(row.values):
        return False
    over = [at for at in body.typed if at < len(row.cells) and row.plain[at]]
    words = {row.plain[at] for at in over}
    return len(over) > 1 and len(words) > 1 and all(row.kinds[at] == "text" for at in over)

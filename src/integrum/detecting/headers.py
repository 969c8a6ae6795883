"""How much a row reads like the header of some data."""

from __future__ import annotations

import re
from collections import Counter
from itertools import pairwise

from integrum.detecting import costs
from integrum.detecting.body import Body
from integrum.detecting.rows import Row
from integrum.detecting.vocabulary import HEADER_WORDS, NO_NAMES
from integrum.values.cells import is_increasing, is_series, kind_of
from integrum.values.units import in_name

_PART = re.compile(r"[^\W\d_]+")
_LONG = 60
_DIGITS, _LETTERS = re.compile(r"\d"), re.compile(r"[^\W\d_]")


def header_score(cells: list[str], body: Body) -> float:
    """How much some cells read like the names of the columns of a body: above 0 they do.

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
    beside_index = len(at) == body.width - 1 and not said[0] and bool(body.present[0])
    return set(at) if is_series(numbers) or (beside_index and is_increasing(numbers)) else set()


def _cell_score(at: int, cell: str, body: Body, in_series: bool) -> float:
    kind, here = body.kinds[at], body.present[at]
    if not cell:
        return -(costs.NAMELESS_FIRST if at == 0 else costs.NAMELESS) if here else 0.0
    score = 0.6 * any(word.lower() in HEADER_WORDS for word in _PART.findall(cell)) + 1.0 * bool(
        in_name(cell)[1]
    )
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
        return score + (2.0 * sure if own in ("text", "boolean") else 0.5 if own else -0.5)
    texts = body.texts(at)
    if cell in texts:
        return score - 2.0
    if own in ("number", "time") and not in_series:
        return score - 0.5
    if _DIGITS.search(cell) and _mask(cell) in {_mask(text) for text in texts if text}:
        return score - 1.5
    return score + 0.3


def _mask(text: str) -> str:
    """A text with all digits alike, and all letters: codes of one kind have one mask."""
    return _LETTERS.sub("a", _DIGITS.sub("0", text))


def is_name(cell: str) -> bool:
    """Whether a whole cell is a word that columns are often named by."""
    return cell.strip().casefold() in HEADER_WORDS


def _spans(names: list[str]) -> bool:
    """Whether some cell stands over more than its own column: an empty one follows it, or the same again."""
    return any(cell and after in ("", cell) for cell, after in pairwise(names))


def is_group_row(row: Row, body: Body) -> bool:
    """Whether a row right above a header names groups of its columns: some cells of it are empty, or repeated."""
    if not row.fits(body.width) and not (row.reach <= body.width and len(row.cells) >= body.width):
        return False
    names = [cell.strip() for cell in row.cells[: body.width]]
    filled = [cell for cell in names if cell]
    if body.width < 3 or len(filled) < 2 or not _spans(names):
        return False
    if any(row.values) or any(cell.endswith((":", "=")) for cell in filled):
        return False
    return any(names[2:])
